"""Shafts, bearings and gears."""

from __future__ import annotations

import math
from typing import Any

from mooring.demo.modelling import ball
from tests.machines.kit import BRASS, Machine, box, cut, fuse, gear, rod, screw, tube


def torus(axis: str, radius: float, small: float, at: float) -> Any:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus
    from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt

    way = {"x": (1, 0, 0), "y": (0, 1, 0), "z": (0, 0, 1)}[axis]
    frame = gp_Ax2(gp_Pnt(*(at * w for w in way)), gp_Dir(*way))
    return BRepPrimAPI_MakeTorus(frame, radius, small).Shape()


def ball_bearing(
    m: Machine,
    links: str,
    name: str,
    d: float,
    outer: float,
    width: float,
    at: Any,
    cage: bool = True,
) -> None:
    """A deep-groove bearing along z, from its middle: two rings, eight balls and a cage."""
    pitch, size = (d + outer) / 4, (outer - d) * 0.3
    groove = torus("z", pitch, size / 2 * 1.02, 0)
    half = (-width / 2, width / 2)
    m.part(links, f"{name}_outer", cut(tube("z", half, outer, 2 * pitch + 0.4 * size), groove), at)
    m.part(links, f"{name}_inner", cut(tube("z", half, 2 * pitch - 0.4 * size, d), groove), at)
    spots = [
        (pitch * math.cos(k * math.pi / 4), pitch * math.sin(k * math.pi / 4)) for k in range(8)
    ]
    m.part(links, f"{name}_ball", ball(size), *((at[0] + x, at[1] + y, at[2]) for x, y in spots))
    if cage:
        pockets = [ball(size * 1.02, (x, y, 0)) for x, y in spots]
        m.part(
            links,
            f"{name}_cage",
            cut(
                tube(
                    "z",
                    (-size * 0.35, size * 0.35),
                    2 * pitch + 0.25 * size,
                    2 * pitch - 0.25 * size,
                ),
                *pockets,
            ),
            at,
            made_of=BRASS,
        )


def scara() -> Machine:
    """Two members that turn in ball bearings, and a quill that slides and is keyed."""
    m = Machine("scara")
    column = cut(
        fuse(box((-80, 80), (-80, 80), (0, 20)), rod("z", (20, 200), 100)),
        rod("z", (160, 201), 52),
        rod("z", (150, 201), 44),
    )
    m.part("base", "column", column)
    ball_bearing(m, "base|upper", "6205", 25, 52, 15, (0, 0, 170))
    upper = fuse(
        box((-40, 300), (-40, 40), (204, 230)),
        rod("z", (162.5, 204), 25),
        rod("z", (177.5, 204), 31),
        rod("z", (230, 250), 20, (260, 0, 0)),
    )
    m.part("upper", "arm_1", upper)
    fore = cut(
        fuse(box((220, 500), (-35, 35), (232, 262)), box((221, 222), (-1, 1), (240, 241))),
        rod("z", (231, 263), 42, (260, 0, 0)),
        rod("z", (231, 263), 30, (460, 0, 0)),
        box((455, 465), (-18, 18), (231, 263)),
    )
    m.part("fore", "arm_2", fore)
    ball_bearing(m, "upper|fore", "6004", 20, 42, 12, (260, 0, 240))
    quill = fuse(
        rod("z", (150, 350), 30, (460, 0, 0)),
        box((455, 465), (-18, 18), (150, 350)),
        box((445, 475), (-15, 25), (140, 150)),
    )
    m.part("quill", "quill", quill)
    m.joint("turn", (0, 0, 170), "z", "base", "upper").joint(
        "turn", (260, 0, 240), "z", "upper", "fore"
    )
    m.joint("slide", (460, 0, 0), "z", "fore", "quill")
    return m


