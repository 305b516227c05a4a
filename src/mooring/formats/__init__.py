"""Files in, files out."""

from mooring.formats.suffixes import READABLE, WRITABLE, read, read_scene, write, write_scene

__all__ = ["READABLE", "WRITABLE", "read", "read_scene", "write", "write_scene"]
