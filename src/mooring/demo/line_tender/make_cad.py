"""Makes the line tender's CAD: `python -m mooring.demo.line_tender.make_cad`.

The machine stands on a quay, takes a ship's line and lays it over a bollard. Coordinates are
millimetres: x forward along the boom, y to port, z up from the quay.
"""

from __future__ import annotations

import math
from pathlib import Path

from mooring.demo.modelling import box, cut, cylinder, fuse, prism, ring_of
from mooring.demo.step_writer import Group, Product, write_step
from mooring.demo.workshop import (
    BRIGHT_STEEL,
    DECK_GREY,
    SIGNAL_ORANGE,
    Fasteners,
    bronze,
    rubber,
    steel,
)

STEP_FILE = Path(__file__).with_name("line_tender.step")

MAST_Z = 870.0
BOOM_PIVOT = (0.0, 0.0, 2300.0)
BARREL_EYE = (230.0, 0.0, 1250.0)
ROD_EYE = (900.0, 0.0, 2130.0)
WRIST_PIVOT = (2080.0, 0.0, 2300.0)
ROTATOR_Z = 2140.0
JAW_PIVOT = (80.0, -90.0)
"""y and z of the port jaw's pin, from the rotator's origin."""


def pedestal(fasteners: Fasteners) -> Group:
    holes = [(x, y) for x in (-380, 0, 380) for y in (-380, 0, 380) if (x, y) != (0, 0)]
    plate = cut(
        box((-450, 450), (-450, 450), (0, 30)),
        *(cylinder("z", (0, 30), 22, (x, y, 0)) for x, y in holes),
    )
    column = cut(
        fuse(cylinder("z", (30, 870), 320), cylinder("z", (830, 870), 440)),
        cylinder("z", (30, 650), 260),
        cylinder("z", (650, 870), 180),
    )
    gusset = prism([(158, -10, 30), (300, -10, 30), (158, -10, 330)], (0, 20, 0))
    cabinet = cut(
        box((-470, -190), (-160, 160), (300, 760)), box((-465, -195), (-155, 155), (305, 755))
    )
    rail = box((-190, -156), (-60, 60), (420, 640))

    group = Group("pedestal_assembly")
    group.place(steel("base_plate", plate, DECK_GREY))
    group.place(steel("column", column))
    gusset_product = steel("gusset", gusset)
    for number, angle in enumerate((45, 135, 225, 315), start=1):
        group.place(gusset_product, turn=("z", angle), name=f"gusset_{number}")
    fasteners.fasten(group, "anchor", [(x, y, 30) for x, y in holes], 20, 160, washers=True)
    box_group = Group("cabinet_assembly")
    box_group.place(Product("cabinet", cabinet, DECK_GREY, "aluminium", 2700))
    box_group.place(steel("cabinet_rail", rail, DECK_GREY))
    corners = [(-470.0, y, z) for y in (-140.0, 140.0) for z in (320.0, 740.0)]
    fasteners.fasten(box_group, "cabinet", corners, 8, 5, turn=("y", -90))
    return group.place(box_group)


def mast(fasteners: Fasteners) -> Group:
    circle = ring_of(12, 190, 15)
    holes = [cylinder("z", (0, 55), 16, (x, y, 0)) for x, y in circle]
    turntable = cut(fuse(cylinder("z", (0, 30), 440), cylinder("z", (-220, 0), 180)), *holes)
    tube = cut(box((-100, 100), (-100, 100), (55, 1270)), box((-88, 88), (-88, 88), (55, 1258)))
    cheeks = [box((-90, 90), (y, y + 25), (1180, 1530)) for y in (-120, 95)]
    post = cut(
        fuse(cylinder("z", (30, 55), 440), tube, *cheeks),
        cylinder("y", (-130, 130), 60, (0, 0, 1430)),
        *holes,
    )
    x, z = BARREL_EYE[0], BARREL_EYE[2] - MAST_Z
    # Lugs end before the barrel's tube begins, wherever it swings.
    lugs = [box((114, x + 30), (y, y + 20), (z - 40, z + 40)) for y in (-50, 30)]
    bracket = cut(
        fuse(box((100, 116), (-85, 85), (z - 110, z + 110)), *lugs),
        cylinder("y", (-60, 60), 40, (x, 0, z)),
    )

    group = Group("mast_assembly")
    group.place(steel("turntable", turntable, BRIGHT_STEEL))
    group.place(steel("mast_post", post))
    fasteners.fasten(group, "slew", [(px, py, 55) for px, py in circle], 16, 50, washers=True)
    group.place(steel("barrel_bracket", bracket))
    corners = [(116.0, py, pz) for py in (-68.0, 68.0) for pz in (z - 85, z + 85)]
    fasteners.fasten(group, "bracket", corners, 16, 30, turn=("y", 90))
    group.place(steel("luff_pin", cylinder("y", (-132, 132), 60), BRIGHT_STEEL), (0, 0, 1430))
    group.place(steel("barrel_pin", cylinder("y", (-62, 62), 40), BRIGHT_STEEL), (x, 0, z))
    return group


