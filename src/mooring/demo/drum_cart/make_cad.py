"""Makes the drum cart's CAD: `python -m mooring.demo.drum_cart.make_cad`.

The cart carries a drum of mooring line along the quay. Coordinates are millimetres: x forward, y to
port, z up from the ground.
"""

from __future__ import annotations

from pathlib import Path

from OCP.TopoDS import TopoDS_Shape

from mooring.demo.modelling import box, cut, cylinder, fuse, ring_of
from mooring.demo.step_writer import Group, Product, write_step
from mooring.demo.workshop import (
    BRIGHT_STEEL,
    DECK_GREY,
    ROPE,
    SIGNAL_ORANGE,
    Fasteners,
    aluminium,
    rubber,
    steel,
)

STEP_FILE = Path(__file__).with_name("drum_cart.step")

DECK = (200.0, 212.0)
AXLE = (-150.0, 0.0, 160.0)
WHEEL_DIAMETER, WHEEL_Y = 320.0, 300.0
CASTER, TRAIL, CASTER_DIAMETER = (260.0, 0.0), 40.0, 120.0
DRUM = (-60.0, 0.0, 430.0)
POST = (300.0, 120.0)


def chassis(fasteners: Fasteners) -> Group:
    hangers = [
        box((AXLE[0] - 40, AXLE[0] + 40), y, (120, DECK[0])) for y in ((190, 220), (-220, -190))
    ]
    frame = cut(
        fuse(
            box((-330, 330), (-220, 220), DECK),
            cylinder("z", (150, DECK[0]), 70, (*CASTER, 0)),
            *hangers,
        ),
        cylinder("z", (150, DECK[1]), 30, (*CASTER, 0)),
        cylinder("y", (-220, 220), 25, AXLE),
    )
    group = Group("chassis_assembly")
    group.place(steel("frame", frame))
    stub = steel("stub_axle", cylinder("y", (-80, 80), 25), BRIGHT_STEEL)
    for name, side in (("port", 1), ("starboard", -1)):
        group.place(stub, (AXLE[0], side * 265, AXLE[2]), name=f"{name}_stub_axle")
    cabinet = box((60, 200), (-190, 40), (DECK[1], 330))
    group.place(aluminium("control_box", cabinet, DECK_GREY))
    corners = [(x, y, 330.0) for x in (70.0, 190.0) for y in (-180.0, 30.0)]
    fasteners.fasten(group, "control_box", corners, 6, 125)
    return group


def wheels() -> dict[str, Group]:
    """The driven wheels, each about its own middle; the axle along y."""
    rim = cut(
        fuse(cylinder("y", (-30, 30), 260), cylinder("y", (-40, 40), 60)),
        cylinder("y", (-40, 40), 25),
        *(cylinder("y", (-30, 30), 50, (x, 0, z)) for x, z in ring_of(5, 85)),
    )
    tyre = cut(cylinder("y", (-35, 35), WHEEL_DIAMETER), cylinder("y", (-35, 35), 260))
    rim_product, tyre_product = aluminium("rim", rim), rubber("tyre", tyre)
    groups = {}
    for name in ("port", "starboard"):
        group = Group(f"{name}_wheel_assembly")
        group.place(rim_product, name=f"{name}_rim")
        groups[name] = group.place(tyre_product, name=f"{name}_tyre")
    return groups


def caster_fork() -> Group:
    """The fork with its swivel axis at the origin; its wheel trails behind."""
    z = CASTER_DIAMETER / 2
    cheeks = [
        fuse(box((-TRAIL - 22, -TRAIL + 22), y, (z, 128)), cylinder("y", y, 44, (-TRAIL, 0, z)))
        for y in ((22, 32), (-32, -22))
    ]
    body = cut(
        fuse(
            cylinder("z", (140, DECK[1]), 30),
            cylinder("z", (128, 150), 64),
            box((-TRAIL - 22, 20), (-32, 32), (128, 140)),
            *cheeks,
        ),
        cylinder("y", (-32, 32), 12, (-TRAIL, 0, z)),
    )
    group = Group("caster_fork_assembly")
    group.place(steel("caster_fork", body, SIGNAL_ORANGE))
    pin = steel("caster_pin", cylinder("y", (-36, 36), 12), BRIGHT_STEEL)
    return group.place(pin, (-TRAIL, 0, z))


