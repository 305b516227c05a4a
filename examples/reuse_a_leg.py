"""One leg, twice: placed, mirrored, renamed, compared, exported."""

import sys
from pathlib import Path

import mooring
from mooring import Robot, demo, differences, kinematics

folder = Path(sys.argv[1] if len(sys.argv) > 1 else ".")

leg = mooring.read(demo.WALKER_LEG.document)
pair = Robot("pair")
pair.add_link("beam", mass="4 kg", inertia=(0.1, 0.1, 0.1))
pair.include(
    leg, prefix="left_", onto="beam", at={"xyz": (0, "200 mm", 0), "rpy": (0, 0, "90 deg")}
)
pair.include(
    leg, prefix="right_", onto="beam", mirror="y",
    at={"xyz": (0, "-200 mm", 0), "rpy": (0, 0, "-90 deg")},
)  # fmt: skip

# A posture that both have moves both; equal positions stand as mirror images.
q = kinematics.configuration(pair, "standing")
feet = kinematics.frame_poses(pair.tree(), q)
for side in ("left", "right"):
    print(f"{side} foot at", feet[f"{side}_foot"][:3, 3].round(4))

# One leg cut out again is the leg, but for the names.
again = pair.branch("left_hip", name="walker_leg")
print(len(differences(leg, again)), "differences, all of them names")

pair.rename("link", "beam", "spine")
print(pair.joints["left_mount"].parent)

for loss in pair.write(folder / "pair.glb", posture="standing"):
    print("glTF:", loss)
