"""Drive the cart by the keyboard, with its scan in view, from a terminal.

In one terminal:   mooring run quay.yaml --listen
In another:        python examples/outside/drive.py ws://127.0.0.1:8640

Keys: w and s forward and back, a and d to the left and right, space stops, q ends it. What stands
less than 0.6 m ahead stops it. Without a terminal keys are read from the input, a line at a time.
"""

import select
import sys
import time

import numpy as np

import mooring

WHEELS = ["port_drive", "starboard_drive"]
ACROSS, DOWN, REACH = 61, 21, 5.0  # of the view [characters, m to either side]
NEAREST = 0.6


def view(scan: dict[str, float] | None) -> str:
    """The scan from above, the cart in its middle, forward to the right."""
    rows = [[" "] * ACROSS for _ in range(DOWN)]
    if scan is not None:
        far = np.array([value for name, value in scan.items() if name != "time"])
        angles = np.radians(np.linspace(-135, 135, len(far)))
        x, y = far * np.cos(angles), far * np.sin(angles)
        for ahead, left in zip(x[np.isfinite(far)], y[np.isfinite(far)], strict=True):
            column = round((ahead / REACH + 1) / 2 * (ACROSS - 1))
            row = round((1 - left / REACH) / 2 * (DOWN - 1))
            if 0 <= column < ACROSS and 0 <= row < DOWN:
                rows[row][column] = "#"
    rows[DOWN // 2][ACROSS // 2] = ">"
    return "\n".join("".join(row) for row in rows)


def main(url: str) -> None:
    forward = turn = 0.0
    is_terminal = sys.stdin.isatty()
    if is_terminal:
        import termios
        import tty

        kept = termios.tcgetattr(sys.stdin)
        tty.setcbreak(sys.stdin)
    with mooring.connect(url, name="keyboard", rate=20, lost="hold") as cart:
        try:
            drawn = 0.0
            while True:
                if select.select([sys.stdin], [], [], 0)[0]:
                    key = sys.stdin.read(1) if is_terminal else sys.stdin.readline()
                    if not key or key.strip() == "q":
                        break
                    forward += {"w": 0.1, "s": -0.1}.get(key.strip(), 0.0)
                    turn += {"a": 0.2, "d": -0.2}.get(key.strip(), 0.0)
                    if not key.strip():
                        forward = turn = 0.0
                scan = cart.read("quay_scanner")
                ahead = (
                    min((scan[f"0.{ray}"] for ray in range(230, 311)), default=np.inf)
                    if scan
                    else np.inf
                )
                if forward > 0 and ahead < NEAREST:
                    forward = 0.0
                cart.roll(WHEELS, forward, turn)
                cart.step(seconds=0.05)
                if is_terminal and time.monotonic() - drawn > 0.2:
                    drawn = time.monotonic()
                    words = f"{forward:.1f} m/s, {turn:.1f} rad/s, {ahead:.2f} m ahead"
                    print(f"\033[H\033[J{view(scan)}\n{words}", flush=True)
        finally:
            if is_terminal:
                termios.tcsetattr(sys.stdin, termios.TCSADRAIN, kept)
        at = cart.state.positions
        where = f"{at['base.x']:.2f}, {at['base.y']:.2f} m"
        print(f"the cart stands at {where}; {ahead:.2f} m ahead are free")


if __name__ == "__main__":
    main(sys.argv[1])
