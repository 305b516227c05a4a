"""Build the line tender's crane from its CAD parts in Python, check it and write it as URDF.

Run it with a folder for what comes out: python examples/build_in_python.py out
"""

import sys
from pathlib import Path

import mooring
from mooring.demo import LINE_TENDER

folder = Path(sys.argv[1] if len(sys.argv) > 1 else "out")

# 1. The parts. Bolts and washers are left out on purpose, so that no check calls them forgotten.
assembly = mooring.read_cad(LINE_TENDER.step).drop("*_bolt_*", "*_washer_*")
print(f"{assembly.name}: {len(assembly.parts)} parts")

# 2. Links: what moves together. Materials come from the CAD file where none is given.
robot = mooring.Robot("crane")
robot.add_link(
    "pedestal",
    parts=assembly.pick("base_plate", "column", "gusset_*", "cabinet*"),
    cad=assembly,
    collision="box",
)
robot.add_link("mast", parts=assembly.pick("*/mast_assembly/*"), collision="capsule")
robot.add_link("boom", parts=assembly.pick("*/boom_assembly/*"), collision="box")
robot.add_link(
    "jib",
    parts=assembly.pick("*/jib_assembly/*", "*/wrist_assembly/*", "*/clamp_assembly/*"),
    mass="84 kg",  # as weighed, hoses included
)
# The cylinder is left out of this crane: the boom gets a motor of its own.
robot.add_link("cylinder", parts=assembly.pick("*/luff_cylinder_assembly/*"))

# 3. Joints: where a bore and its pin share an axis.
robot.add_joint(
    "slew", "revolute", parent="pedestal", child="mast",
    at=assembly.bore("column", "turntable"),
    lower="-170 deg", upper="170 deg", velocity="20 deg/s", effort="600 N*m",
)  # fmt: skip
robot.add_joint(
    "luff", "revolute", parent="mast", child="boom",
    at=assembly.bore("mast_post", "boom_tube"), axis="-y",
    lower="-5 deg", upper="54 deg", velocity="15 deg/s", effort="4 kN*m",
)  # fmt: skip
robot.add_joint(
    "telescope", "prismatic", parent="boom", child="jib", axis="x",
    lower=0, upper="820 mm", velocity="250 mm/s", effort="2 kN",
)  # fmt: skip
robot.add_joint("cylinder_mount", "fixed", parent="mast", child="cylinder")

# 4. What it weighs, and whether it is sound.
print(f"{robot.name}: {robot.mass():.1f} kg, moving joints {', '.join(robot.coordinates)}")
report = mooring.check(robot)
print(report)
assert report.ok

# 5. For other programs.
for loss in robot.write(folder / "crane.urdf"):
    print("not carried:", loss)
mooring.picture(robot, posture={"luff": "30 deg", "telescope": "500 mm"}).save(folder / "crane.png")
print("wrote", folder / "crane.urdf", "and", folder / "crane.png")
