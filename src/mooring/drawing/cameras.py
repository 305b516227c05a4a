"""What a camera on a robot saw: color, depth, and which link is where."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from mooring._native.drawing import rasterise
from mooring.cad import Mesh
from mooring.drawing.camera import Camera
from mooring.drawing.cutting import kept_part
from mooring.drawing.pieces import Piece
from mooring.drawing.render import FAR, LevelGround, render
from mooring.drawing.runs.instant import land, shapes_of_links
from mooring.errors import ModelError
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.model.sensors import Sensor
from mooring.simulation import Recording
from mooring.tree import Tree

GROUND = "ground"
_NEAREST = 0.01
"""What is nearer to the lens is not seen [m]."""


@dataclass(frozen=True, eq=False)
class Exposure:
    """One picture of a camera sensor.

    Attributes:
        time: when it was taken [s].
        color: (height, width, 3), 8 bits; None where the sensor has no such channel.
        depth: along the line of sight's axis, (height, width) [m]; inf where nothing is.
        label: (height, width), index into `names`; -1 where nothing is.
        names: of links, and of the ground.
    """

    time: float
    color: NDArray[np.uint8] | None
    depth: Array | None
    label: NDArray[np.int32] | None
    names: tuple[str, ...]


def camera_pictures(robot: Robot, recording: Recording, sensor: str) -> Iterator[Exposure]:
    """Draw what a camera saw during a run, one picture after the other.

    Args:
        robot: everything that was recorded.
        recording: of the run.
        sensor: the camera's name.

    Raises:
        ModelError: no camera has that name.

    Example:
        `first = next(camera_pictures(cart, run, "front_camera"))`
    """
    camera = robot.sensors.get(sensor)
    if camera is None or camera.view is None:
        raise ModelError(f"no camera is called {sensor!r}")
    table = recording.sensors[sensor]
    states = table[recording.coordinates].to_numpy(dtype=float)
    tree = robot.tree()
    for time, q in zip(table.index, states, strict=True):
        yield exposure(robot, tree, camera, q, recording.ground, float(time))


def exposure(
    robot: Robot,
    tree: Tree,
    camera: Sensor,
    q: Array,
    ground: Ground | None,
    time: float,
    channels: tuple[str, ...] = (),
) -> Exposure:
    """What a camera sees at positions q (n,).

    Args:
        robot, tree: that carry it.
        camera: a sensor that takes pictures.
        q: (n,).
        ground: of the scene.
        time: of the picture [s].
        channels: what to draw; the camera's own channels if empty.
    """
    view = camera.view
    assert view is not None
    channels = channels or view.channels
    poses = np.asarray(link_poses(tree, q))
    mount = camera.mount(robot, tree)
    pose = poses[mount.body] @ mount.place
    width, height = view.size
    extent = float(np.tan(view.field / 2)) * height / width
    # It looks along its x axis, with z up.
    eye = Camera(pose[:3, 3], -pose[:3, 1], pose[:3, 2], -pose[:3, 0], extent, True)
    pieces = shapes_of_links(robot, tree, poses)
    level: LevelGround | None = None
    if ground is not None and ground.heights is not None:
        pieces.append((GROUND, land(ground)))
    elif ground is not None:
        level = LevelGround(ground.height, 1.0)
    seen = [(name, cut) for name, piece in pieces if (cut := _in_front(piece, eye)) is not None]
    names = (*tree.links, GROUND)
    color = depth = label = None
    if "color" in channels:
        color = render([piece for _, piece in seen], eye, view.size, level)
    if "depth" in channels or "label" in channels:
        depth, label = _measured(seen, names, eye, view.size, level)
    return Exposure(
        time,
        color,
        depth if "depth" in channels else None,
        label if "label" in channels else None,
        names,
    )


def _in_front(piece: Piece, eye: Camera) -> Piece | None:
    """What of a piece is before the lens; its triangles are cut where they pass beside it."""
    vertices = piece.vertices
    ahead = -(vertices - eye.position) @ eye.back
    if (ahead >= _NEAREST).all():
        return piece
    cut = kept_part(Mesh(vertices, piece.mesh.faces, paint=piece.mesh.paint), _NEAREST - ahead)
    return None if cut is None else replace(piece, mesh=cut, place=np.eye(4))


def _measured(
    seen: list[tuple[str, Piece]], names: tuple[str, ...], eye: Camera, size: tuple[int, int],
    level: LevelGround | None,
) -> tuple[Array, NDArray[np.int32]]:  # fmt: skip
    """Depth and label of each pixel."""
    width, height = size
    vertices, faces, owners, first = [np.zeros((0, 3))], [np.zeros((0, 3), dtype=np.int64)], [], 0
    for name, piece in seen:
        vertices.append(piece.vertices)
        faces.append(piece.mesh.faces + first)
        owners += [names.index(name)] * len(piece.mesh.faces)
        first += len(piece.mesh.vertices)
    screen = eye.project(np.concatenate(vertices), width, height, FAR)
    nearness = np.empty((height, width), dtype=np.float32)
    owner = np.empty((height, width), dtype=np.int32)
    rasterise(screen, np.ascontiguousarray(np.concatenate(faces)), 0, nearness, owner)
    depth = np.full((height, width), np.inf)
    hit = owner >= 0
    depth[hit] = 1.0 / nearness[hit]
    label = np.full((height, width), -1, dtype=np.int32)
    label[hit] = np.array(owners, dtype=np.int32)[owner[hit]]
    if level is not None:
        pixel = 2 * eye.extent / height
        x = (np.arange(width) + 0.5 - width / 2) * pixel
        y = (height / 2 - np.arange(height) - 0.5) * pixel
        # The height that is lost a metre along the axis, on each pixel's line of sight.
        fall = eye.back[2] - x[None, :] * eye.right[2] - y[:, None] * eye.up[2]
        with np.errstate(divide="ignore"):
            below = (eye.position[2] - level.height) / fall
        below = np.where((fall > 0) & (below > 0), below, np.inf)
        nearer = below < depth
        depth[nearer] = below[nearer]
        label[nearer] = names.index(GROUND)
    return depth, label
