"""A gait controller of the walker, in a process of its own: NumPy, and one file of Mooring's.

In one terminal:   mooring run breakwater.yaml --listen --lock-step --seconds 12 -o walk --film
In another:        python examples/outside/walk.py 'ws://127.0.0.1:8640/?token=...'

It leans on its feet and its IMU: where the hull tips, the legs of the lower side stretch.
"""

import sys
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).parents[2] / "src" / "mooring" / "bridge"))
from wire import Client, LostError  # copied beside a controller, it is `from wire import ...`

RATE = 100.0
PERIOD = 1.76  # of a whole step of both tripods [s]
STRIDE, CARRY, STAND = np.radians([12.0, 42.0, 25.0])
KNEE = np.radians(-25.0)
LEVELLING = 0.6  # of a leg's pitch by the hull's tilt [1]
FIRST = {"port_front", "port_rear", "starboard_middle"}
LEGS = [
    f"{side}_{place}" for side in ("port", "starboard") for place in ("front", "middle", "rear")
]
SIDE = {leg: 1.0 if leg.startswith("port") else -1.0 for leg in LEGS}
AHEAD = {leg: {"front": 1.0, "middle": 0.0, "rear": -1.0}[leg.partition("_")[2]] for leg in LEGS}


def raised(phase: float) -> float:
    """How far a foot is carried, 0 to 1: in the first half of its cycle."""
    return float(np.sin(2 * np.pi * phase) ** 2) if phase < 0.5 else 0.0


def swung(phase: float) -> float:
    """Where a hip is, -1 (forward) to 1: forward while the foot is carried, back on the ground."""
    return float(np.cos(2 * np.pi * phase)) if phase < 0.5 else float(-1 + 4 * (phase - 0.5))


def tilt(quaternion: np.ndarray) -> tuple[float, float]:
    """Roll and pitch of the hull [rad]."""
    x, y, z, w = quaternion
    roll = np.arctan2(2 * (w * x + y * z), 1 - 2 * (x * x + y * y))
    return float(roll), float(np.arcsin(np.clip(2 * (w * y - z * x), -1, 1)))


def targets(time: float, roll: float, pitch: float) -> dict[str, float]:
    """Where each joint is to be."""
    goals = {}
    ramp = min(1.0, time / 1.5)
    for leg in LEGS:
        phase = (time / PERIOD + (0.0 if leg in FIRST else 0.5)) % 1.0
        lean = LEVELLING * (SIDE[leg] * roll - 0.6 * AHEAD[leg] * pitch)
        goals[f"{leg}_hip_yaw"] = ramp * STRIDE * swung(phase)
        thigh = STAND + ramp * (CARRY - STAND) * raised(phase) + float(np.clip(lean, -0.15, 0.15))
        goals[f"{leg}_thigh_pitch"] = thigh
        goals[f"{leg}_knee_pitch"] = KNEE
    return goals


def main(url: str, seconds: float) -> None:
    with Client(url, name="gait") as walker:
        walker.ask("watch", sensors=["hull_imu"])
        walker.ask("take", rate=RATE, lockstep=True, lost="hold")
        seen = np.array([0.0, 0.0, 0.0, 1.0])

        def hear(message: dict) -> None:
            nonlocal seen
            if message["kind"] == "measurement":
                seen = np.array([message["values"][f"q{k}"] for k in "xyzw"])

        walker.told = hear
        state = walker.turn()
        began = state["time"]
        first = state["positions"]["base.x"]
        try:
            while state["time"] < began + seconds:
                goals = targets(state["time"] - began, *tilt(seen))
                state = walker.advance({"kind": "command", "positions": goals})
        except LostError as error:
            print(f"it ended: {error}")
        roll, pitch = np.degrees(tilt(seen))
        print(
            f"{state['positions']['base.x'] - first:.2f} m in {state['time'] - began:.1f} s; "
            f"it leans {roll:.1f} and {pitch:.1f} deg"
        )


if __name__ == "__main__":
    main(sys.argv[1], float(sys.argv[2]) if len(sys.argv) > 2 else 12.0)
