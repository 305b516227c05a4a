"""Rods, rails, tubes."""

from __future__ import annotations

from tests.machines.kit import BRASS, Machine, box, cut, fuse, prism, rod, screw, tube


def lead_screw_stage() -> Machine:
    """A carriage on two round rods, moved by a screw in plain bushes, all on a plate."""
    m = Machine("lead_screw_stage")
    m.part("base", "base_plate", box((-20, 420), (-90, 90), (-10, 0)))
    ends = [(-40, 30), (40, 30)]
    for name, x in (("end_a", 0), ("end_b", 380)):
        block = cut(
            box((x, x + 20), (-70, 70), (0, 60)),
            *(rod("x", (x - 1, x + 21), 12, (0, y, z)) for y, z in ends),
            rod("x", (x - 1, x + 21), 16, (0, 0, 30)),
        )
        m.part("base", name, block)
        m.part("base", f"bush_{name}", tube("x", (x, x + 20), 16, 10, (0, 0, 30)), made_of=BRASS)
    m.part("base", "rod", rod("x", (0, 400), 12), *((0, y, z) for y, z in ends))
    spindle = fuse(
        rod("x", (-40, 405), 10),
        rod("x", (20, 26), 18),
        rod("x", (374, 380), 18),
        box((-40, -25), (-3, 3), (-3, 3)),
    )
    m.part("screw", "lead_screw", spindle, (0, 0, 30))
    carriage = cut(
        box((160, 240), (-70, 70), (10, 50)),
        *(rod("x", (159, 241), 12.1, (0, y, z)) for y, z in ends),
        rod("x", (159, 241), 10.2, (0, 0, 30)),
    )
    m.part("carriage", "carriage", carriage)
    m.joint("slide", (0, 0, 0), "x", "base", "carriage").joint(
        "turn", (0, 0, 30), "x", "base", "screw"
    )
    return m


def dovetail() -> Machine:
    """A dovetail slide with its clearance, a knob screwed to it."""
    m = Machine("dovetail")
    m.part(
        "bed",
        "bed",
        cut(
            box((-60, 60), (0, 200), (-30, 10)),
            prism(
                [(-20.1, -1, 10.1), (20.1, -1, 10.1), (30.1, -1, -0.1), (-30.1, -1, -0.1)],
                (0, 202, 0),
            ),
        ),
    )
    slide = fuse(
        prism([(-20, 40, 10), (20, 40, 10), (30, 40, 0), (-30, 40, 0)], (0, 100, 0)),
        box((-50, 50), (40, 140), (10.1, 30)),
    )
    m.part("slide", "table", cut(slide, *(rod("z", (9, 31), 6, (x, 90, 0)) for x in (-30, 30))))
    m.part(
        "slide",
        "clamp",
        cut(
            box((-45, 45), (80, 100), (30, 40)),
            *(rod("z", (29, 41), 6, (x, 90, 0)) for x in (-30, 30)),
        ),
    )
    m.part("slide", "tornillo_M6", screw(6, 28), (-30, 90, 40), (30, 90, 40))
    m.joint("slide", (0, 0, 0), "y", "bed", "slide")
    return m


def rail_and_carriages() -> Machine:
    """Two profile rails screwed down, four carriages under one table."""
    m = Machine("rail_and_carriages")
    m.part(
        "bed",
        "bed",
        cut(
            box((-150, 150), (0, 600), (-20, 0)),
            *(rod("z", (-21, 1), 5, (x, y, 0)) for x in (-100, 100) for y in (50, 300, 550)),
        ),
    )
    profile = cut(
        box((-10, 10), (0, 600), (0, 20)),
        box((-11, -7), (-1, 601), (8, 14)),
        box((7, 11), (-1, 601), (8, 14)),
        *(rod("z", (-1, 21), 5, (0, y, 0)) for y in (50, 300, 550)),
        *(rod("z", (14, 21), 9, (0, y, 0)) for y in (50, 300, 550)),
    )
    m.part("bed", "rail", profile, (-100, 0, 0), (100, 0, 0))
    m.part(
        "bed",
        "ISO4762_M5x25",
        screw(5, 25),
        *((x, y, 14) for x in (-100, 100) for y in (50, 300, 550)),
    )
    inner = [
        box((-10.05, 10.05), (-1, 61), (3, 20.05)),
    ]
    shoe = fuse(
        cut(box((-24, 24), (0, 60), (4, 32)), *inner),
        box((-10.05, -7), (0, 60), (8.05, 13.95)),
        box((7, 10.05), (0, 60), (8.05, 13.95)),
    )
    shoe = cut(shoe, *(rod("z", (20, 33), 5, (x, y, 0)) for x in (-17, 17) for y in (12, 48)))
    m.part("table", "carriage", shoe, *((x, y, 0) for x in (-100, 100) for y in (150, 350)))
    spots = [
        (x + a, y + b, 0)
        for x in (-100, 100)
        for y in (150, 350)
        for a in (-17, 17)
        for b in (12, 48)
    ]
    m.part(
        "table",
        "table",
        cut(box((-150, 150), (140, 420), (32, 44)), *(rod("z", (31, 45), 5, at) for at in spots)),
    )
    m.part("table", "ISO4762_M5x20", screw(5, 20), *((x, y, 44) for x, y, _ in spots))
    m.joint("slide", (0, 0, 0), "y", "bed", "table")
    return m


