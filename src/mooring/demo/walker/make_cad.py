"""Makes the CAD of the breakwater walker, one leg and the hull:
`python -m mooring.demo.walker.make_cad`.

Coordinates are millimetres. The leg's origin is on the hip's vertical axis, x outward along it, z
up; the thigh is level and the shin straight down. The hull's origin is in its middle at the height
of the hips, x forward.
"""

from __future__ import annotations

from pathlib import Path

from mooring.demo.modelling import ball, box, cut, cylinder, fuse, rounded
from mooring.demo.step_writer import Group, write_step
from mooring.demo.workshop import (
    BRIGHT_STEEL,
    DECK_GREY,
    HULL_BLUE,
    SIGNAL_ORANGE,
    Fasteners,
    aluminium,
    rubber,
    steel,
)

LEG_FILE, HULL_FILE = (Path(__file__).with_name(name) for name in ("leg.step", "hull.step"))

THIGH_X = 90.0
"""From the hip's axis to the thigh's."""
THIGH, SHIN = 220.0, 260.0
"""From the thigh's axis to the knee's, and from there to the middle of the foot."""
FOOT_DIAMETER = 50.0


def hip(fasteners: Fasteners) -> Group:
    """The bracket that is bolted to the hull."""
    plate = box((-70, -58), (-45, 45), (-50, 50))
    cheeks = [
        fuse(box((-58, 0), (-22, 22), z), cylinder("z", z, 44)) for z in ((28, 40), (-40, -28))
    ]
    bracket = cut(fuse(plate, *cheeks), cylinder("z", (-40, 40), 20))
    group = Group("hip_assembly")
    group.place(aluminium("hip_bracket", bracket, DECK_GREY))
    mounts = [(-58.0, y, z) for y in (-34.0, 34.0) for z in (-42.0, 42.0)]
    fasteners.fasten(group, "hull", mounts, 8, 30, turn=("y", 90))
    group.place(steel("hip_drive", box((-56, -24), (-20, 20), (40, 70)), DECK_GREY))
    corners = [(x, y, 70.0) for x in (-51.0, -29.0) for y in (-14.0, 14.0)]
    fasteners.fasten(group, "hip_drive", corners, 4, 35)
    return group.place(steel("hip_pin", cylinder("z", (-44, 44), 20), BRIGHT_STEEL))


def coxa(fasteners: Fasteners) -> Group:
    fork = [cylinder("y", y, 40, (THIGH_X, 0, 0)) for y in ((-26, -14), (14, 26))]
    body = cut(
        fuse(
            cylinder("z", (-28, 28), 40),
            box((0, 68), (-14, 14), (-20, 20)),
            box((60, THIGH_X), (-26, 26), (-20, 20)),
            *fork,
        ),
        box((68, 115), (-14, 14), (-25, 25)),
        cylinder("z", (-28, 28), 20),
        cylinder("y", (-26, 26), 18, (THIGH_X, 0, 0)),
    )
    group = Group("coxa_assembly")
    group.place(aluminium("coxa", body, SIGNAL_ORANGE))
    group.place(steel("thigh_drive", box((24, 60), (-13, 13), (20, 46)), DECK_GREY))
    corners = [(x, y, 46.0) for x in (29.0, 55.0) for y in (-8.0, 8.0)]
    fasteners.fasten(group, "thigh_drive", corners, 4, 35)
    pin = steel("thigh_pin", cylinder("y", (-30, 30), 18), BRIGHT_STEEL)
    return group.place(pin, (THIGH_X, 0, 0))


def thigh(fasteners: Fasteners) -> Group:
    """The thigh with its own axis at the origin."""
    fork = [cylinder("y", y, 36, (THIGH, 0, 0)) for y in ((-24, -12), (12, 24))]
    body = cut(
        fuse(
            cylinder("y", (-14, 14), 40),
            box((0, 170), (-10, 10), (-16, 16)),
            box((160, THIGH), (-24, 24), (-16, 16)),
            *fork,
        ),
        box((176, 245), (-12, 12), (-25, 25)),
        cylinder("y", (-14, 14), 18),
        cylinder("y", (-24, 24), 16, (THIGH, 0, 0)),
    )
    group = Group("thigh_assembly")
    group.place(aluminium("thigh", body))
    group.place(steel("knee_drive", box((70, 120), (-10, 10), (16, 42)), DECK_GREY))
    corners = [(x, 0.0, 42.0) for x in (78.0, 112.0)]
    fasteners.fasten(group, "knee_drive", corners, 4, 35)
    pin = steel("knee_pin", cylinder("y", (-28, 28), 16), BRIGHT_STEEL)
    return group.place(pin, (THIGH, 0, 0))


def shin() -> Group:
    """The shin with the knee's axis at the origin."""
    end = -SHIN + 0.34 * FOOT_DIAMETER
    body = cut(
        fuse(cylinder("y", (-12, 12), 36), cylinder("z", (end, -8), 30)),
        cylinder("y", (-12, 12), 16),
    )
    foot = cut(ball(FOOT_DIAMETER, (0, 0, -SHIN)), box((-40, 40), (-40, 40), (end, 0)))
    group = Group("shin_assembly")
    group.place(aluminium("shin", body))
    return group.place(rubber("foot", foot))


def leg() -> Group:
    fasteners = Fasteners()
    machine = Group("walker_leg")
    machine.place(hip(fasteners))
    machine.place(coxa(fasteners))
    machine.place(thigh(fasteners), (THIGH_X, 0, 0))
    machine.place(shin(), (THIGH_X + THIGH, 0, 0))
    return machine


def hull() -> Group:
    fasteners = Fasteners()
    tub = cut(
        rounded(box((-320, 320), (-130, 130), (-55, 55)), 40, "z"),
        rounded(box((-308, 308), (-118, 118), (-45, 60)), 30, "z"),
    )
    lid = rounded(box((-320, 320), (-130, 130), (55, 63)), 40, "z")
    group = Group("hull_assembly")
    group.place(aluminium("tub", tub, HULL_BLUE))
    group.place(aluminium("lid", lid, DECK_GREY))
    corners = [(x, y, 63.0) for x in (-270.0, 0.0, 270.0) for y in (-124.0, 124.0)]
    fasteners.fasten(group, "lid", corners, 6, 20)
    group.place(steel("battery", box((-200, 0), (-90, 90), (-45, 20)), DECK_GREY))
    group.place(aluminium("imu_box", box((40, 90), (-25, 25), (-45, -20)), SIGNAL_ORANGE))
    return Group("walker_hull").place(group)


if __name__ == "__main__":
    write_step(leg(), LEG_FILE)
    write_step(hull(), HULL_FILE)
