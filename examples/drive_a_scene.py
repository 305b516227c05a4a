"""Put the drum cart into a scene of its own, drive it by a controller, and read its sensors.

Run it with a folder for what comes out: python examples/drive_a_scene.py out
"""

import sys
from pathlib import Path

import numpy as np

import mooring
from mooring.demo import DRUM_CART
from mooring.drawing import camera_pictures
from mooring.drawing.runs import draw_moments

folder = Path(sys.argv[1] if len(sys.argv) > 1 else "out")
folder.mkdir(parents=True, exist_ok=True)

scene = mooring.Scene("approach", ground={"height": 0})
scene.add_robot(mooring.read(DRUM_CART.document))
scene.add_obstacle("wall", box=("200 mm", "3 m", "1 m"), at=("2.5 m", 0, "0.5 m"))
scene.add_body("crate", box=("0.3 m", "0.3 m", "0.3 m"), mass="4 kg", at=("1.2 m", "1 m", 0.15))


def keep_off(simulation: mooring.Simulation) -> None:
    """Drive on while the scanner sees free way, and stop half a metre short."""
    scan = simulation.read("quay_scanner")
    free = np.inf if scan is None else min(scan[f"0.{ray}"] for ray in range(240, 301))
    speed = 3.0 if free > 0.8 else 0.0
    for joint in ("port_drive", "starboard_drive"):
        now = simulation.state.positions[joint]
        simulation.command(positions={joint: now + 0.05 * speed}, velocities={joint: speed})


recording = mooring.simulate(scene, seconds=5, controllers=[(keep_off, "20 Hz")])
print(f"it came {recording.table['base.x'].iloc[-1]:.2f} m far")
assert 0.5 < recording.table["base.x"].iloc[-1] < 2.0
for finding in recording.diagnose():
    print("found:", finding)

last = list(camera_pictures(scene.robot, recording, "front_camera"))[-1]
assert last.depth is not None
print(f"its camera has the wall {last.depth[200, 320]:.2f} m ahead")
draw_moments(scene.robot, recording).save(folder / "approach.png")
recording.write(folder / "approach")
