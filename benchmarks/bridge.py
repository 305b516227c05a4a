"""The bridge: periods of lock-step, round trips and their jitter, and copies for learning."""

import math
import resource
import subprocess
import sys
import time

import numpy as np

import mooring
from mooring.access import address
from mooring.bridge.environments import Environments, Task
from mooring.bridge.session import Session
from mooring.bridge.transports.websocket import WebSocketServer
from mooring.demo import DRUM_CART, WALKER
from mooring.simulation.playing import Player

_PROGRAM = """
import sys, time
from mooring.bridge.wire import Client
client = Client(sys.argv[1], binary=sys.argv[2] == "cbor")
client.ask("take", rate=1000, lockstep=True)
state = client.turn()
driven = [joint for joint, facts in client.welcome["joints"].items() if facts["driven"]]
goals = {joint: state["positions"][joint] for joint in driven}
times = []
for _ in range(int(sys.argv[3])):
    began = time.perf_counter()
    client.advance({"kind": "command", "positions": goals})
    times.append(time.perf_counter() - began)
client.close()
print(*times)
"""


def lock_step() -> None:
    """Periods a second over localhost, one step each, and how long each takes."""
    sys.setswitchinterval(5e-4)
    for name, robot in (("walker", WALKER.document), ("cart", DRUM_CART.document)):
        player = Player(mooring.Simulation(mooring.read(robot), keep=1.0), math.inf)
        session = Session(player, lockstep=True)
        server = WebSocketServer(session, address(first=8700, scheme="ws"))
        player.play()
        for coding in ("json", "cbor"):
            program = [sys.executable, "-c", _PROGRAM, server.where.url, coding, "3000"]
            done = subprocess.run(program, capture_output=True, text=True, check=True)
            times = 1e6 * np.array(done.stdout.split(), dtype=float)
            middle, late = np.percentile(times, [50, 99])
            print(
                f"lock-step of the {name} in {coding}: {1e6 / times.mean():.0f} periods a second; "
                f"a round trip takes {middle:.0f} us, 1 of 100 more than {late:.0f} us"
            )
        server.close()
        session.close()
        player.close()


def copies() -> None:
    """Time steps a second of a batch of carts, and the share of Python in it."""
    cart = mooring.read(DRUM_CART.document)
    for sensor in ("quay_scanner", "front_camera"):
        cart.remove("sensor", sensor)
    task = Task(["base.x", "base.y", "base.vx"],
                {"port_drive.effort": (-5, 5), "starboard_drive.effort": (-5, 5)},
                lambda seen, _: seen["base.vx"])  # fmt: skip
    environments = Environments(cart, task, 128)
    environments.reset(seed=0)
    random = np.random.default_rng(0)
    actions = random.uniform(-5, 5, (50, 128, 2))
    inside = 0.0
    run = environments.batch.run

    def timed(*given: object) -> object:
        nonlocal inside
        began = time.perf_counter()
        found = run(*given)  # type: ignore[arg-type]
        inside += time.perf_counter() - began
        return found

    environments.batch.run = timed  # type: ignore[method-assign, assignment]
    began = time.perf_counter()
    for action in actions:
        environments.step(action)
    span = time.perf_counter() - began
    steps = actions.shape[0] * 128 * 20
    print(
        f"128 carts to learn with: {steps / span:.0f} time steps a second, "
        f"{1 - inside / span:.1%} of it in Python"
    )


def soak(steps: int = 1_000_000, robot: mooring.Robot | None = None) -> None:
    """Memory while steps of the cart, or of another robot, are served to two programs."""
    simulation = mooring.Simulation(robot or mooring.read(DRUM_CART.document), keep=10.0)
    player = Player(simulation, math.inf)
    session = Session(player)
    server = WebSocketServer(session, address(first=8700, scheme="ws"))
    clients = [mooring.connect(server.where.url, name=f"watcher {k}", watch=True) for k in range(2)]
    player.play()
    kept, heard = [], [0, 0]
    while session.simulation.native.steps < steps:
        for k, client in enumerate(clients):
            client.step(seconds=0.0)
            client.events.clear()
            heard[k] += 1
        if session.simulation.native.steps > len(kept) * steps / 10:
            kept.append(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024)
        time.sleep(0.002)
    drift = abs(session.simulation.time - session.simulation.native.steps * 1e-3)
    print(
        f"{steps:,} steps served to two: {kept[2]:.0f} MiB after a fifth, {kept[-1]:.0f} MiB at "
        f"the end; the clock is off by {drift:.0e} s"
    )
    for client in clients:
        client.close()
    server.close()
    session.close()
    player.close()


if __name__ == "__main__":
    # Ten million steps, of something light.
    mast = mooring.Robot("mast")
    mast.add_link("post")
    mast.add_link("vane", mass=1, centre=(0.3, 0, 0), inertia=(0.01, 0.01, 0.01))
    mast.add_joint("swing", "continuous", parent="post", child="vane", axis="y", damping=0.01)
    mast.add_motor("drive", joint="swing", p=20, d=1)
    mast.add_sensor("count", "encoder", joint="swing", rate=10)
    soak(10_000_000, mast)
