"""Listen to a run or a machine without having the say, and plot what was heard.

In one terminal:   mooring run quay.yaml --listen
In another:        python examples/outside/monitor.py ws://127.0.0.1:8640 heard.png
"""

import sys

import matplotlib

matplotlib.use("Agg")
import matplotlib.pyplot as plt

import mooring


def main(url: str, file: str, seconds: float) -> None:
    times, heard = [], []
    with mooring.connect(url, name="monitor", watch=True) as machine:
        began = machine.time
        joints = [j for j, facts in machine.welcome["joints"].items() if facts["driven"]]
        while machine.time < began + seconds and machine.step(seconds=0.05):
            state = machine.state
            times.append(state.time)
            heard.append([state.velocities[joint] for joint in joints])
        units = {joint: machine.welcome["joints"][joint]["unit"] for joint in joints}
    figure, axes = plt.subplots(len(joints), sharex=True, figsize=(9, 1.6 * len(joints) + 0.8))
    for axis, joint, values in zip(each(axes), joints, zip(*heard, strict=True), strict=True):
        axis.plot(times, values, color="#2f4bb8", linewidth=1.4)
        # Steady speeds look steady.
        middle, reach = (max(values) + min(values)) / 2, max(0.1, 0.6 * (max(values) - min(values)))
        axis.set_ylim(middle - reach, middle + reach)
        axis.set_title(f"{joint} [{units[joint]}/s]", loc="left", fontsize=9)
        axis.grid(color="#e4e4e0")
    figure.supxlabel("time [s]")
    figure.tight_layout()
    figure.savefig(file, dpi=120)
    print(f"heard {len(times)} states of {len(joints)} motors; wrote {file}")


def each(axes: object) -> list:
    """The axes of a figure, of which there may be one."""
    return list(axes) if hasattr(axes, "__iter__") else [axes]


if __name__ == "__main__":
    main(sys.argv[1], sys.argv[2], float(sys.argv[3]) if len(sys.argv) > 3 else 5.0)
