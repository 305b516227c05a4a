"""Reading mesh files (the extra `meshes`)."""

from mooring.cad.meshes.read import MESH_SUFFIXES, companions, read_meshes

__all__ = ["MESH_SUFFIXES", "companions", "read_meshes"]