def caster_wheel() -> Group:
    tread = cut(
        fuse(cylinder("y", (-18, 18), CASTER_DIAMETER), cylinder("y", (-22, 22), 36)),
        cylinder("y", (-22, 22), 12),
    )
    return Group("caster_wheel_assembly").place(rubber("caster_tread", tread))


def drum(fasteners: Fasteners) -> tuple[Group, Group]:
    """The stands, and what turns in them; both with the drum's axis above the origin."""
    z = DRUM[2]
    stand = cut(
        fuse(
            box((-70, 70), (150, 165), (DECK[1], z)),
            cylinder("y", (150, 165), 90, (0, 0, z)),
            box((-70, 70), (110, 150), (DECK[1], DECK[1] + 10)),
        ),
        cylinder("y", (150, 165), 40, (0, 0, z)),
    )
    product = steel("drum_stand", stand, DECK_GREY)
    stands = Group("drum_stand_assembly")
    for name, turn, side in (("port", None, 1), ("starboard", ("z", 180.0), -1)):
        stands.place(product, turn=turn, name=f"{name}_drum_stand")
        feet = [(x, side * 130.0, DECK[1] + 10) for x in (-50.0, 50.0)]
        fasteners.fasten(stands, f"{name}_stand", feet, 10, 20)
    reel: TopoDS_Shape = fuse(
        cylinder("y", (-185, 185), 40, (0, 0, z)),
        *(cylinder("y", y, 64, (0, 0, z)) for y in ((-150, -130), (130, 150))),
        *(cylinder("y", y, 300, (0, 0, z)) for y in ((-130, -120), (120, 130))),
        cylinder("y", (-120, 120), 120, (0, 0, z)),
    )
    coil = cut(
        cylinder("y", (-118, 118), 240, (0, 0, z)), cylinder("y", (-118, 118), 120, (0, 0, z))
    )
    turning = Group("drum_assembly").place(steel("reel", reel, SIGNAL_ORANGE))
    return stands, turning.place(Product("line_coil", coil, ROPE, "nylon rope", 700))


def sensors(fasteners: Fasteners) -> Group:
    """The post with scanner and camera; its foot at the origin."""
    post = fuse(box((-40, 40), (-40, 40), (0, 10)), box((-15, 15), (-15, 15), (10, 400)))
    group = Group("sensor_assembly")
    group.place(aluminium("sensor_post", post))
    feet = [(x, y, 10.0) for x in (-28.0, 28.0) for y in (-28.0, 28.0)]
    fasteners.fasten(group, "post", feet, 8, 20)
    group.place(aluminium("scanner", cylinder("z", (400, 470), 80), "#2f3f4a"))
    camera = fuse(box((15, 45), (-20, 20), (320, 360)), cylinder("x", (45, 58), 24, (0, 0, 340)))
    return group.place(aluminium("camera", camera, "#2f3f4a"))


def drum_cart() -> Group:
    fasteners = Fasteners()
    machine = Group("drum_cart")
    machine.place(chassis(fasteners))
    for wheel, side in zip(wheels().values(), (1, -1), strict=True):
        machine.place(wheel, (AXLE[0], side * WHEEL_Y, AXLE[2]))
    machine.place(caster_fork(), (*CASTER, 0))
    machine.place(caster_wheel(), (CASTER[0] - TRAIL, 0, CASTER_DIAMETER / 2))
    stands, turning = drum(fasteners)
    machine.place(stands, (DRUM[0], 0, 0))
    machine.place(turning, (DRUM[0], 0, 0))
    return machine.place(sensors(fasteners), (*POST, DECK[1]))


if __name__ == "__main__":
    write_step(drum_cart(), STEP_FILE)
