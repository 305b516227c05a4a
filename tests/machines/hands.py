"""Grippers and heads."""

from __future__ import annotations

import math

from mooring.demo.modelling import ball
from tests.machines.kit import Machine, bar, box, cut, fuse, rod, tube


def parallel_gripper() -> Machine:
    """Two jaws that slide in a T-slot and touch each other; the body is screwed to a flange."""
    m = Machine("parallel_gripper")
    slot = fuse(
        box((-61, 61), (-6.05, 6.05), (29, 41)), box((-61, 61), (-12.05, 12.05), (25, 33.05))
    )
    m.part(
        "body",
        "corps",
        cut(
            box((-60, 60), (-25, 25), (0, 40)),
            slot,
            *(rod("z", (-1, 9), 5, (x, 0, 0)) for x in (-30, 30)),
        ),
    )
    jaw = fuse(
        box((0, 40), (-6, 6), (25, 50)),
        box((0, 40), (-12, 12), (25, 33)),
        box((0, 15), (-12, 12), (50, 100)),
    )
    left = fuse(
        box((-40, 0), (-6, 6), (25, 50)),
        box((-40, 0), (-12, 12), (25, 33)),
        box((-15, 0), (-12, 12), (50, 100)),
    )
    m.part("jaw_0", "mors_droit", jaw).part("jaw_1", "mors_gauche", left)
    m.part(
        "body",
        "bride",
        cut(rod("z", (-10, 0), 80), *(rod("z", (-11, 1), 5, (x, 0, 0)) for x in (-30, 30))),
    )
    m.part(
        "body",
        "vis_CHC_M5x16",
        fuse(rod("z", (-10, 8), 5), rod("z", (-15, -10), 8.5)),
        (-30, 0, 0),
        (30, 0, 0),
    )
    m.joint("slide", (0, 0, 0), "x", "body", "jaw_0").joint(
        "slide", (0, 0, 0), "x", "body", "jaw_1"
    )
    return m


def three_fingers() -> Machine:
    """Fingers pinned in a hub, three times; one stands at its stop."""
    m = Machine("three_fingers")
    pieces = []
    for k in range(3):
        angle = 120 * k
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        pieces.append((c, s, angle))
    body = rod("z", (0, 30), 60)
    slots = [box((15, 40), (-5.05, 5.05), (10, 31)), rod("y", (-20, 20), 5, (24, 0, 20))]
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf

    for _, _, angle in pieces:
        turn = gp_Trsf()
        turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), math.radians(angle))
        body = cut(body, *(BRepBuilderAPI_Transform(s, turn, True).Shape() for s in slots))
    m.part("hub", "hub", body)
    finger = cut(
        fuse(box((24, 29), (-5, 5), (10, 100)), box((19, 29), (-5, 5), (14, 100))),
        rod("y", (-6, 6), 5, (24, 0, 20)),
    )
    for k, (c, s, angle) in enumerate(pieces):
        m.part(f"finger_{k}", f"dedo_{k}", finger, turn=("z", angle))
        m.part(
            f"hub|finger_{k}",
            f"pasador_{k}",
            rod("y", (-12, 12), 5, (24, 0, 20)),
            turn=("z", angle),
        )
        m.joint("turn", (24 * c, 24 * s, 20), (-s, c, 0.0), "hub", f"finger_{k}")  # type: ignore[arg-type]
    return m


def pan_tilt() -> Machine:
    """A head on a yoke on a base: one bearing below, two stub shafts at the sides."""
    m = Machine("pan_tilt")
    m.part("base", "base", cut(rod("z", (0, 40), 90), rod("z", (20, 41), 40)))
    m.part("base|yoke", "bearing_6203", tube("z", (22, 34), 40, 17))
    yoke = fuse(
        rod("z", (22, 44), 17),
        box((-30, 30), (-60, 60), (44, 54)),
        box((-20, 20), (-60, -50), (54, 140)),
        box((-20, 20), (50, 60), (54, 140)),
    )
    m.part("yoke", "yoke", cut(yoke, rod("y", (-61, 61), 10, (0, 0, 110))))
    head = fuse(
        box((-35, 35), (-44, 44), (80, 140)),
        rod("y", (-60, 60), 10, (0, 0, 110)),
        rod("y", (-50, 50), 16, (0, 0, 110)),
    )
    m.part("head", "camera", head)
    m.part("head", "lens", rod("x", (35, 60), 40, (0, 0, 110)))
    m.joint("turn", (0, 0, 30), "z", "base", "yoke").joint("turn", (0, 0, 110), "y", "yoke", "head")
    return m


def ball_arm() -> Machine:
    """A rod between two ball joints."""
    m = Machine("ball_arm")
    socket = cut(box((-20, 20), (-20, 20), (0, 30)), ball(24.1, (0, 0, 24)))
    m.part("base", "socket", fuse(box((-60, 60), (-60, 60), (-8, 0)), socket))
    m.part(
        "stick",
        "stick",
        fuse(ball(24, (0, 0, 24)), rod("z", (24, 180), 10), box((-10, 10), (-4, 4), (180, 200))),
    )
    m.joint("ball", (0, 0, 24), "z", "base", "stick")
    return m


def plate_and_lever() -> Machine:
    """Two nameless solids: a lever on one headed pin of a plate, at the file's root."""
    m = Machine("plate_and_lever")
    plate = fuse(
        box((-100, 100), (-60, 60), (0, 10)), rod("z", (10, 30), 14), rod("z", (22, 27), 24)
    )
    m.part("plate", "", plate)
    m.part("lever", "", cut(bar([(0, 0), (150, 40)], (10.1, 21.9), 30, 14.2)))
    m.joint("turn", (0, 0, 0), "z", "plate", "lever")
    return m


def welded_frame() -> Machine:
    """A frame of tubes that run into each other, with gussets in the corners and a lid on a pin."""
    m = Machine("welded_frame")
    for k, y in enumerate((0, 300)):
        m.part("frame", f"long_{k}", box((0, 500), (y, y + 30), (0, 30)))
    for k, x in enumerate((0, 470)):
        m.part("frame", f"cross_{k}", box((x, x + 30), (30, 300), (0, 30)))
    m.part("frame", "gusset", box((30, 70), (30, 70), (0, 5)))
    for k, y in enumerate((40, 270)):
        m.part(
            "frame",
            f"ear_{k}",
            cut(box((0, 30), (y, y + 20), (30, 70)), rod("y", (y - 1, y + 21), 10, (15, 0, 50))),
        )
    lid = cut(
        fuse(box((15, 480), (62, 268), (46, 54)), rod("y", (62, 268), 20, (15, 0, 50))),
        rod("y", (61, 269), 10, (15, 0, 50)),
    )
    m.part("lid", "lid", lid)
    m.part("frame|lid", "lid_pin", rod("y", (38, 292), 10, (15, 0, 50)))
    m.joint("turn", (15, 0, 50), "y", "frame", "lid")
    return m


MACHINES = (parallel_gripper, three_fingers, pan_tilt, ball_arm, plate_and_lever, welded_frame)