def gearbox() -> Machine:
    """Two keyed shafts with meshing gears, each in two bushes of a frame."""
    m = Machine("gearbox")
    far = 2 * (20 + 30) / 2
    plates = {"plate_low": (0, 10), "plate_high": (60, 70)}
    centres = [(0.0, 0.0), (far, 0.0)]
    posts = [(-40, -50), (-40, 50), (100, -50), (100, 50)]
    for name, z in plates.items():
        plate = cut(
            box((-60, 120), (-70, 70), z),
            *(rod("z", (z[0] - 1, z[1] + 1), 16, (x, y, 0)) for x, y in centres),
            *(rod("z", (z[0] - 1, z[1] + 1), 6, (x, y, 0)) for x, y in posts),
        )
        m.part("frame", name, plate)
        m.part(
            "frame",
            f"Buchse_{name}",
            tube("z", z, 16, 10),
            *((x, y, 0) for x, y in centres),
            made_of=BRASS,
        )
    m.part("frame", "spacer", tube("z", (10, 60), 14, 6), *((x, y, 0) for x, y in posts))
    m.part("frame", "Schraube_M6x85", screw(6, 85), *((x, y, 70) for x, y in posts))
    for name, teeth, (x, y), out in (("pinion", 20, centres[0], -40), ("wheel", 30, centres[1], 0)):
        key = box((4, 6.5), (-1.5, 1.5), (26, 38))
        shaft = cut(
            fuse(rod("z", (out, 72), 10), rod("z", (12, 20), 14), rod("z", (56, 58), 14)), key
        )
        m.part(f"{name}_shaft", f"{name}_shaft", shaft, (x, y, 0))
        m.part(f"{name}_shaft", f"{name}_key", key, (x, y, 0))
        wheel = cut(
            gear(teeth, 2, (22, 42), 10, 0.5 if name == "wheel" else 0),
            box((3, 6.5), (-1.5, 1.5), (21, 43)),
        )
        m.part(f"{name}_shaft", f"gear_{name}", wheel, (x, y, 0))
        m.joint("turn", (x, y, 0), "z", "frame", f"{name}_shaft")
    return m


def roller_table() -> Machine:
    """Sixteen shafts with a roller each, in bearings that are one solid each."""
    m = Machine("roller_table")
    xs = [60.0 * k for k in range(16)]
    for name, y in (("side_left", (-220, -200)), ("side_right", (200, 220))):
        side = cut(
            box((-40, 940), y, (-60, 20)),
            *(rod("y", (y[0] - 1, y[1] + 1), 22, (x, 0, 0)) for x in xs),
        )
        m.part("frame", name, side)
        for k, x in enumerate(xs):
            m.part(f"frame|roller_{k}", f"608_{name}_{k}", tube("y", y, 22, 12), (x, 0, 0))
    m.part("frame", "cross_beam", box((-40, -30), (-200, 200), (-60, 20)), (0, 0, 0), (970, 0, 0))
    for k, x in enumerate(xs):
        m.part(f"roller_{k}", f"shaft_{k}", rod("y", (-225, 225), 12), (x, 0, 0))
        m.part(f"roller_{k}", f"rouleau_{k}", tube("y", (-190, 190), 50, 12), (x, 0, 0))
        m.joint("turn", (x, 0, 0), "y", "frame", f"roller_{k}")
    return m


def winch() -> Machine:
    """A drum on a shaft with a crank, between two stands on a plate, with a pin for a pawl."""
    m = Machine("winch")
    m.part(
        "base",
        "plate",
        cut(
            box((-100, 100), (-120, 120), (-12, 0)),
            *(rod("z", (-13, 1), 8, (x, y, 0)) for x in (-40, 40) for y in (-90, 90)),
        ),
    )
    for name, y in (("stand_a", -90), ("stand_b", 90)):
        stand = cut(
            fuse(
                box((-60, 60), (y - 15, y + 15), (0, 10)), box((-30, 30), (y - 6, y + 6), (10, 130))
            ),
            rod("y", (y - 7, y + 7), 30, (0, 0, 100)),
            *(rod("z", (-1, 11), 8, (x, y, 0)) for x in (-40, 40)),
        )
        m.part("base", name, stand)
        m.part(
            "base",
            f"casquillo_{name}",
            tube("y", (y - 6, y + 6), 30, 20, (0, 0, 100)),
            made_of=BRASS,
        )
    m.part("base", "M8x20", screw(8, 20), *((x, y, 10) for x in (-40, 40) for y in (-90, 90)))
    drum = fuse(
        tube("y", (-80, 80), 60, 20), tube("y", (-84, -78), 120, 20), tube("y", (78, 84), 120, 20)
    )
    m.part("drum", "drum", drum, (0, 0, 100))
    m.part(
        "drum",
        "shaft",
        fuse(rod("y", (-100, 130), 20), box((-6, 6), (130, 150), (-6, 6))),
        (0, 0, 100),
    )
    crank = cut(
        fuse(box((-12, 12), (130, 146), (-12, 150)), rod("y", (146, 230), 16, (0, 0, 135))),
        box((-6, 6), (129, 151), (-6, 6)),
    )
    m.part("drum", "crank", crank, (0, 0, 100))
    m.joint("turn", (0, 0, 100), "y", "base", "drum")
    return m


MACHINES = (scara, gearbox, roller_table, winch)
