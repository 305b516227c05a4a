"""The shapes of URDF: what stands in `<visual>` and `<collision>`."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from urllib.parse import urlparse

import numpy as np
from lxml import etree

from mooring.cad import Mesh, read_cad
from mooring.cad.assembly.flatten import one_mesh
from mooring.cad.meshes.conventions import UNITLESS
from mooring.errors import InputError, did_you_mean
from mooring.formats.mesh_files import mesh_file
from mooring.formats.urdf.finding import in_another_case, is_file, same_case, tries
from mooring.formats.urdf.told import Item, Told, UnreadableError, child, numbers, required
from mooring.formats.urdf.vocabulary import vendor_parts
from mooring.model import Box, Capsule, Cylinder, MeshShape, PlacedShape, Placement, Sphere
from mooring.model.shapes import Shape


@dataclass(frozen=True)
class Look:
    """What a `<material>` says."""

    color: str | None = None
    opacity: float = 1.0
    texture: str = ""


class ShapeReader:
    """Reads shapes, their colors and their meshes.

    Args:
        told: what it tells goes there.
        search: folders to look for meshes in, before those near the file.
    """

    def __init__(self, told: Told, search: Sequence[Path]) -> None:
        self.told = told
        self.search = search
        self.looks: dict[str, Look] = {}
        self.meshes: dict[Path, Mesh | str] = {}

    def material(self, element: etree._Element) -> None:
        """Remember a material that has a name."""
        name = element.get("name")
        look = self._look(element)
        if name and look is not None:
            self.looks[name] = look

    def shape(self, element: etree._Element, item: Item) -> PlacedShape | None:
        """A shape at its place; None where it cannot be made, which is told."""
        path = (str(item[0]).removesuffix("s"), str(element.tag))
        try:
            geometry = child(element, "geometry")
            inner = next((e for e in geometry if isinstance(e.tag, str)), None)
            if inner is None:
                raise UnreadableError(geometry, "<geometry> is empty", "element-missing")
            shape = self._geometry(inner, item)
        except UnreadableError as error:
            self.told.unreadable(error, item, f"the <{element.tag}> is kept as it is, and not used")
            return None
        if shape is None:
            return None
        name, look = self._finish(element, item)
        return PlacedShape(
            shape, Placement(self.told.origin(element, item)), element.get("name", ""),
            look.color, look.opacity, name, look.texture, vendor_parts(element, path),
        )  # fmt: skip

    def _geometry(self, element: etree._Element, item: Item) -> Shape | None:
        if element.tag == "mesh":
            return self._mesh(element, item)
        if element.tag == "box":
            x, y, z = _positive(element, "size", 3)
            return Box((x, y, z))
        if element.tag == "sphere":
            return Sphere(*_positive(element, "radius", 1))
        if element.tag in ("cylinder", "capsule"):
            sizes = (*_positive(element, "radius", 1), *_positive(element, "length", 1))
            if element.tag == "cylinder":
                return Cylinder(*sizes)
            self.told.note(
                element, "a <capsule> is no geometry of URDF 1.0; many programs leave it out",
                code="not-standard", item=item,
                remedy="make it a cylinder with two spheres, or a mesh, for those",
            )  # fmt: skip
            return Capsule(*sizes)
        known = ["box", "cylinder", "sphere", "capsule", "mesh"]
        hint = did_you_mean(str(element.tag), known)
        raise UnreadableError(element, f"URDF has no geometry <{element.tag}>{hint}")

    # Meshes.

    def _mesh(self, element: etree._Element, item: Item) -> MeshShape | None:
        filename = required(element, "filename")
        scale = [1.0, 1.0, 1.0]
        if (element.get("scale") or "").strip():
            scale = numbers(element, "scale", 3)
            if min(map(abs, scale)) == 0:
                text = f"<mesh> scale={element.get('scale')!r} leaves nothing of it"
                raise UnreadableError(element, text, "size-not-positive")
        path = self._find(filename)
        if path is None:
            self.told.note(
                element, f"the mesh {filename} is not there{self._like(filename)}",
                code="mesh-missing", item=item,
                remedy="put it there, or say where to look for meshes: --search FOLDER",
            )  # fmt: skip
            return None
        if not same_case(path, filename):
            self.told.note(
                element,
                f"the mesh {filename} is written {path.name} on disk, in another case",
                code="not-standard",
                item=item,
                remedy="write it as it is on disk: elsewhere it would not be found",
            )
        mesh = self._read(path)
        if isinstance(mesh, str):
            text = f"the mesh cannot be read: {mesh}"
            self.told.note(
                element, text, code="mesh-missing", item=item, remedy="mend or replace the file"
            )
            return None
        if min(scale) < 0 and float(np.prod(scale)) < 0:
            self.told.note(
                element,
                f"scale={element.get('scale')!r} mirrors the mesh, which many programs show inside "
                "out",
                code="not-standard", item=item, remedy="mirror the mesh in its file",
            )  # fmt: skip
        address = filename if urlparse(filename).scheme else ""
        origin = mesh_file(path, address=address, scale=scale)
        plain = scale == [1.0, 1.0, 1.0]
        return MeshShape(mesh if plain else mesh.scaled(scale), path.stem, origin)

    def _read(self, path: Path) -> Mesh | str:
        if path not in self.meshes:
            try:
                unit = "m" if path.suffix.lower() in UNITLESS else None
                self.meshes[path] = one_mesh(read_cad(path, unit=unit))
            except InputError as error:
                self.meshes[path] = str(error)
        return self.meshes[path]

    def _find(self, filename: str) -> Path | None:
        """A mesh that is named, also in another case."""
        places = tries(filename, self.told.file, self.search)
        exact = next((path for path in places if is_file(path)), None)
        return exact or next((p for path in places if (p := in_another_case(path))), None)

    def _like(self, filename: str) -> str:
        """A file of a like name where it should be."""
        for path in tries(filename, self.told.file, self.search):
            if path.parent.is_dir():
                others = [one.name for one in path.parent.iterdir() if one.is_file()]
                hint = did_you_mean(path.name, others)
                return hint if "did you mean" in hint else ""
        return ""

    # Colors.

    def _finish(self, element: etree._Element, item: Item) -> tuple[str, Look]:
        material = element.find("material")
        if material is None:
            return "", Look()
        name = material.get("name", "")
        look = self._look(material)
        if look is not None:
            if name:
                self.looks.setdefault(name, look)
            return name, look
        if name and name not in self.looks:
            hint = did_you_mean(name, list(self.looks))
            self.told.note(
                material, f"no <material> is called {name!r}{hint}", code="material-undefined",
                item=item, remedy="define it at the top of the file, or give the color here",
            )  # fmt: skip
        return name, self.looks.get(name, Look())

    def _look(self, element: etree._Element) -> Look | None:
        color, texture = element.find("color"), element.find("texture")
        if color is None and texture is None:
            return None
        picture = "" if texture is None else texture.get("filename", "")
        if color is None:
            return Look(texture=picture)
        try:
            rgba = numbers(color, "rgba", 4)
        except UnreadableError as error:
            self.told.unreadable(error, (), "it has no color")
            return Look(texture=picture)
        if min(rgba) < 0 or max(rgba) > 1:
            self.told.note(
                color, f"rgba={color.get('rgba')!r} is not within 0 and 1",
                code="value-unreadable",
                remedy="write shares: 255 is 1",
            )  # fmt: skip
            if max(rgba) > 1:
                rgba = [value / 255 for value in rgba[:3]] + [1.0 if rgba[3] >= 1 else rgba[3]]
            rgba = [min(max(value, 0.0), 1.0) for value in rgba]
        text = "#" + "".join(f"{round(255 * value):02x}" for value in rgba[:3])
        return Look(text, rgba[3], picture)


def _positive(element: etree._Element, key: str, count: int) -> list[float]:
    values = numbers(element, key, count)
    if min(values) <= 0:
        raise UnreadableError(
            element, f"the {key} of a {element.tag} cannot be {element.get(key)}",
            "size-not-positive",
        )  # fmt: skip
    return values
