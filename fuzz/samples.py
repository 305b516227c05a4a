"""One small good file of each format, to be damaged."""

from __future__ import annotations

import base64
import json
from pathlib import Path

from tests.test_cad import BOX, BOX_FACES, binary_stl
from tests.test_mesh_formats import DAE, OBJ_FACES, OBJ_POINTS, OFF, PLY, glb, gltf, three_mf
from tests.test_urdf import ARM

from mooring.demo import LINE_TENDER


def samples() -> dict[str, bytes]:
    """A good file of each format, by suffix."""
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
        ".yaml": LINE_TENDER.document.read_bytes(),
        ".urdf": ARM.encode(),
    }
