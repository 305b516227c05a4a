"""Time on the bridge, as programs outside see it: round trips, rates, and simulated over real time.

`python -m benchmarks.bridge_timing` serves the drum cart by `mooring run --listen` in a process of
its own. One to four clients, each a process, ask for states at a rate and send a command for each.
"""

from __future__ import annotations

import json
import re
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np

from mooring.demo import DRUM_CART

_CLIENT = """
import json, sys, time
from mooring.access import with_token
from mooring.bridge.wire import Client
rate, seconds, drives = float(sys.argv[2]), float(sys.argv[3]), sys.argv[4] == "yes"
client = Client(with_token(sys.argv[1]), "client")
if drives:
    client.ask("take", rate=rate)
client.ask("watch", state=rate)
joint = next(name for name, facts in client.welcome["joints"].items() if facts["driven"])
trips, times = [], []

def told(message):
    if message["kind"] == "state":
        times.append((time.perf_counter(), message["time"]))

client.hear(10.0)
client.told = told
ends = time.perf_counter() + seconds
while time.perf_counter() < ends:
    seen = len(times)
    while len(times) == seen:
        client.hear(10.0)
    if drives:
        client.say("command", velocities={joint: 0.1})
    if len(times) % 10 == 0:
        began = time.perf_counter()
        client.ask("read", sensor="port_encoder")
        trips.append(time.perf_counter() - began)
gaps = [b[0] - a[0] for a, b in zip(times, times[1:])]
(first, start), (late, end) = times[0], times[-1]
print(json.dumps({"trips": trips, "gaps": gaps, "pace": (end - start) / (late - first),
                  "rate": len(times) / seconds}))
client.close()
"""


def timing(rate: float, clients: int, seconds: float = 5.0) -> None:
    """Print what clients see at a rate of states [Hz]."""
    with tempfile.TemporaryDirectory() as folder:
        server = subprocess.Popen(
            [sys.executable, "-c", "from mooring.cli import main; main()", "run",
             str(DRUM_CART.document), "--listen", "--seconds", "600",
             "-o", str(Path(folder) / "run")],
            stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
        )  # fmt: skip
        try:
            url = ""
            assert server.stdout is not None
            while not url:
                found = re.search(r"ws://\S+", server.stdout.readline())
                url = found[0] if found else ""
            programs = [
                subprocess.Popen(
                    [sys.executable, "-c", _CLIENT, url, str(rate), str(seconds),
                     "no" if k else "yes"],
                    stdout=subprocess.PIPE, text=True,
                )
                for k in range(clients)
            ]  # fmt: skip
            seen = [json.loads(program.communicate(timeout=120)[0]) for program in programs]
        finally:
            server.kill()
            server.wait()
    trips = 1e3 * np.concatenate([one["trips"] for one in seen])
    gaps = 1e3 * np.concatenate([one["gaps"] for one in seen])
    rates = ", ".join(f"{one['rate']:.0f}" for one in seen)
    print(
        f"{clients} at {rate:g} Hz: states a second {rates}; round trip {np.median(trips):.2f} ms, "
        f"99% {np.percentile(trips, 99):.2f} ms; gap 99% {np.percentile(gaps, 99):.2f} ms, longest "
        f"{gaps.max():.0f} ms; simulated over real time {min(one['pace'] for one in seen):.3f}"
    )


def main() -> None:
    for rate, clients in ((100, 1), (500, 1), (1000, 1), (200, 4), (1000, 4)):
        timing(rate, clients)


if __name__ == "__main__":
    main()
