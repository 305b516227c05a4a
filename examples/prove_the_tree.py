"""Prove the line tender: its loop, its reach, its motors, and that it hits nothing.

Run it with a folder for what comes out: python examples/prove_the_tree.py out
"""

import sys
from pathlib import Path

import numpy as np

import mooring
from mooring import kinematics
from mooring.demo import LINE_TENDER
from mooring.drawing.exercise import draw_sheets

folder = Path(sys.argv[1] if len(sys.argv) > 1 else "out")
tender = mooring.read(LINE_TENDER.document)
tree = tender.tree()

# How many ways it can move, with the loop of boom, cylinder and mast.
print(kinematics.mobility(tender))

# The boom goes up when the cylinder gets longer; either joint may be the one that is driven.
q = kinematics.configuration(tender, {"extension": "200 mm"})
v = kinematics.loop_velocities(tree, q, {"extension": 0.1})
print(f"at 100 mm/s the boom rises by {np.degrees(v[tree.freedom('luff')]):.1f} deg/s")

# Which way to the ship's rail? And why not farther?
for target in ((2.2, 1.0, 2.4), (4.0, 0.0, 2.0)):
    found = kinematics.solve_ik(tender, "grip", target, near="stowed", tree=tree)
    print(f"{target}: {found}")

# Every joint through its range.
done = mooring.exercise(tender)
for effort in done.efforts:
    print(f"{effort.joint:<16} holding takes up to {100 * effort.share:>3.0f}% of its limit")
assert done.nearest is not None
print(
    f"nothing overlaps; nearest are {done.nearest.first} and {done.nearest.second}, "
    f"{1000 * done.nearest.distance:.1f} mm apart"
)
folder.mkdir(parents=True, exist_ok=True)
print("wrote", *draw_sheets(done, folder / "exercise.png"))
