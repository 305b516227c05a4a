"""Bars and pins."""

from __future__ import annotations

import math

from tests.machines.kit import Machine, bar, box, cut, fuse, headed_pin, rod, screw, tube


def parallelogram(fit: float = 0.0) -> Machine:
    """Bars that lie face to face on four headed pins."""
    m = Machine("parallelogram")
    m.part("ground", "ground", bar([(0, 0), (200, 0)], (0, 10), 30, 12 + fit))
    m.part("left", "left_bar", bar([(0, 0), (60, 120)], (10, 20), 30, 12 + fit))
    m.part("right", "right_bar", bar([(200, 0), (260, 120)], (10, 20), 30, 12 + fit))
    m.part("top", "top_bar", bar([(60, 120), (260, 120)], (0, 10), 30, 12 + fit))
    m.part(
        "ground|left|right|top",
        "pin",
        headed_pin((0, 22), 12),
        (0, 0, 0),
        (200, 0, 0),
        (60, 120, 0),
        (260, 120, 0),
    )
    for at, one, other in (
        ((0, 0, 0), "ground", "left"),
        ((200, 0, 0), "ground", "right"),
        ((60, 120, 0), "left", "top"),
        ((260, 120, 0), "right", "top"),
    ):
        m.joint("turn", at, "z", one, other)
    return m


def loose_parallelogram() -> Machine:
    m = parallelogram(0.5)
    m.name = "loose_parallelogram"
    return m


def bolted_four_bar() -> Machine:
    """Pivots made of screws and nuts, with washers; the ground bar is screwed to a plate by two."""
    m = Machine("bolted_four_bar")
    points = {"a": (0, 0), "b": (0, 60), "c": (150, 110), "d": (180, 0)}
    for name, ends, z in (
        ("crank", "ab", (8, 14)),
        ("coupler", "bc", (2, 8)),
        ("rocker", "cd", (8, 14)),
        ("frame", "ad", (2, 8)),
    ):
        m.part(name, name, bar([points[e] for e in ends], z, 24, 8))
    plate = box((-30, 210), (-200, -60), (-4, 2))
    post = box((80, 100), (-200, 12), (-4, 2))
    holes = [rod("z", (-5, 9), 6, (x, 0, 0)) for x in (85, 95)]
    m.items[-1].product.solid = cut(m.items[-1].product.solid, *holes)
    m.part("frame", "wall", cut(fuse(plate, post), *holes))
    m.part("frame", "DIN912_M6x12", screw(6, 12), (85, 0, 8), (95, 0, 8))
    every = "frame|crank|coupler|rocker"
    spots = [(*points[k], 0) for k in "abcd"]
    m.part(every, "DIN912_M8x20", screw(8, 20), *((x, y, 15.6) for x, y, _ in spots))
    m.part(every, "washer_DIN125_8", tube("z", (14, 15.6), 16, 8.4), *spots)
    m.part(every, "nut_M8", tube("z", (-4.4, 2), 13, 8), *spots)
    for key, one, other in (
        ("a", "frame", "crank"),
        ("b", "crank", "coupler"),
        ("c", "coupler", "rocker"),
        ("d", "frame", "rocker"),
    ):
        m.joint("turn", (*points[key], 0), "z", one, other)
    return m


def fork_arm() -> Machine:
    """Three members one behind the other, tongues in forks on plain pins, a loose fit."""
    m = Machine("fork_arm")
    base = fuse(
        box((-80, 80), (-80, 80), (0, 20)),
        box((-30, 30), (-40, -16), (20, 120)),
        box((-30, 30), (16, 40), (20, 120)),
    )
    m.part("base", "sockel", cut(base, rod("y", (-50, 50), 16, (0, 0, 100))))
    upper = fuse(
        box((-20, 300), (-15.5, 15.5), (80, 120)),
        box((260, 340), (-36, -15.5), (80, 120)),
        box((260, 340), (15.5, 36), (80, 120)),
        box((260, 290), (-36, 36), (80, 120)),
    )
    m.part(
        "upper",
        "oberarm",
        cut(upper, rod("y", (-50, 50), 16.3, (0, 0, 100)), rod("y", (-50, 50), 12, (325, 0, 100))),
    )
    fore = fuse(box((310, 560), (-15, 15), (85, 115)), rod("y", (-15, 15), 30, (325, 0, 100)))
    m.part("fore", "unterarm", cut(fore, rod("y", (-50, 50), 12.3, (325, 0, 100))))
    m.part("base|upper", "bolzen_16", rod("y", (-42, 42), 16, (0, 0, 100)))
    m.part("upper|fore", "bolzen_12", rod("y", (-38, 38), 12, (325, 0, 100)))
    m.joint("turn", (0, 0, 100), "y", "base", "upper").joint(
        "turn", (325, 0, 100), "y", "upper", "fore"
    )
    return m


