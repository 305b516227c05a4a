"""Machines of other sizes and trades."""

from __future__ import annotations

import math

from mooring.demo.modelling import ball
from tests.machines.bearings import ball_bearing
from tests.machines.kit import BRASS, Machine, bar, box, cut, fuse, headed_pin, rod, screw, tube


def tweezers() -> Machine:
    """A gripper of 20 mm: two fingers on headed pins of 1.5 mm, which close on each other."""
    m = Machine("tweezers")
    body = cut(box((-6, 6), (-4, 4), (0, 2)), *(rod("z", (-1, 3), 1.5, (x, 0, 0)) for x in (-3, 3)))
    m.part("body", "corpo", body)
    for k, s in enumerate((-1, 1)):
        finger = bar([(s * 3, 0), (s * 3, 12), (s * 1.5, 18)], (2, 3), 3, 1.52)
        m.part(f"finger_{k}", f"dito_{k}", cut(finger, rod("z", (1, 4), 1.52, (s * 3, 0, 0))))
        m.part(f"body|finger_{k}", f"perno_{k}", headed_pin((0, 3.4), 1.5), (s * 3, 0, 0))
        m.joint("turn", (s * 3, 0, 0), "z", "body", f"finger_{k}")
    return m


def quay_crane() -> Machine:
    """Thirty metres: a jib on a pin of 300 mm, a tower on a slewing ring of separate rings."""
    m = Machine("quay_crane")
    m.part("base", "fundament", box((-3000, 3000), (-3000, 3000), (-1000, 0)))
    m.part("base", "ring_unten", tube("z", (0, 300), 4000, 3200))
    m.part(
        "tower",
        "ring_oben",
        fuse(tube("z", (302, 600), 4000, 3200), tube("z", (100, 302), 3198, 3000)),
    )
    tower = fuse(
        box((-1500, 1500), (-1500, 1500), (600, 900)),
        box((-1200, 1200), (-1500, -900), (900, 9000)),
        box((-1200, 1200), (900, 1500), (900, 9000)),
    )
    m.part("tower", "turm", cut(tower, rod("y", (-1600, 1600), 302, (0, 0, 8000))))
    jib = box((-600, 20000), (-895, 895), (7600, 8400))
    m.part("jib", "ausleger", cut(jib, rod("y", (-1600, 1600), 300, (0, 0, 8000))))
    m.part("tower|jib", "bolzen", rod("y", (-1600, 1600), 300, (0, 0, 8000)))
    m.joint("turn", (0, 0, 0), "z", "base", "tower").joint(
        "turn", (0, 0, 8000), "y", "tower", "jib"
    )
    return m


def five_bar() -> Machine:
    """A plotter: two driven cranks on motors' shafts with flats, two rods, pins with rings."""
    m = Machine("five_bar")
    plate = box((-80, 80), (-40, 40), (-5, 0))
    bores = [rod("z", (-6, 1), 22, (x, 0, 0)) for x in (-40, 40)]
    holes = [(x + a, b) for x in (-40, 40) for a in (-16, 16) for b in (-16, 16)]
    m.part(
        "base", "plate", cut(plate, *bores, *(rod("z", (-6, 1), 3.2, (x, y, 0)) for x, y in holes))
    )
    motor = cut(
        fuse(box((-21, 21), (-21, 21), (-45, -5)), rod("z", (-5, -3), 22)),
        rod("z", (-46, -2), 5),
        *(rod("z", (-12, -4), 3, (a, b, 0)) for a in (-16, 16) for b in (-16, 16)),
    )
    shaft = cut(rod("z", (-45, 20), 5), box((2, 3), (-3, 3), (0, 21)))
    points = {"a": (-40, 0), "b": (-90, 90), "c": (0, 160), "d": (90, 90), "e": (40, 0)}
    for side, first, second, x in (("left", "a", "b", -40), ("right", "e", "d", 40)):
        m.part("base", f"motor_{side}", motor, (x, 0, 0))
        m.part(
            "base", f"M3x8_{side}", screw(3, 8), *((px, py, 0) for px, py in holes if px * x > 0)
        )
        m.part(f"crank_{side}", f"shaft_{side}", shaft, (x, 0, 0))
        crank = bar([points[first], points[second]], (4, 10), 16, 6)
        own = rod("z", (3, 11), 5, (x, 0, 0))
        crank = fuse(crank, rod("z", (4, 10), 14, (x, 0, 0)))
        crank = cut(crank, cut(own, box((x + 2, x + 3), (-3, 3), (0, 21))))
        m.part(f"crank_{side}", f"crank_{side}", crank)
        m.joint("turn", (x, 0, 0), "z", "base", f"crank_{side}")
    for side, start, z in (("left", "b", (10, 15)), ("right", "d", (15, 20))):
        m.part(f"rod_{side}", f"rod_{side}", bar([points[start], points["c"]], z, 14, 6))
    m.part("crank_right|rod_right", "distance", tube("z", (10, 15), 12, 6), (*points["d"], 0))
    for key, one, other, z in (
        ("b", "crank_left", "rod_left", (4, 15)),
        ("d", "crank_right", "rod_right", (4, 20)),
        ("c", "rod_left", "rod_right", (10, 20)),
    ):
        m.part(f"{one}|{other}", f"pin_{key}", headed_pin(z, 6), (*points[key], 0))
        m.joint("turn", (*points[key], 0), "z", one, other)
    return m