def telescope() -> Machine:
    """Square tubes in each other, three stages; a camera screwed on top."""
    m = Machine("telescope")

    def square(outer: float, inner: float, z: tuple[float, float]) -> object:
        o, i = outer / 2, inner / 2
        return cut(box((-o, o), (-o, o), z), box((-i, i), (-i, i), (z[0] - 1, z[1] + 1)))

    m.part(
        "mast_0", "outer", fuse(square(80, 60.2, (0, 500)), box((-100, 100), (-100, 100), (-10, 0)))
    )
    m.part("mast_1", "middle", square(60, 40.2, (100, 600)))
    m.part("mast_2", "inner", square(40, 30, (200, 700)))
    head = cut(
        fuse(box((-20, 20), (-20, 20), (700, 708)), box((-15, 15), (-15, 15), (690, 700))),
        rod("x", (-21, 21), 4, (0, 0, 695)),
    )
    m.part("mast_2", "head", head)
    m.joint("slide", (0, 0, 0), "z", "mast_0", "mast_1").joint(
        "slide", (0, 0, 0), "z", "mast_1", "mast_2"
    )
    return m


def hydraulic_boom() -> Machine:
    """A boom lifted by a cylinder; everything on plain pins in forks."""
    m = Machine("hydraulic_boom")
    post = fuse(
        box((-60, 60), (-60, 60), (0, 20)),
        box((-40, -15), (-40, 40), (20, 420)),
        box((-15, 40), (-40, -15.1), (20, 420)),
        box((-15, 40), (15.1, 40), (20, 420)),
    )
    m.part(
        "post",
        "post",
        cut(post, rod("y", (-41, 41), 20, (20, 0, 400)), rod("y", (-41, 41), 14, (20, 0, 100))),
    )
    boom = fuse(
        box((0, 600), (-15, 15), (385, 415)),
        box((190, 240), (-15, -8.1), (360, 400)),
        box((190, 240), (8.1, 15), (360, 400)),
    )
    boom = cut(
        boom,
        box((195, 235), (-8.1, 8.1), (350, 386)),
        rod("y", (-20, 20), 20, (20, 0, 400)),
        rod("y", (-20, 20), 12, (215, 0, 370)),
    )
    m.part("boom", "boom", boom)
    import math

    length = math.hypot(195, 270)
    tilt = math.degrees(math.atan2(195, 270))
    barrel = fuse(
        tube("z", (25, 200), 36, 28),
        rod("z", (15, 25), 36),
        cut(box((-10, 10), (-8, 8), (-10, 16)), rod("y", (-9, 9), 14)),
    )
    m.part("barrel", "barrel", barrel, (20, 0, 100), turn=("y", tilt))
    m.part("barrel", "gland", tube("z", (200, 212), 36, 14), (20, 0, 100), turn=("y", tilt))
    plunger = fuse(
        rod("z", (110, length - 12), 14),
        rod("z", (110, 130), 28),
        cut(
            box((-10, 10), (-8, 8), (length - 14, length + 10)),
            rod("y", (-9, 9), 12, (0, 0, length)),
        ),
    )
    m.part("plunger", "piston_rod", plunger, (20, 0, 100), turn=("y", tilt))
    m.part("post|boom", "perno_20", rod("y", (-42, 42), 20, (20, 0, 400)))
    m.part("post|barrel", "perno_14", rod("y", (-42, 42), 14, (20, 0, 100)))
    m.part("boom|plunger", "perno_12", rod("y", (-16, 16), 12, (215, 0, 370)))
    m.joint("turn", (20, 0, 400), "y", "post", "boom").joint(
        "turn", (20, 0, 100), "y", "post", "barrel"
    )
    m.joint("turn", (215, 0, 370), "y", "boom", "plunger")
    s, c = math.sin(math.radians(tilt)), math.cos(math.radians(tilt))
    m.joint("slide", (20, 0, 100), (s, 0, c), "barrel", "plunger")  # type: ignore[arg-type]
    return m


def drawers() -> Machine:
    """Three drawers in a cabinet that is open in front."""
    m = Machine("drawers")
    body = box((0, 300), (0, 400), (0, 320))
    m.part(
        "cabinet",
        "cabinet",
        cut(body, *(box((10, 290), (-1, 390), (10 + 100 * k, 100 + 100 * k)) for k in range(3))),
    )
    drawer = cut(box((10.1, 289.9), (-6, 380), (0.1, 80)), box((16, 284), (0, 374), (6, 81)))
    for k in range(3):
        m.part(f"drawer_{k}", f"schublade_{k}", drawer, (0, 0, 10 + 100 * k))
        m.joint("slide", (0, 0, 0), "y", "cabinet", f"drawer_{k}")
    return m


MACHINES = (lead_screw_stage, dovetail, rail_and_carriages, telescope, hydraulic_boom, drawers)