def slider_crank() -> Machine:
    """An engine: a round piston in a cylinder, a crank in two bearings of a split housing."""
    m = Machine("slider_crank")
    lower = box((-60, 60), (-80, 80), (-50, 0))
    upper = cut(
        box((-60, 60), (-80, 80), (0, 200)),
        box((-45, 45), (-50, 50), (-1, 60)),
        rod("z", (59, 201), 60),
    )
    lower = cut(lower, box((-45, 45), (-50, 50), (-45, 1)))
    shaft = rod("y", (-81, 81), 24)
    m.part("block", "lower_case", cut(lower, shaft))
    m.part("block", "upper_case", cut(upper, shaft))
    crank = fuse(
        rod("y", (-110, -9), 24),
        rod("y", (9, 110), 24),
        box((-14, 14), (-30, -9), (-20, 44)),
        box((-14, 14), (9, 30), (-20, 44)),
        rod("y", (-9, 9), 16, (0, 0, 30)),
    )
    m.part("crank", "crankshaft", crank)
    rod_ = cut(
        fuse(
            rod("y", (-9, 9), 30, (0, 0, 30)),
            rod("y", (-9, 9), 24, (0, 0, 140)),
            box((-7, 7), (-6, 6), (40, 132)),
        ),
        rod("y", (-10, 10), 16, (0, 0, 30)),
        rod("y", (-10, 10), 12, (0, 0, 140)),
    )
    m.part("rod", "connecting_rod", rod_)
    piston = cut(
        rod("z", (120, 175), 60),
        box((-15, 15), (-9, 9), (119, 160)),
        rod("y", (-31, 31), 12, (0, 0, 140)),
    )
    m.part("piston", "piston", piston)
    m.part("piston|rod", "gudgeon_pin", rod("y", (-28, 28), 12, (0, 0, 140)))
    m.joint("turn", (0, 0, 0), "y", "block", "crank").joint("turn", (0, 0, 30), "y", "crank", "rod")
    m.joint("turn", (0, 0, 140), "y", "rod", "piston").joint(
        "slide", (0, 0, 0), "z", "block", "piston"
    )
    return m


def scissor_lift() -> Machine:
    """Two crossed legs, pinned in the middle, below and above; rollers run in channels."""
    m = Machine("scissor_lift")
    low, high, x = 20.0, 220.0, 300.0
    m.part(
        "base",
        "bottom_frame",
        cut(
            fuse(
                box((-40, 380), (-60, 60), (0, 8)),
                box((-20, 20), (-60, -40), (8, 40)),
                box((-20, 20), (40, 60), (8, 40)),
            ),
            rod("y", (-61, 61), 10, (0, 0, low)),
        ),
    )
    m.part(
        "top",
        "platform",
        cut(
            fuse(
                box((-40, 380), (-60, 60), (232, 240)),
                box((-20, 20), (-60, -40), (200, 232)),
                box((-20, 20), (40, 60), (200, 232)),
            ),
            rod("y", (-61, 61), 10, (0, 0, high)),
        ),
    )
    tilt = math.degrees(math.atan2(high - low, x))
    long = math.hypot(x, high - low)
    leg = bar([(0, 0), (long / 2, 0), (long, 0)], (0, 10), 20, 10)
    m.part("inner", "leg_inner", leg, (0, 0, low), turn=("y", -tilt))
    m.part("outer", "leg_outer", leg, (0, 0, high), turn=("y", tilt))
    for item, y in zip(m.items[-2:], (20.0, 32.0), strict=True):
        # A bar of the x, y plane stands upright first.
        item.product = type(item.product)(item.name, _upright(leg, y), "#8090a0", "steel", 7850)
    m.part("inner|outer", "middle_pin", headed_pin_y(20, 46, 10), (x / 2, 0, 120))
    m.part("base|inner", "foot_pin", rod("y", (-62, 62), 10), (0, 0, low))
    m.part("top|outer", "head_pin", rod("y", (-62, 62), 10), (0, 0, high))
    m.joint("turn", (x / 2, 0, 120), "y", "inner", "outer")
    m.joint("turn", (0, 0, low), "y", "base", "inner").joint(
        "turn", (0, 0, high), "y", "top", "outer"
    )
    return m


def _upright(leg: object, y: float) -> object:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

    turn, move = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), math.pi / 2)
    move.SetTranslation(gp_Vec(0, y + 10, 0))
    return BRepBuilderAPI_Transform(leg, move.Multiplied(turn), True).Shape()


def headed_pin_y(low: float, high: float, d: float) -> object:
    return fuse(rod("y", (low - 4, high), d), rod("y", (low - 4, low), 1.6 * d))


def hinge() -> Machine:
    """A door's hinge: knuckles of two leaves in turn, and a long pin; leaves are screwed on."""
    m = Machine("hinge")
    leaf_a, leaf_b = box((0, 60), (-3, 3), (0, 120)), box((-60, 0), (-3, 3), (0, 120))
    bore = rod("z", (-1, 121), 8)
    knuckles = [rod("z", (k * 24 + 0.1, k * 24 + 23.9), 16) for k in range(5)]
    gaps = [rod("z", (k * 24, k * 24 + 24), 16.4) for k in range(5)]
    a = cut(fuse(cut(leaf_a, *gaps[1::2]), *knuckles[0::2]), bore)
    b = cut(fuse(cut(leaf_b, *gaps[0::2]), *knuckles[1::2]), bore)
    holes_a = [rod("y", (-30, 4), 5, (40, 0, z)) for z in (20, 100)]
    holes_b = [rod("y", (-30, 4), 5, (-40, 0, z)) for z in (20, 100)]
    m.part("door", "leaf_door", cut(a, *holes_a)).part("frame", "leaf_frame", cut(b, *holes_b))
    m.part("door", "door_panel", cut(box((12, 400), (-23, -3), (-200, 400)), *holes_a))
    m.part("frame", "post", cut(box((-100, -12), (-43, -3), (-200, 400)), *holes_b))
    bolt = fuse(rod("y", (-25, 3), 5), rod("y", (3, 6), 9))
    m.part("door", "vis_M5x25", bolt, (40, 0, 20), (40, 0, 100))
    m.part("frame", "vis_M5x30", bolt, (-40, 0, 20), (-40, 0, 100))
    m.part("door|frame", "axe", rod("z", (0, 120), 8))
    m.joint("turn", (0, 0, 0), "z", "door", "frame")
    return m


MACHINES = (
    parallelogram,
    loose_parallelogram,
    bolted_four_bar,
    fork_arm,
    slider_crank,
    scissor_lift,
    hinge,
)