def luff_cylinder() -> Group:
    """The cylinder along its own z axis, the barrel's eye at the origin."""
    length = math.dist(BARREL_EYE, ROD_EYE)
    barrel = cut(
        fuse(
            cylinder("y", (-28, 28), 80),
            cylinder("z", (0, 62), 50),
            cylinder("z", (58, 860), 110),
        ),
        cylinder("z", (66, 860), 90),
        cylinder("y", (-28, 28), 40),
    )
    gland = cut(cylinder("z", (860, 890), 120), cylinder("z", (860, 890), 50))
    rod = cut(
        fuse(
            cylinder("z", (140, 180), 90),
            cylinder("z", (180, length - 30), 50),
            cylinder("y", (-28, 28), 90, (0, 0, length)),
        ),
        cylinder("y", (-28, 28), 40, (0, 0, length)),
    )
    group = Group("luff_cylinder_assembly")
    group.place(steel("barrel", barrel, SIGNAL_ORANGE))
    group.place(steel("gland", gland, SIGNAL_ORANGE))
    group.place(steel("piston_rod", rod, BRIGHT_STEEL))
    return group


def boom(fasteners: Fasteners) -> Group:
    """The boom with its pivot at the origin."""
    x, z = ROD_EYE[0] - BOOM_PIVOT[0], ROD_EYE[2] - BOOM_PIVOT[2]
    lugs = [box((x - 60, x + 60), (y, y + 20), (z - 60, -108)) for y in (-50, 30)]
    hollow = cut(
        box((-100, 1700), (-90, 90), (-110, 110)), box((-90, 1700), (-80, 80), (-100, 100))
    )
    tube = cut(
        fuse(hollow, cylinder("y", (-90, 90), 110), *lugs),
        cylinder("y", (-90, 90), 60),
        cylinder("y", (-60, 60), 40, (x, 0, z)),
    )
    collar = cut(
        box((1700, 1720), (-120, 120), (-140, 140)), box((1700, 1720), (-70, 70), (-85, 85))
    )
    flat_pad, side_pad = box((-60, 60), (-40, 40), (0, 15)), box((-60, 60), (0, 10), (-40, 40))

    group = Group("boom_assembly")
    group.place(steel("boom_tube", tube, SIGNAL_ORANGE))
    group.place(steel("boom_collar", collar, SIGNAL_ORANGE))
    flat, side = bronze("flat_wear_pad", flat_pad), bronze("side_wear_pad", side_pad)
    for number, px in enumerate((1450, 1630), start=1):
        group.place(flat, (px, 0, 85), name=f"top_wear_pad_{number}")
        group.place(flat, (px, 0, -100), name=f"bottom_wear_pad_{number}")
        group.place(side, (px, 70, 0), name=f"port_wear_pad_{number}")
        group.place(side, (px, -80, 0), name=f"starboard_wear_pad_{number}")
    corners = [(1720.0, py, pz) for py in (-98.0, 98.0) for pz in (-115.0, -40.0, 40.0, 115.0)]
    fasteners.fasten(group, "collar", corners, 10, 20, turn=("y", 90))
    group.place(steel("rod_pin", cylinder("y", (-62, 62), 40), BRIGHT_STEEL), (x, 0, z))
    return group


