"""Rules on mass properties that are possible, and hardly true."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.geometry import Array, inverse
from mooring.model import Inertia, Link
from mooring.model.inertia import combined
from mooring.units import show

_DENSITIES = (40.0, 22_600.0)
"""From foam to osmium [kg/m^3]."""
_TOTAL = (1e-3, 1e6)
"""[kg]"""
_FACTOR = 4.0
_RATIO = 1000.0


@rule("mass-unlikely", "warning")
def mass_unlikely(subject: Subject) -> Iterator[Found]:
    """A robot weighs something between a gram and a thousand tonnes."""
    total = sum(i.mass for i in subject.own_inertias.values() if i is not None)
    if total and not _TOTAL[0] <= total <= _TOTAL[1]:
        yield Found(
            ("links",),
            f"the whole robot weighs {show(total, 'mass', 3)}",
            "check the unit of the CAD file, and the densities",
        )


@rule("mass-against-geometry", "warning")
def mass_against_geometry(subject: Subject) -> Iterator[Found]:
    """A mass that is given or weighed fits the volume of the parts."""
    for name, link in subject.robot.links.items():
        volume = sum(part.volume for part in link.parts)
        said = link.given_inertia.mass if link.given_inertia is not None else link.weighed
        if said is None or volume <= 0:
            continue
        density = said / volume
        if not _DENSITIES[0] <= density <= _DENSITIES[1]:
            kind = "lighter than foam" if density < _DENSITIES[0] else "heavier than any metal"
            yield Found(
                ("links", name, "mass"),
                f"link {name!r}: {show(said, 'mass')} in {1e6 * volume:.3g} cm^3 of parts is "
                f"{density:.3g} kg/m^3, {kind}",
                "check the mass, and the unit of the CAD file",
            )


@rule("inertia-against-geometry", "warning", needs_tree=True)
def inertia_against_geometry(subject: Subject) -> Iterator[Found]:
    """An inertia that is given is like that of the parts, with the given mass spread over them."""
    for name, given, shape in _given(subject):
        moments = np.linalg.eigvalsh(given.tensor)
        expected = np.linalg.eigvalsh(shape.tensor)
        ratio = moments / np.maximum(expected, 1e-30)
        if ratio.max() > _FACTOR or ratio.min() < 1 / _FACTOR:
            listed = [", ".join(f"{v:.3g}" for v in values) for values in (moments, expected)]
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: the principal moments {listed[0]} kg m^2 are far from the "
                f"{listed[1]} that its mass has in the shape of its parts",
                "leave the inertia out, and it is computed; or check its units (kg mm^2?)",
            )


@rule("inertia-product-signs", "warning", needs_tree=True)
def inertia_product_signs(subject: Subject) -> Iterator[Found]:
    """Products of inertia have the signs that the parts give them.

    They are -integral of x y dm; some programs write them without the minus.
    """
    for name, given, shape in _given(subject):
        flipped = 2 * np.diag(np.diag(given.tensor)) - given.tensor
        products = np.abs(shape.tensor - np.diag(np.diag(shape.tensor))).max()
        if products < 0.05 * np.abs(np.diag(shape.tensor)).max():
            continue
        as_is, turned = (np.abs(t - shape.tensor).max() for t in (given.tensor, flipped))
        if turned < 0.2 * as_is:
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: ixy, ixz and iyz have the other sign than its parts give them",
                "turn their signs round: here ixy is minus the integral of x y dm",
            )


@rule("masses-equal", "warning")
def masses_equal(subject: Subject) -> Iterator[Found]:
    """Links do not all have one and the same given mass."""
    given = [
        link.given_inertia.mass
        for link in subject.robot.links.values()
        if link.given_inertia is not None and not link.assumed and not link.carrier
    ]
    if len(given) >= 4 and len(set(given)) == 1 and len(given) == len(subject.robot.links):
        yield Found(
            ("links",),
            f"all {len(given)} links have the same mass, {show(given[0], 'mass')}",
            "give them what they weigh, or say assumed: true where nobody knows",
        )


@rule("mass-ratio", "warning", needs_tree=True)
def mass_ratio(subject: Subject) -> Iterator[Found]:
    """What a moving link carries is not a thousand times heavier than the link itself."""
    tree = subject.tree.arrays
    carried = tree.mass.copy()
    for body in range(len(carried) - 1, 0, -1):
        carried[tree.parent[body]] += carried[body]
    for body in range(1, len(carried)):
        mass, load = tree.mass[body], carried[body] - tree.mass[body]
        moves = tree.freedom[body] >= 0
        if moves and mass > 0 and load > _RATIO * mass:
            name = subject.tree.links[body]
            yield Found(
                ("links", name),
                f"link {name!r} of {show(float(mass), 'mass', 3)} carries "
                f"{show(float(load), 'mass', 3)}, {load / mass:.0f} times its own mass",
                "simulations lose precision there; give it its true mass, or join it to what it "
                "carries",
            )


def _given(subject: Subject) -> Iterator[tuple[str, Inertia, Inertia]]:
    """Links with given properties and parts, and what the same mass has in the parts' shape."""
    for name, link in subject.robot.links.items():
        given = link.given_inertia
        if given is None or not link.parts or given.mass <= 0:
            continue
        shape = _of_parts(link, subject.frames[name], given.mass)
        if shape is not None:
            yield name, given, shape


def _of_parts(link: Link, frame: Array, mass: float) -> Inertia | None:
    bodies = [
        Inertia(part.solid.volume, np.asarray(part.solid.centroid), part.solid.inertia, "computed")
        for part in link.parts
        if part.solid.volume > 0
    ]
    if not bodies:
        return None
    home = frame if link.cad_frame is None else link.cad_frame
    return combined(bodies, "computed", "").scaled_to(mass, "").placed(inverse(home))
