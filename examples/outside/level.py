"""Keep the walker's hull level by its IMU: it leans at first, and a loop brings it upright.

In one terminal:   mooring run walker.yaml --posture standing --listen
In another:        python examples/outside/level.py ws://127.0.0.1:8640
"""

import sys

import numpy as np

import mooring

LEGS = [
    f"{side}_{place}" for side in ("port", "starboard") for place in ("front", "middle", "rear")
]
STAND, KNEE = np.radians([25.0, -25.0])
GAIN, MOST = 2.0, 0.25  # of a thigh's pitch by the tilt [1/s], and of what it adds [rad]


def tilt(imu: dict[str, float]) -> np.ndarray:
    """Roll and pitch of the hull [rad]."""
    x, y, z, w = (imu[f"q{k}"] for k in "xyzw")
    return np.array([np.arctan2(2 * (w * x + y * z), 1 - 2 * (x * x + y * y)),
                     np.arcsin(np.clip(2 * (w * y - z * x), -1, 1))])  # fmt: skip


def main(url: str, seconds: float) -> None:
    # How a leg's place tips the hull when it stretches: to port, and forward.
    side = np.array([1.0 if leg.startswith("port") else -1.0 for leg in LEGS])
    ahead = np.array(
        [{"front": 1.0, "middle": 0.0, "rear": -1.0}[leg.split("_")[1]] for leg in LEGS]
    )
    added = 0.12 * side  # it leans at first
    with mooring.connect(url, name="levelling", rate=50, lost="hold") as walker:
        began, seen = walker.time, np.zeros(2)
        leaned = np.zeros(2)
        while walker.time < began + seconds:
            imu = walker.read("hull_imu")
            if imu is not None:
                seen = tilt(imu)
            if walker.time > began + 1.0:
                roll, pitch = seen
                added = np.clip(added + GAIN * 0.02 * (side * roll - ahead * pitch), -MOST, MOST)
            else:
                leaned = seen
            goals = {
                f"{leg}_thigh_pitch": STAND + more for leg, more in zip(LEGS, added, strict=True)
            }
            goals |= {f"{leg}_knee_pitch": KNEE for leg in LEGS}
            walker.command(positions=goals)
            if not walker.step(seconds=0.02):
                break
        before, after = np.degrees(np.abs(leaned).max()), np.degrees(np.abs(seen).max())
        print(f"it leaned {before:.2f} deg, and leans {after:.2f} deg")
        if not after < 0.3 < before:
            sys.exit("it is not level")


if __name__ == "__main__":
    main(sys.argv[1], float(sys.argv[2]) if len(sys.argv) > 2 else 4.0)