def jib(fasteners: Fasteners) -> Group:
    tube = cut(box((320, 1960), (-70, 70), (-85, 85)), box((320, 1960), (-62, 62), (-77, 77)))
    cheeks = [box((1980, 2140), (y, y + 20), (-70, 70)) for y in (-60, 40)]
    head = cut(
        fuse(box((1960, 1980), (-100, 100), (-95, 95)), *cheeks),
        cylinder("y", (-70, 70), 50, (WRIST_PIVOT[0], 0, 0)),
    )
    group = Group("jib_assembly")
    group.place(Product("jib_tube", tube, "#e3b23c", "aluminium", 2700))
    group.place(steel("jib_head", head))
    corners = [(1980.0, y, z) for y in (-84.0, 84.0) for z in (-78.0, -28.0, 28.0, 78.0)]
    fasteners.fasten(group, "head", corners, 12, 20, turn=("y", 90))
    pin = steel("wrist_pin", cylinder("y", (-66, 66), 50), BRIGHT_STEEL)
    return group.place(pin, (WRIST_PIVOT[0], 0, 0))


def wrist() -> Group:
    block = cut(
        box((-55, 55), (-38, 38), (-160, 55)),
        cylinder("y", (-38, 38), 50),
        cylinder("z", (-160, -95), 60),
    )
    return Group("wrist_assembly").place(steel("wrist_block", block, DECK_GREY))


def clamp(fasteners: Fasteners) -> Group:
    """The rotator and the clamp below it; origin where the shaft enters the wrist block."""
    y, z = JAW_PIVOT
    shaft = fuse(cylinder("z", (0, 60), 60), cylinder("z", (-20, 0), 150))
    forks = [box((x, x + 15), (-110, 110), (z - 30, -48)) for x in (-55, 40)]
    bores = [cylinder("x", (-60, 60), 24, (0, side * y, z)) for side in (1, -1)]
    body = cut(fuse(box((-70, 70), (-140, 140), (-50, -20)), *forks), *bores)
    jaw = cut(
        fuse(
            cylinder("x", (-35, 35), 54),
            box((-30, 30), (-15, 20), (-240, 0)),
            box((-30, 30), (-52, 20), (-240, -205)),
        ),
        cylinder("x", (-35, 35), 24),
    )
    pad = box((-30, 30), (-60, -52), (-240, -205))

    group = Group("clamp_assembly")
    group.place(steel("rotator_shaft", shaft, BRIGHT_STEEL))
    group.place(steel("clamp_body", body))
    circle = [(px, py, -50.0) for px, py in ring_of(6, 60)]
    fasteners.fasten(group, "clamp", circle, 8, 30, turn=("x", 180))
    pin = steel("jaw_pin", cylinder("x", (-60, 60), 24), BRIGHT_STEEL)
    jaw_product, pad_product = steel("jaw", jaw, SIGNAL_ORANGE), rubber("jaw_pad", pad)
    for side, turn, pivot in (("port", None, y), ("starboard", ("z", 180.0), -y)):
        group.place(pin, (0, pivot, z), name=f"{side}_jaw_pin")
        group.place(jaw_product, (0, pivot, z), turn, f"{side}_jaw")
        group.place(pad_product, (0, pivot, z), turn, f"{side}_jaw_pad")
    return group


def line_tender() -> Group:
    """The whole machine in its neutral posture: boom level, jib in, clamp hanging."""
    fasteners = Fasteners()
    lean = math.degrees(math.atan2(ROD_EYE[0] - BARREL_EYE[0], ROD_EYE[2] - BARREL_EYE[2]))
    machine = Group("line_tender")
    machine.place(pedestal(fasteners))
    machine.place(mast(fasteners), (0, 0, MAST_Z))
    machine.place(luff_cylinder(), BARREL_EYE, ("y", lean))
    machine.place(boom(fasteners), BOOM_PIVOT)
    machine.place(jib(fasteners), BOOM_PIVOT)
    machine.place(wrist(), WRIST_PIVOT)
    machine.place(clamp(fasteners), (WRIST_PIVOT[0], 0, ROTATOR_Z))
    return machine


if __name__ == "__main__":
    write_step(line_tender(), STEP_FILE)
