"""A tool's reachable positions, from above and from the side."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from matplotlib.figure import Figure
from scipy.spatial import ConvexHull

from mooring.drawing.palette import INK
from mooring.drawing.plots.style import styled
from mooring.files import write_whole
from mooring.geometry import Array, apply
from mooring.kinematics import link_poses
from mooring.kinematics.workspace import Workspace
from mooring.model import Robot
from mooring.model.shapes import corners_of

_VIEWS = (("from above", 0, 1), ("from the side", 0, 2))


def plot_workspace(robot: Robot, cloud: Workspace, file: Path) -> None:
    """Write the plot as PNG: each position colored by how freely the tool moves there.

    Args:
        robot: shown at its neutral posture.
        cloud: its workspace.
        file: .png.
    """
    outlines = _outlines(robot)
    with styled():
        figure = Figure(figsize=(12.8, 8.0), dpi=100, layout="constrained")
        figure.suptitle(f"{robot.name}: {cloud}", x=0.01, ha="left", fontsize=12, color=INK)
        order = np.argsort(cloud.manipulability)
        for axes, (title, across, up) in zip(figure.subplots(1, 2), _VIEWS, strict=True):
            for corners in outlines:
                flat = corners[:, [across, up]]
                rim = flat[ConvexHull(flat).vertices]
                axes.fill(rim[:, 0], rim[:, 1], facecolor="#e3e8eb", edgecolor="#aeb9c1", lw=0.7)
            dots = axes.scatter(
                cloud.points[order, across], cloud.points[order, up], s=7,
                c=cloud.manipulability[order], cmap="viridis", linewidths=0, alpha=0.8,
            )  # fmt: skip
            axes.set_aspect("equal")
            axes.set_title(title)
            axes.set_xlabel(f"{'xyz'[across]} [m]")
            axes.set_ylabel(f"{'xyz'[up]} [m]")
        bar = figure.colorbar(dots, ax=figure.axes, shrink=0.6, pad=0.01)
        bar.set_label("manipulability (Yoshikawa)")
    with write_whole(file) as stream:
        figure.savefig(stream, format="png")


def _outlines(robot: Robot) -> list[Array]:
    """The corners of each solid thing that the robot shows, at its neutral posture."""
    tree = robot.tree()
    poses = link_poses(tree, tree.neutral())
    frames = robot.link_frames()
    clouds = [
        apply(pose, corners_of([shape], frames[name]))
        for name, pose in zip(tree.links, poses, strict=True)
        for shape in robot.links[name].shown(robot.materials)
    ]
    # What is flat from one side has no outline there.
    return [cloud for cloud in clouds if len(cloud) > 3 and np.ptp(cloud, axis=0).min() > 0]
