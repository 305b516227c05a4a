"""Files in, files out."""

from mooring.formats.door import READABLE, WRITABLE, read, write

__all__ = ["READABLE", "WRITABLE", "read", "write"]
