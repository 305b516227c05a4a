"""One small good file of each format, to be damaged."""

from __future__ import annotations

import base64
import json
from pathlib import Path

from tests.test_cad import BOX, BOX_FACES, binary_stl
from tests.test_mesh_formats import DAE, OBJ_FACES, OBJ_POINTS, OFF, PLY, glb, gltf, three_mf
from tests.test_urdf import ARM

from mooring import read
from mooring.demo import DRUM_CART, LINE_TENDER

MORE = """
values: {reach: 820 mm, half: "=reach / 2 + 5 mm", lean: "=atan2(half, 1 m)"}
collision: {"*_jaw": {fit: pieces, pieces: 3}, "*": auto}
frames:
  grip: {link: clamp, role: tool, xyz: [0, 0, "=half"]}
  top: {link: mast, at: {face: column, toward: z}}
chains:
  arm: {base: jib, convention: standard, rows: [{d: 300 mm, alpha: 90 deg}, {a: "=half"}]}
sensors:
  tip: {kind: imu, frame: grip, rate: 200 Hz}
  eye: {kind: camera, link: boom, rate: 15 Hz, field: 70 deg, size: [640, 480]}
"""
"""Sections that the demo's document does not have."""


def samples(folder: Path) -> dict[str, bytes]:
    """A good file of each format, by suffix; what has to be written first is, into a folder."""
    arm = folder / "arm.urdf"
    arm.write_text(ARM)
    read(arm).write(folder / "arm.json")
    numbers = BOX.astype("<f4").tobytes() + BOX_FACES.astype("<u2").tobytes()
    inside = "data:application/octet-stream;base64," + base64.b64encode(numbers).decode()
    tree = gltf(buffers=[{"byteLength": len(numbers), "uri": inside}])
    return {
        ".step": Path(__file__).with_name("pair.step").read_bytes(),
        ".stl": binary_stl(BOX[BOX_FACES]),
        ".obj": f"o crate\n{OBJ_POINTS}{OBJ_FACES}".encode(),
        ".ply": PLY.encode(),
        ".off": OFF.encode(),
        ".glb": glb(),
        ".gltf": json.dumps(tree).encode(),
        ".dae": DAE.encode(),
        ".3mf": three_mf(),
        ".yaml": LINE_TENDER.document.read_bytes() + MORE.encode(),
        ".urdf": ARM.encode(),
        ".json": (folder / "arm.json").read_bytes(),
        ".scene.yaml": DRUM_CART.document.with_name("quay.yaml").read_bytes(),
    }