def guided_press() -> Machine:
    """A ram on two posts with linear bushes; posts are pressed in below and above."""
    m = Machine("guided_press")
    at = [(-60, 0), (60, 0)]
    for name, z in (("bed", (0, 30)), ("crown", (300, 330))):
        m.part(
            "frame",
            name,
            cut(
                box((-100, 100), (-50, 50), z),
                *(rod("z", (z[0] - 1, z[1] + 1), 15.98, (x, y, 0)) for x, y in at),
            ),
        )
    m.part("frame", "post", rod("z", (0, 330), 16), *((x, y, 0) for x, y in at))
    m.part(
        "ram",
        "ram",
        cut(
            box((-100, 100), (-40, 40), (120, 160)),
            *(rod("z", (119, 161), 28, (x, y, 0)) for x, y in at),
        ),
    )
    m.part("ram", "LM16UU", tube("z", (121, 159), 28, 16.02), *((x, y, 0) for x, y in at))
    m.joint("slide", (0, 0, 0), "z", "frame", "ram")
    return m


def delta_leg() -> Machine:
    """Two parallel rods with balls at both ends, between an arm and a platform."""
    m = Machine("delta_leg")
    ys = (-40, 40)
    arm = cut(fuse(box((-20, 20), (-60, 60), (190, 230))), *(ball(12.05, (0, y, 190)) for y in ys))
    m.part("arm", "upper_arm", arm)
    platform = cut(box((-30, 30), (-60, 60), (-40, 0)), *(ball(12.05, (0, y, 0)) for y in ys))
    m.part("platform", "platform", platform)
    stick = fuse(ball(12), ball(12, (0, 0, 190)), rod("z", (4, 186), 6))
    for k, y in enumerate(ys):
        m.part(f"rod_{k}", f"rod_{k}", stick, (0, y, 0))
        m.joint("ball", (0, y, 0), "z", "platform", f"rod_{k}").joint(
            "ball", (0, y, 190), "z", "arm", f"rod_{k}"
        )
    return m


def bearing_wheel() -> Machine:
    """A wheel on two ball bearings with a spacer, on a screw through a fork."""
    m = Machine("bearing_wheel")
    fork = fuse(
        box((-30, 30), (-40, 40), (70, 80)),
        box((-40, -27), (-40, 40), (-20, 80)),
        box((27, 40), (-40, 40), (-20, 80)),
    )
    m.part("fork", "fork", cut(_as_z(fork), rod("z", (-41, 41), 8)))
    ball_bearing(m, "fork|wheel", "608", 8, 22, 7, (0, 0, -16.5))
    ball_bearing(m, "fork|wheel", "608b", 8, 22, 7, (0, 0, 16.5))
    m.part("fork", "spacer", tube("z", (-13, 13), 12, 8))
    m.part("fork", "rohr", tube("z", (20, 27), 12, 8), (0, 0, 0), (0, 0, -47))
    wheel = cut(rod("z", (-20, 20), 100), rod("z", (-21, 21), 22))
    m.part("wheel", "wheel", fuse(wheel, tube("z", (-13, 13), 24, 20)))
    m.part("fork", "achse", fuse(rod("z", (-48, 40), 8), rod("z", (40, 46), 14)))
    m.joint("turn", (0, 0, 0), "z", "fork", "wheel")
    return m


def _as_z(body: object) -> object:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf

    turn = gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 1, 0)), math.pi / 2)
    return BRepBuilderAPI_Transform(body, turn, True).Shape()


def angle_drive() -> Machine:
    """A crank handle and a lever on one shaft, pinned through, in a bracket with brass bushes."""
    m = Machine("angle_drive")
    bracket = fuse(
        box((-40, 40), (-30, 30), (0, 8)),
        box((-40, 40), (-30, -20), (8, 80)),
        box((-40, 40), (20, 30), (8, 80)),
    )
    m.part("bracket", "equerre", cut(bracket, rod("y", (-31, 31), 14, (0, 0, 60))))
    m.part("bracket", "bague", tube("y", (-5, 5), 14, 10), (0, -25, 60), (0, 25, 60), made_of=BRASS)
    shaft = cut(
        rod("y", (-60, 60), 10, (0, 0, 60)), *(rod("z", (50, 70), 3, (0, y, 0)) for y in (-50, 50))
    )
    m.part("shaft", "arbre", shaft)
    for name, y, x in (("levier", -50, 70), ("manivelle", 50, -70)):
        lever = cut(
            fuse(
                rod("y", (y - 8, y + 8), 24, (0, 0, 60)),
                box((min(0, x), max(0, x)), (y - 6, y + 6), (52, 68)),
            ),
            rod("y", (y - 9, y + 9), 10, (0, 0, 60)),
            rod("z", (40, 80), 3, (0, y, 0)),
        )
        m.part("shaft", name, lever)
        m.part("shaft", f"goupille_{name}", rod("z", (48, 72), 3, (0, y, 0)))
    m.joint("turn", (0, 0, 60), "y", "bracket", "shaft")
    return m


MACHINES = (tweezers, quay_crane, five_bar, guided_press, delta_leg, bearing_wheel, angle_drive)
