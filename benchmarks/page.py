"""The live page: what a frame costs the server, and what travels."""

from __future__ import annotations

import json

from benchmarks.timing import best_of
from mooring import Robot
from mooring.kinematics import follow_branch, link_poses
from mooring.page.facts.poses import frame

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
