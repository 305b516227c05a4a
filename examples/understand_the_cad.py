"""Understand a CAD file before describing a robot: hardware, what touches, and a first proposal.

Run it with a folder for what comes out: python examples/understand_the_cad.py out
"""

import sys
from pathlib import Path

import mooring
from mooring.cad.proposing import propose
from mooring.demo import LINE_TENDER
from mooring.drawing import draw_parts

folder = Path(sys.argv[1] if len(sys.argv) > 1 else "out")
assembly = mooring.read_cad(LINE_TENDER.step)

# The heaviest parts, from a table with one row a part.
table = assembly.table
table["mass"] = table["volume"] * table["density"]
print(table.nlargest(5, "mass")[["product", "mass", "material"]])

# What looks like hardware, with the reasons, before anything is dropped.
for kind in assembly.hardware():
    print(f"{len(kind.parts):>3} x {kind.name}: {'; '.join(kind.reasons)}")
bare = assembly.drop(hardware=True)
print(f"{len(bare.parts)} parts without it")

# What touches what; a part forgotten in the CAD would be a group of its own.
print(f"{len(assembly.touching())} contacts, {len(assembly.groups())} group")

# A first guess of the robot, each joint with its reason.
proposal = propose(assembly)
for joint in proposal.joints:
    print(f"{joint.name}: {joint.kind}, {joint.parent} -> {joint.child} ({joint.reason})")

for path in draw_parts(assembly, folder / "parts.png"):
    print("wrote", path)
