"""The live page: what a frame costs the server, and what travels."""

from __future__ import annotations

import asyncio
import json
import math
import time

from benchmarks.timing import best_of
from mooring import Ground, Robot, Scene, Simulation
from mooring.demo import LINE_TENDER
from mooring.kinematics import follow_branch, link_poses
from mooring.page.desk import Desk
from mooring.page.desk.opened import ModelSource
from mooring.page.facts.poses import frame
from mooring.page.facts.properties import joint_rows
from mooring.page.shell.host import Host
from mooring.simulation.playing import Player

_LINKS = 60
_TIMES = 200


def frames() -> None:
    """A chain of sixty links that is jogged."""
    robot = Robot("chain")
    robot.add_link("link_0", mass=1.0, inertia=(1, 1, 1))
    for number in range(1, _LINKS):
        robot.add_link(f"link_{number}", mass=1.0, inertia=(1, 1, 1))
        robot.add_joint(
            f"joint_{number}", "continuous", parent=f"link_{number - 1}", child=f"link_{number}",
            at=(0.1, 0, 0),
        )  # fmt: skip
    tree = robot.tree()
    q = tree.neutral()

    def jogged() -> None:
        for number in range(_TIMES):
            frame(tree, follow_branch(tree, q, {"joint_1": 0.01 * number}).q)

    def told() -> None:
        for _ in range(_TIMES):
            frame(tree, q)

    def posed() -> None:
        for _ in range(_TIMES):
            link_poses(tree, q)

    alone, packed, whole = (best_of(call) / _TIMES for call in (posed, told, jogged))
    size = len(json.dumps(frame(tree, q)))
    print(
        f"a frame of {_LINKS} links is 1 message of {size:,} bytes; packing it takes "
        f"{packed / alone:.1f} times the poses alone, and jogging, posing and packing "
        f"{100 * 30 * whole:.1f}% of a core at 30 frames a second"
    )


def stalls() -> None:
    """How long the server of the page waits for itself: jogging a loop, choosing, and running.

    Without the windows' own elements, which only a browser asks for.
    """
    desk = Desk(ModelSource(LINE_TENDER.document))
    crates = Scene("crates", ground=Ground())
    for number in range(30):
        at = (0.3 * (number % 5), 0.3 * (number // 5 % 3), 0.2 + 0.25 * (number // 15))
        crates.add_body(f"crate_{number}", box=(0.2, 0.2, 0.2), mass=5, at=at)
    player = Player(Simulation(crates, keep="1 min"), math.inf)
    worst, frames_told = asyncio.run(_worked(desk, player))
    player.close()
    print(
        f"the longest wait of the event loop is {1e3 * worst:.0f} ms, over {frames_told} frames of "
        "jogging, choosing, and 30 boxes running as fast as they go"
    )


async def _worked(desk: Desk, player: Player) -> tuple[float, int]:
    host = Host(desk)
    gaps: list[float] = []

    async def watch() -> None:
        last = time.perf_counter()
        while True:
            await asyncio.sleep(0)
            now = time.perf_counter()
            gaps.append(now - last)
            last = now
            await asyncio.sleep(0.001)
            last = time.perf_counter()

    watching = asyncio.create_task(watch())
    player.play()
    names = list(desk.robot.joints)
    for number in range(240):
        desk.jog("extension", 0.3 + 0.2 * math.sin(0.1 * number))
        host.frame_news()
        joint = names[number % len(names)]
        for row in joint_rows(desk.robot, joint):
            if row.path:
                desk.documents.home_of(desk.robot, row.path)
        player.moment()
        await asyncio.sleep(1 / 30)
    watching.cancel()
    return max(gaps), 240
