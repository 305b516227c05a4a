"""How two clusters can move against each other, as a kind of joint with its axis."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from mooring.cad.places.axis import with_usual_sign
from mooring.cad.proposing.clusters import Between
from mooring.cad.touching.lines import same_axis
from mooring.cad.touching.meetings import Fit
from mooring.geometry import Array

_GUIDED = 1.2
"""Of its diameters, how long a bore must be to guide something along a rod."""


@dataclass(frozen=True, eq=False)
class Way:
    """A way in which two clusters can move.

    Attributes:
        turns, slides: about the axis, along it; both where nothing tells.
        origin, direction: of the axis, (3,) each.
        ball: whether it turns every way about the origin.
        fit: the widest pin in its bore, where there is one.
        complete: whether nothing but this motion is open, not even one way.
        found: from what, in words.
        ratio: how many times as long as what is guided the guide is.
    """

    turns: bool
    slides: bool
    origin: Array
    direction: Array
    ball: bool
    fit: Fit | None
    complete: bool
    found: str
    ratio: float = 1.0

    def twists(self) -> list[Array]:
        """Unit twists (w, v) about the world's origin: turning first, then sliding."""
        turn = np.concatenate([self.direction, np.cross(self.origin, self.direction)])
        slide = np.concatenate([np.zeros(3), self.direction])
        if self.ball:
            return [np.concatenate([w, np.cross(self.origin, w)]) for w in np.eye(3)]
        return [t for t, free in ((turn, self.turns), (slide, self.slides)) if free]


def way_of(between: Between) -> Way | None:
    """How two clusters can move, or None where what is between them is no joint."""
    if between.fits:
        return _about_fits(between)
    return _ball(between) or _along_faces(between)


def held_by_pins(between: Between) -> bool:
    """Whether pins on two axes hold two clusters, so that neither can leave the other."""
    if len(between.axes) < 2:
        return False
    first = between.axes[0]
    if any(abs(float(f.direction @ first.direction)) < 0.999 for f in between.axes):
        return True
    free = between.freedoms
    if not free.allows(first.direction, first.origin, turns=False, one_way=True):
        return True
    # Rods that end where the bores end guide nothing.
    return not any(_guides(f) for f in between.fits) or not free.allows(
        first.direction, first.origin, turns=False
    )


def _guides(fit: Fit) -> bool:
    """Whether a pin goes on on both sides of its bore, or ends well inside it as a piston does."""
    return fit.beyond[0] > 0.5 * fit.radius or fit.beyond[0] < -0.5 * fit.radius


def _ratio(fits: list[Fit]) -> float:
    """How many times as long as the other the longer of pin and bore is, all fits together."""
    first = fits[0]
    spans = []
    for fit in fits:
        middle = float((fit.origin - first.origin) @ first.direction)
        spans.append((middle - fit.length / 2, middle + fit.length / 2))
    engaged = max(high for _, high in spans) - min(low for low, _ in spans)
    longest = 0.0
    for fit in fits:
        pin = fit.length + max(0.0, fit.beyond[0]) + max(0.0, fit.beyond[1])
        bore = fit.length - min(0.0, fit.beyond[0]) - min(0.0, fit.beyond[1])
        longest = max(longest, pin, bore)
    return longest / engaged if engaged > _GUIDED * 2 * first.radius else 1.0


def _about_fits(between: Between) -> Way | None:
    first = between.axes[0]
    free = between.freedoms
    axis, origin = first.direction, first.origin
    dims = len(free.open)
    if len(between.axes) > 1:
        if held_by_pins(between):
            return None
        return Way(
            False, True, origin, axis, False, first, dims == 1,
            f"{first.pin} and {first.bore} share {len(between.axes)} parallel round guides",
        )  # fmt: skip
    turns = free.allows(axis, origin, turns=True, one_way=True)
    slides = free.allows(axis, origin, turns=False)
    if not turns and not (slides and any(_guides(f) for f in between.fits)):
        return None
    stop = turns and not free.allows(axis, origin, turns=True)
    found = f"{first.pin} and {first.bore} share an axis"
    if not turns:
        found = f"{first.pin} can slide in {first.bore} and is kept from turning"
    elif stop:
        found += "; it stands at a stop"
    ratio = _ratio([fit for fit in between.fits if same_axis(first, fit)])
    return Way(turns, slides, origin, axis, False, first, dims == 1, found, ratio)


def _ball(between: Between) -> Way | None:
    for meeting in between.meetings:
        if meeting.ball is not None:
            centre, _ = meeting.ball
            axes = np.eye(3)
            free = between.freedoms
            if sum(free.allows(a, centre, turns=True, one_way=True) for a in axes) == 3:
                found = f"a ball of {meeting.first} and {meeting.second} in its socket"
                return Way(True, False, centre, axes[2], True, None, len(free.open) == 3, found)
    return None


def _along_faces(between: Between) -> Way | None:
    """What faces leave: one way to slide between faces that look at each other, or a turn."""
    free = between.freedoms
    points, normals = between.pushes
    if not len(points) or not 1 <= len(free.kept) <= 2:
        return None
    meeting = max(between.meetings, key=lambda m: m.area)
    slide = _pure_slide(free.kept)
    turn = _pure_turn(free.kept, slide)
    dims = len(free.open)
    if turn is not None:
        axis, arm = turn
        origin = free.centre + arm * free.scale
        return Way(
            True, slide is not None, origin, with_usual_sign(axis), False, None, dims == 1,
            f"faces of {meeting.first} and {meeting.second} are round about one axis",
        )  # fmt: skip
    if slide is None or len(free.kept) > 1 or not _guided(normals):
        return None
    return Way(
        False, True, points.mean(axis=0), with_usual_sign(slide), False, None, dims == 1,
        f"faces of {meeting.first} and {meeting.second} leave one way to slide",
    )  # fmt: skip


def _guided(normals: Array) -> bool:
    """Whether faces look at each other across the way, so that they guide."""
    return bool((normals @ normals.T < -0.5).any())


def _pure_slide(kept: Array) -> Array | None:
    """The direction of the only sliding in a space of twists, if there is one."""
    _, values, directions = np.linalg.svd(kept[:, :3].T, full_matrices=True)
    sizes = np.zeros(len(kept))
    sizes[: len(values)] = values
    still = directions[sizes < 0.03]
    if len(still) != 1:
        return None
    way = still[0] @ kept[:, 3:]
    return np.asarray(way / np.linalg.norm(way))


def _pure_turn(kept: Array, slide: Array | None) -> tuple[Array, Array] | None:
    """The axis of a turning in a space of twists, and a point on it from the centre."""
    best = kept[int(np.argmax(np.linalg.norm(kept[:, :3], axis=1)))]
    turn, way = best[:3], best[3:]
    size = float(np.linalg.norm(turn))
    if size < 0.05:
        return None
    axis = turn / size
    pitch = float(way @ axis)
    if slide is not None:
        if abs(float(slide @ axis)) < 0.999:
            return None
    elif len(kept) > 1 or abs(pitch) > 0.05:
        return None
    return axis, np.cross(turn, way) / size**2
