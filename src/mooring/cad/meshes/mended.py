"""Small damage to STL files that does not touch their triangles."""

from __future__ import annotations

from pathlib import Path


def mended_stl(file: Path) -> tuple[bytes, str]:
    """An STL file's bytes as a parser takes them, and what was done; empty where nothing was."""
    data = file.read_bytes()
    count = int.from_bytes(data[80:84], "little")
    whole = 84 + 50 * count
    if data.lstrip()[:5].lower() != b"solid" and 84 < whole < len(data):
        return data[:whole], f"{len(data) - whole} bytes behind the last triangle were ignored"
    text = data.lstrip()[:5].lower() == b"solid" and whole != len(data)
    if text and b"facet" in data and b"endsolid" not in data.lower():
        return data.rstrip() + b"\nendsolid\n", "the last line, endsolid, is missing"
    return data, ""
