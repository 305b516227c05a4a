"""Rules on what links look like and collide with."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.geometry import Array, apply
from mooring.model.shapes import corners_of
from mooring.units import show

_SIZES = (5e-3, 200.0)
"""[m]"""
_STANDS_OUT = 30.0
_MOST_TRIANGLES = 20_000


@rule("mesh-inside-out", "warning")
def mesh_inside_out(subject: Subject) -> Iterator[Found]:
    """The triangles of meshes face outwards."""
    for name, link in subject.robot.links.items():
        for field, shapes in (
            ("visuals", (*link.shapes, *link.visuals)),
            ("collision", link.given_collisions),
        ):
            turned = [s.shape for s in shapes
                      if s.shape.of_triangles and s.shape.mesh.inside_out]  # fmt: skip
            if turned and not (field == "collision" and link.collision is None):
                yield Found(
                    ("links", name, field),
                    f"link {name!r}: the triangles of {turned[0].label} face inwards, so its "
                    "volume is less than zero",
                    "turn them round where it was made, and look whether its scale mirrors it",
                )


@rule("size-unlikely", "warning", needs_tree=True)
def size_unlikely(subject: Subject) -> Iterator[Found]:
    """A robot is between 5 mm and 200 m large."""
    clouds = list(_in_cad(subject).values())
    if not clouds:
        return
    size = float(np.ptp(np.concatenate(clouds), axis=0).max())
    if size and not _SIZES[0] <= size <= _SIZES[1]:
        meant = "metres that are millimetres" if size > 1 else "millimetres that are metres"
        yield Found(
            ("cad",),
            f"the whole robot is {show(size, 'length', 3)} large",
            f"check the unit of its CAD or meshes: {meant}?",
        )


@rule(
    "scale-unlikely", "warning", needs_tree=True,
    explains=("mass-against-geometry", "inertia-against-geometry", "size-unlikely",
              "centre-outside", "overlap-neutral"),
)  # fmt: skip
def scale_unlikely(subject: Subject) -> Iterator[Found]:
    """No link is many times larger than all others."""
    sizes = {name: float(np.ptp(cloud, axis=0).max()) for name, cloud in _in_cad(subject).items()}
    if len(sizes) < 3:
        return
    *_, second, first = sorted(sizes.values())
    for name, size in sizes.items():
        if size == first > _STANDS_OUT * second:
            yield Found(
                ("links", name),
                f"link {name!r} is {show(size, 'length', 3)} large, and no other link more than "
                f"{show(second, 'length', 3)}",
                "check the scale of its mesh, and the unit of its file",
            )


@rule("geometry-apart", "warning", needs_tree=True)
def geometry_apart(subject: Subject) -> Iterator[Found]:
    """What a link looks like and what it collides with are at the same place."""
    robot = subject.robot
    for name, link in robot.links.items():
        if not link.given_collisions:
            continue
        seen = subject.seen[name]
        hit = corners_of(link.collisions, subject.frames[name])
        if not len(seen) or not len(hit):
            continue
        gap = np.maximum(seen.min(axis=0) - hit.max(axis=0), hit.min(axis=0) - seen.max(axis=0))
        if gap.max() > 0:
            yield Found(
                ("links", name, "collision"),
                f"link {name!r}: what it collides with is {show(float(gap.max()), 'length', 3)} "
                "away from what it looks like",
                "check the places of both: they are on the link, unless they say relative_to: cad",
            )


@rule("collision-triangles", "warning")
def collision_triangles(subject: Subject) -> Iterator[Found]:
    """Meshes to collide with have no more triangles than a simulation can bear."""
    for name, link in subject.robot.links.items():
        # Fitting the others takes a while, and brings no triangles.
        fitted = any(rule.fit == "mesh" for rule in link.collision_rules)
        shapes = link.collisions if fitted else link.given_collisions
        count = sum(len(s.shape.mesh.faces) for s in shapes if not s.shape.convex)
        if count > _MOST_TRIANGLES:
            yield Found(
                ("links", name, "collision"),
                f"link {name!r} collides with {count:,} triangles",
                "use collision: auto, hull or pieces, or simplify the mesh",
            )


@rule("collision-coarse", "warning", needs_tree=True)
def collision_coarse(subject: Subject) -> Iterator[Found]:
    """Fitted shapes stand out from the parts no farther than was asked for."""
    for name, link in subject.robot.links.items():
        for found in link.collision_fits:
            if found.allowed is None or found.judgement.overhang <= 1.01 * found.allowed:
                continue
            yield Found(
                ("links", name, "collision"),
                f"link {name!r}: {_pieces(len(found.shapes))} out from its parts by up to "
                f"{show(found.judgement.overhang, 'length', 2)}, "
                f"{show(found.allowed, 'length', 2)} was asked for",
                "allow more pieces, or more overhang, or give shapes of your own",
            )


def _pieces(count: int) -> str:
    return "1 convex piece stands" if count == 1 else f"{count} convex pieces stand"


def _in_cad(subject: Subject) -> dict[str, Array]:
    """What each link shows, in CAD coordinates; without links that show nothing."""
    return {
        name: apply(subject.frames[name], cloud)
        for name, cloud in subject.seen.items()
        if len(cloud)
    }
