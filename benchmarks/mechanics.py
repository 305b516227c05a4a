"""Kinematics, dynamics and simulation."""

from __future__ import annotations

import numpy as np

import mooring
from benchmarks.timing import best_of
from mooring import Robot, dynamics, kinematics
from mooring.demo import LINE_TENDER


def chain(joints: int) -> Robot:
    """A chain of equal bodies on revolute joints, every second one turned by a right angle."""
    robot = Robot(f"chain_{joints}")
    robot.add_link("link_0")
    for number in range(1, joints + 1):
        robot.add_link(f"link_{number}", mass=2.0, centre=(0, 0, 0.1), inertia=(0.01, 0.01, 0.004))
        robot.add_joint(
            f"joint_{number}",
            "continuous",
            parent=f"link_{number - 1}",
            child=f"link_{number}",
            at={"xyz": (0, 0, 0.2)},
            axis="y" if number % 2 else "x",
        )
    return robot


def dynamics_per_joint() -> None:
    """Forward dynamics: the cost of a joint should not depend on how many there are."""
    random = np.random.default_rng(0)
    reference = None
    for joints in (7, 30, 100):
        tree = chain(joints).tree()
        q, v, tau = random.normal(size=(3, 2000, joints))
        spent = best_of(lambda: dynamics.forward_dynamics(tree, q, v, tau)) / 2000 / joints
        reference = reference or spent
        print(
            f"forward dynamics, {joints:>3} joints: {1e9 * spent:>5.0f} ns a joint, "
            f"{spent / reference:.2f} of that with 7"
        )


def poses_against_the_mass_matrix() -> None:
    """What one evaluation costs in units of the cheapest."""
    tree = mooring.read(LINE_TENDER.document).tree()
    q = np.random.default_rng(0).normal(size=(5000, len(tree.coordinates)))
    poses = best_of(lambda: kinematics.link_poses(tree, q))
    for name, call in (
        ("inverse dynamics", lambda: dynamics.inverse_dynamics(tree, q, q, q)),
        ("mass matrix", lambda: dynamics.mass_matrix(tree, q)),
        ("forward dynamics", lambda: dynamics.forward_dynamics(tree, q, q, q)),
    ):
        print(f"{name} of the line tender: {best_of(call) / poses:.2f} of its link poses")


def simulation() -> None:
    """Simulated time over the time it takes."""
    tender = mooring.read(LINE_TENDER.document)
    spent = best_of(lambda: mooring.simulate(tender, motion="lay_line", seconds=10), 2)
    print(f"the line tender, loop closed, 1 ms steps: {10 / spent:.0f} times real time")
