"""Kinematics, dynamics and simulation."""

from __future__ import annotations

from time import perf_counter

import numpy as np

import mooring
from benchmarks.timing import best_of
from mooring import Robot, dynamics, kinematics
from mooring.demo import LINE_TENDER
from mooring.kinematics.overlaps import Surroundings
from mooring.kinematics.overlaps.survey import random_positions


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


def an_arm() -> Robot:
    """Seven joints, every second one across the last."""
    robot = chain(7)
    for joint in robot.joints.values():
        joint.limits.lower, joint.limits.upper = -2.8, 2.8
    robot.add_frame("tool", link="link_7", at=(0, 0, 0.2), role="tool")
    return robot


def kinematics_of_an_arm() -> None:
    """Poses, Jacobians and inverse kinematics of an arm of seven joints."""
    robot = an_arm()
    tree = robot.tree()
    random = np.random.default_rng(1)
    q = random.uniform(-2.5, 2.5, size=(20_000, 7))
    poses = best_of(lambda: kinematics.link_poses(tree, q)) / len(q)
    jacobians = best_of(lambda: kinematics.jacobian(tree, q, "tool")) / len(q)
    print(
        f"7 joints: {1 / poses:,.0f} poses a second; a Jacobian takes {jacobians / poses:.2f} of "
        "the poses' time"
    )
    targets = kinematics.frame_poses(tree, q[:300])["tool"]
    spent = []
    reached = 0
    for target in targets:
        start = perf_counter()
        reached += kinematics.solve_ik(robot, "tool", target, tree=tree).reached
        spent.append(perf_counter() - start)
    print(
        f"7 joints: inverse kinematics takes {np.median(spent) / poses:,.0f} poses' time "
        f"({1e6 * np.median(spent):.0f} us) at the median; {reached} of {len(targets)} reached"
    )


def overlaps() -> None:
    """Queries between pairs of links."""
    around = Surroundings(mooring.read(LINE_TENDER.document))
    q = random_positions(around.tree, 400)
    pairs = around.pairs.judged
    close = best_of(lambda: around.distances(q, pairs))
    far = best_of(lambda: around.distances(q, pairs, 0.05))
    count = len(q) * len(pairs)
    print(
        f"the line tender's overlaps: {count / close:,.0f} exact distances a second; within 50 mm "
        f"{close / far:.1f} times as many"
    )
