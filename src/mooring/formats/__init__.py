"""Files in, files out."""

from mooring.formats.door import READABLE, WRITABLE, read, read_scene, write

__all__ = ["READABLE", "WRITABLE", "read", "read_scene", "write"]
