"""`make bench` or `python -m benchmarks`: what is fast and what is not, as ratios."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np

import mooring
from mooring import Robot, dynamics, kinematics
from mooring.cad import read_cad
from mooring.cad.sampling import Sampling
from mooring.cad.step import read_step
from mooring.demo import LINE_TENDER
from mooring.drawing.camera import looking_at
from mooring.drawing.pieces import Piece
from mooring.drawing.primitives import turned
from mooring.drawing.render import Ground, render
from mooring.geometry import placement


def best_of(call: Callable[[], object], times: int = 5) -> float:
    """The shortest of several durations [s], the first call not counted."""
    call()
    durations = []
    for _ in range(times):
        began = time.perf_counter()
        call()
        durations.append(time.perf_counter() - began)
    return min(durations)


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


def reading() -> None:
    """A second reading against the first."""
    fresh = best_of(lambda: read_step(LINE_TENDER.step, Sampling()), 1)
    again = best_of(lambda: read_cad(LINE_TENDER.step))
    print(f"reading the line tender's STEP file again: {fresh / again:.0f} times faster")


def rendering() -> None:
    """A picture of 200,000 triangles against one of 26,000."""
    angles = np.linspace(-np.pi / 2, np.pi / 2, 72)
    profile = np.stack([np.cos(angles), np.sin(angles)], axis=1)
    profile[[0, -1], 0] = 0
    ball = turned(profile)
    spent = []
    for columns in (2, 15):
        pieces = [
            Piece(ball, placement((2.2 * i, 2.2 * j, 1)), "#d9822b")
            for i in range(columns)
            for j in range(2)
        ]
        points = np.concatenate([piece.vertices for piece in pieces])
        camera = looking_at(points, "corner", 1.6)
        ground = Ground(0, 1)
        spent.append(best_of(lambda: render(pieces, camera, (1280, 800), ground), 3))
        triangles = sum(len(piece.mesh.faces) for piece in pieces)
        print(
            f"picture of {triangles:,} triangles, 1280 x 800: {spent[-1]:.2f} s, "
            f"{spent[-1] / spent[0]:.2f} of the first"
        )


if __name__ == "__main__":
    for measure in (
        dynamics_per_joint,
        poses_against_the_mass_matrix,
        simulation,
        reading,
        rendering,
    ):
        measure()
