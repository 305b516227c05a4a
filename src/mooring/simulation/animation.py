"""A recording as an animation that others can look at."""

from __future__ import annotations

from os import PathLike
from pathlib import Path

import numpy as np

from mooring.arguments import proven
from mooring.errors import ModelError
from mooring.formats.scenes.gltf import Motion, write_glb
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.simulation.recording.recording import Recording
from mooring.units import to_si


@proven
def write_animation(
    robot: Robot, recording: Recording, file: str | PathLike[str], *, rate: float | str = 30.0
) -> list[str]:
    """Write a recording as glTF 2.0 binary: the robot's geometry, with its links moving.

    Args:
        robot: the robot that was recorded.
        recording: of the run.
        file: .glb.
        rate: pictures a second [Hz]; between them positions are those recorded last.

    Returns:
        What glTF cannot carry, a sentence each.

    Raises:
        ModelError: the recording is of another robot, or holds no motion; the rate is not positive.

    Example:
        `write_animation(tender, mooring.simulate(tender, motion="lay_line"), "lay_line.glb")`
    """
    tree = robot.tree()
    if list(tree.coordinates) != recording.coordinates:
        raise ModelError(f"the recording of {recording.robot!r} is not one of {robot.name!r}")
    steps = to_si(rate, "frequency")
    if steps <= 0 or len(recording.table) < 2:
        raise ModelError("an animation needs two instants, and a rate greater than zero")
    recorded = recording.table.index.to_numpy(dtype=float)
    times = np.arange(recorded[0], recorded[-1] + 1e-9, 1 / steps)
    rows = np.searchsorted(recorded, times + 1e-9, side="right") - 1
    poses = link_poses(tree, recording.positions()[rows])
    by_name = {name: poses[:, row] for row, name in enumerate(tree.links)}
    return write_glb(robot, Path(file), motion=Motion(times - times[0], by_name))
