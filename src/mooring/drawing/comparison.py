"""Two robots side by side, what differs between them colored."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from PIL import Image

from mooring.cad import Mesh
from mooring.drawing.camera import ViewName, looking_at
from mooring.drawing.layers import Label, Posed
from mooring.drawing.palette import ALIKE, DARK, DIFFERENT, LIGHT
from mooring.drawing.robot_picture import Picture, finish, ground_for
from mooring.drawing.runs.instant import shapes_of_links
from mooring.errors import ModelError
from mooring.model import Robot
from mooring.model.comparing import Difference, differences

_MOST_WORDS = 3


def compare_pictures(
    before: Robot,
    after: Robot,
    *,
    view: ViewName | tuple[float, float] = "corner",
    size: tuple[int, int] = (1280, 800),
    dark: bool = False,
) -> Picture:
    """Draw two robots from one point of view; links that something differs of are red.

    A joint that differs counts for its child link, and a frame, sensor or motor for the link it is
    on. Beside each such link stands what differs.

    Args:
        before, after: what is compared.
        view: as for `picture`.
        size: of both together [pixels].
        dark: light on dark.

    Raises:
        ModelError: an unknown view, an impossible size, or nothing to draw.
        UnsoundRobotError: one is no tree.
    """
    found = differences(before, after)
    half = (size[0] // 2, size[1])
    if min(half) < 16:
        raise ModelError(f"a picture of {size[0]} x {size[1]} pixels cannot be drawn")
    sides = [
        _posed(robot, found, other) for robot, other in ((before, "added"), (after, "removed"))
    ]
    if not any(side.pieces for side in sides):
        raise ModelError("there is nothing to draw: neither robot has shapes")
    points = np.concatenate([piece.vertices for side in sides for piece in side.pieces])
    camera = looking_at(points, view, half[0] / half[1])
    floor = ground_for(points)
    theme = DARK if dark else LIGHT
    image = Image.new("RGB", size, theme.haze)
    for number, (side, word) in enumerate(zip(sides, ("before", "after"), strict=True)):
        side.low, side.high = points.min(axis=0), points.max(axis=0)
        caption = f"{word}: {side.robot.name}"
        image.paste(finish(side, camera, half, floor, caption, theme), (number * half[0], 0))
    return Picture(image)


def _posed(robot: Robot, found: Sequence[Difference], not_here: str) -> Posed:
    """A robot with its differing links colored; what only the other has does not count."""
    tree = robot.tree()
    posed = Posed(robot, tree, np.asarray(tree.neutral_frames))
    said: dict[str, list[str]] = {}
    for difference in found:
        link = _link_of(robot, difference)
        if link is not None and difference.what != not_here:
            said.setdefault(link, []).append(_word(difference))
    for name, piece in shapes_of_links(robot, tree, posed.poses):
        color = DIFFERENT if name in said else ALIKE
        posed.pieces.append(replace(piece, mesh=_bare(piece.mesh), color=color))
    for name, words in said.items():
        row = tree.link(name)
        centre = posed.poses[row] @ np.array([*tree.arrays.centre[row], 1.0])
        more = f" and {len(words) - _MOST_WORDS} more" if len(words) > _MOST_WORDS else ""
        text = f"{name}: {', '.join(dict.fromkeys(words[:_MOST_WORDS]))}{more}"
        posed.labels.append(Label(centre[:3], text))
    return posed


def _bare(mesh: Mesh) -> Mesh:
    """A mesh without paint, which would show through."""
    return mesh if mesh.paint is None else replace(mesh, paint=None)


def _word(difference: Difference) -> str:
    own = difference.kind == "link"
    return difference.what if own else f"{difference.name} {difference.what}"


def _link_of(robot: Robot, difference: Difference) -> str | None:
    """The link of a robot that a difference is about."""
    name, kind = difference.name, difference.kind
    if kind == "link":
        return name if name in robot.links else None
    if kind in ("joint", "coupling"):
        return robot.joints[name].child if name in robot.joints else None
    owners: dict[str, Mapping[str, object]] = {
        "frame": robot.frames, "sensor": robot.sensors, "motor": robot.motors,
    }  # fmt: skip
    item = owners.get(kind, {}).get(name)
    link = getattr(item, "link", None)
    joint = getattr(item, "joint", None)
    if link is None and joint in robot.joints:
        link = robot.joints[joint].child
    return link if link in robot.links else None
