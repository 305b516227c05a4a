"""What is looked at before a mesh file is handed to a parser.

Parsers believe what a file says of itself; here its size and its first bytes are held against that.
"""

from __future__ import annotations

import json
import re
import zipfile
from pathlib import Path

from mooring.errors import InputError

LARGEST_FILE = 2**30
"""[bytes]"""
LARGEST_UNPACKED = 2**30
"""[bytes] of everything inside a packed file."""

_PLY_SIZES = {
    b"char": 1, b"int8": 1, b"uchar": 1, b"uint8": 1, b"short": 2, b"int16": 2, b"ushort": 2,
    b"uint16": 2, b"int": 4, b"int32": 4, b"uint": 4, b"uint32": 4, b"float": 4, b"float32": 4,
    b"double": 8, b"float64": 8,
}  # fmt: skip
_PACKED = ("KHR_draco_mesh_compression", "EXT_meshopt_compression")


def refuse_impossible(file: Path, suffix: str) -> None:
    """Refuse a file that cannot be what its suffix says.

    Raises:
        InputError: empty, too large, of another format, or promising more than it holds.
    """
    size = file.stat().st_size
    if size > LARGEST_FILE:
        raise InputError(f"{file}: larger than {LARGEST_FILE >> 30} GiB")
    with file.open("rb") as stream:
        start = stream.read(65536)
    if not start.strip():
        raise InputError(f"{file}: the file is empty")
    guard = _GUARDS.get(suffix)
    if guard is not None:
        guard(file, start, size)


def _stl(file: Path, start: bytes, size: int) -> None:
    # A binary file's header may begin with "solid" too: the count decides.
    claimed = int.from_bytes(start[80:84], "little")
    if len(start) >= 84 and claimed * 50 + 84 == size:
        return
    if start.lstrip()[:5].lower() == b"solid":
        return
    held = max(0, size - 84) // 50
    if len(start) < 84 or claimed > held:
        raise InputError(
            f"{file}: the STL header promises {claimed} triangles but the file holds {held}; "
            "it is cut off or not an STL file"
        )


def _ply(file: Path, start: bytes, size: int) -> None:
    if not start.startswith(b"ply"):
        raise InputError(f"{file}: not a PLY file; it does not begin with 'ply'")
    header, found, _ = start.partition(b"end_header")
    if not found:
        raise InputError(f"{file}: the PLY header has no end; the file is cut off")
    faces = re.search(rb"element\s+face\s+(\d+)", header)
    if faces is None or int(faces[1]) == 0:
        raise InputError(f"{file}: holds points and no triangles; a point cloud has no surface")
    least = 0
    for element in re.split(rb"^\s*element\s+", header, flags=re.MULTILINE)[1:]:
        _, count, *rest = element.split(None, 2)
        if not count.isdigit():
            raise InputError(f"{file}: the PLY header's count {count!r} is no number")
        kinds = re.findall(rb"property\s+(\w+)\s+\w+", rest[0] if rest else b"")
        # In text every value takes at least a digit and a space.
        text = b"format ascii" in header
        row = sum(2 if text else _PLY_SIZES.get(kind, 1) for kind in kinds)
        least += int(count) * max(1, row)
    if least > size:
        raise InputError(
            f"{file}: the PLY header promises at least {least} bytes but the file has {size}; "
            "it is cut off or damaged"
        )


def _off(file: Path, start: bytes, size: int) -> None:
    words = re.sub(rb"#[^\n]*", b"", start).split(None, 4)
    if not words or not words[0].upper().endswith(b"OFF"):
        raise InputError(f"{file}: not an OFF file; it does not begin with 'OFF'")
    counts = words[1:3]
    if len(counts) < 2 or not all(count.isdigit() for count in counts):
        raise InputError(f"{file}: the OFF header has no counts")
    vertices, faces = (int(count) for count in counts)
    if faces == 0:
        raise InputError(f"{file}: holds points and no triangles; a point cloud has no surface")
    if 2 * (3 * vertices + 4 * faces) > size + 64:
        raise InputError(
            f"{file}: the OFF header promises {vertices} points and {faces} faces, more than a "
            f"file of {size} bytes can hold"
        )


def _glb(file: Path, start: bytes, size: int) -> None:
    if start[:4] != b"glTF":
        raise InputError(f"{file}: not a binary glTF file; it does not begin with 'glTF'")
    claimed = int.from_bytes(start[8:12], "little")
    if claimed > size:
        raise InputError(
            f"{file}: the header promises {claimed} bytes but the file has {size}; it is cut off"
        )

    length = int.from_bytes(start[12:16], "little")
    # Version 2 begins with its JSON; version 1, which no reader here takes, has another layout.
    if int.from_bytes(start[4:8], "little") == 2 and length <= size:
        with file.open("rb") as stream:
            stream.seek(20)
            _required_extensions(file, stream.read(length))


def _gltf(file: Path, _start: bytes, _size: int) -> None:
    _required_extensions(file, file.read_bytes())


def _required_extensions(file: Path, text: bytes) -> None:
    """Refuse a glTF file whose triangles cannot be read without an extension."""
    try:
        tree = json.loads(text)
    except ValueError:
        return  # the parser says what is wrong with it
    required = tree.get("extensionsRequired") if isinstance(tree, dict) else None
    packed = [name for name in required or () if str(name) in _PACKED]
    if packed:
        raise InputError(
            f"{file}: its triangles are packed with {packed[0]}, which is not read; export it "
            "without compression"
        )


def _xml(file: Path, start: bytes, _: int) -> None:
    text = start.replace(b"\x00", b"")
    if not text.lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n").startswith(b"<"):
        raise InputError(f"{file}: not an XML file")
    if b"<!DOCTYPE" in text or b"<!ENTITY" in text:
        raise InputError(f"{file}: document types and entities are refused")


def _zip(file: Path, _start: bytes, _size: int) -> None:
    try:
        with zipfile.ZipFile(file) as archive:
            unpacked = sum(member.file_size for member in archive.infolist())
            names = archive.namelist()
            models = [name for name in names if name.lower().endswith(".model")]
            if unpacked > LARGEST_UNPACKED:
                raise InputError(f"{file}: unpacks to more than {LARGEST_UNPACKED >> 30} GiB")
            for name in models:
                with archive.open(name) as model:
                    _xml(file, model.read(65536), 0)
    except InputError:
        raise
    except Exception as error:  # damaged archives make zipfile and zlib raise many kinds
        raise InputError(f"{file}: not a 3MF file; it cannot be unpacked ({error})") from None
    if not models:
        raise InputError(f"{file}: not a 3MF file; there is no model inside")


_GUARDS = {
    ".stl": _stl,
    ".ply": _ply,
    ".off": _off,
    ".glb": _glb,
    ".gltf": _gltf,
    ".dae": _xml,
    ".3mf": _zip,
}
