"""Rules on mass properties that are possible, and hardly true."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.geometry import Array
from mooring.model import Inertia, Link
from mooring.units import show

_DENSITIES = (40.0, 22_600.0)
"""From foam to osmium [kg/m^3]."""
_TOTAL = (1e-3, 1e6)
"""[kg]"""
_HOLLOW = 3.0
"""What a shape may be filled with that is merely shown [kg/m^3]."""
_COMMON = (100.0, 12_000.0)
"""Densities of what machines are mostly made of [kg/m^3]."""
_PLACEHOLDER_OFF = 3.0
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


@rule(
    "mass-against-geometry", "warning", needs_tree=True,
    explains=("inertia-against-geometry", "effort-too-small", "twins-unlike", "mass-ratio"),
)  # fmt: skip
def mass_against_geometry(subject: Subject) -> Iterator[Found]:
    """A mass that is given or weighed fits the volume of what the link is made of, or shows."""
    for name, link in subject.robot.links.items():
        said = link.mass
        solid, _ = subject.shape_of(name) if said is not None else (None, 0.0)
        if said is None or solid is None:
            continue
        density = said / solid.volume
        if _possible(link, density):
            continue
        light = density < _DENSITIES[0]
        kind = "lighter than foam" if light else "heavier than any metal"
        other = 1000 if light else 0.001
        hint = ""
        if _COMMON[0] <= density * other <= _COMMON[1]:
            hint = "; kg, where it was meant in t?" if other > 1 else "; g, taken for kg?"
        yield Found(
            ("links", name, "mass"),
            f"link {name!r}: {show(said, 'mass')} in {1e6 * solid.volume:.3g} cm^3 is "
            f"{density:.3g} kg/m^3, {kind}{hint}",
            "check the mass, and the unit of its shapes",
        )


@rule("inertia-placeholder", "warning", needs_tree=True)
def inertia_placeholder(subject: Subject) -> Iterator[Found]:
    """No inertia is a round number three times over, and far from what the shape has."""
    for name, given, shape, _ in _given(subject):
        ratio = _ratio(given, shape)
        if _is_placeholder(given) and max(ratio.max(), 1 / ratio.min()) > _PLACEHOLDER_OFF:
            value = given.tensor[0, 0]
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: three moments of {value:g} kg m^2 look like a placeholder; "
                f"its mass has {_listed(shape)} kg m^2 in its shape",
                "leave the inertia out, and it is computed",
                in_urdf=f"write {_written(shape)}",
            )


@rule("inertia-about-frame", "warning", needs_tree=True)
def inertia_about_frame(subject: Subject) -> Iterator[Found]:
    """An inertia is about the centre of mass, and not about the link's frame."""
    for name, given, shape, _ in _given(subject):
        if _is_about_frame(given, shape):
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: its moments {_listed(given)} kg m^2 are those about the link's "
                f"frame; about its centre of mass they would be {_listed(shape)}",
                "give the inertia about the centre of mass: take m d^2 off",
                in_urdf=f"write it about the centre of mass: {_written(shape)}",
            )


@rule("inertia-against-geometry", "warning", needs_tree=True)
def inertia_against_geometry(subject: Subject) -> Iterator[Found]:
    """An inertia that is given is like that of the shape, with the given mass spread over it."""
    for name, given, shape, factor in _given(subject):
        ratio = _ratio(given, shape)
        if ratio.min() <= 0 or (ratio.max() <= factor and ratio.min() >= 1 / factor):
            # That moments are not positive is told elsewhere.
            continue
        if _is_placeholder(given) or _is_about_frame(given, shape):
            continue
        yield Found(
            ("links", name, "inertia"),
            f"link {name!r}: the principal moments {_listed(given)} kg m^2 are far from the "
            f"{_listed(shape)} that its mass has in its shape{_unit_words(ratio)}",
            "leave the inertia out, and it is computed; or check its units (kg mm^2?)",
            in_urdf=f"check its unit; its shape would have {_written(shape)}",
        )


@rule("inertia-product-signs", "warning", needs_tree=True)
def inertia_product_signs(subject: Subject) -> Iterator[Found]:
    """Products of inertia have the signs that the shape gives them.

    They are -integral of x y dm; some programs write them without the minus.
    """
    for name, given, shape, _ in _given(subject):
        flipped = 2 * np.diag(np.diag(given.tensor)) - given.tensor
        products = np.abs(shape.tensor - np.diag(np.diag(shape.tensor))).max()
        if products < 0.05 * np.abs(np.diag(shape.tensor)).max():
            continue
        as_is, turned = (np.abs(t - shape.tensor).max() for t in (given.tensor, flipped))
        if turned < 0.2 * as_is:
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: ixy, ixz and iyz have the other sign than its shape gives them",
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


def _possible(link: Link, density: float) -> bool:
    # What is merely shown may be hollow.
    return (_DENSITIES[0] if link.parts else _HOLLOW) <= density <= _DENSITIES[1]


def _given(subject: Subject) -> Iterator[tuple[str, Inertia, Inertia, float]]:
    """Links with given properties and a shape; what the same mass has in it, and how near."""
    for name, link in subject.robot.links.items():
        given = link.given_inertia
        if given is None or link.assumed or given.mass <= 0:
            continue
        solid, factor = subject.shape_of(name)
        if solid is None:
            continue
        density = given.mass / solid.volume
        if not _possible(link, density):
            # That its mass is wrong is told, and what follows from it is no news.
            continue
        tensor = solid.inertia * density
        yield name, given, Inertia(given.mass, solid.centroid, tensor, "computed"), factor


def _ratio(given: Inertia, shape: Inertia) -> Array:
    expected = np.linalg.eigvalsh(shape.tensor)
    return np.asarray(np.linalg.eigvalsh(given.tensor) / np.maximum(expected, 1e-30))


def _is_placeholder(given: Inertia) -> bool:
    value = float(given.tensor[0, 0])
    round_number = value > 0 and abs(np.log10(value) - round(np.log10(value))) < 1e-9
    return bool(round_number and np.array_equal(given.tensor, value * np.eye(3)))


def _is_about_frame(given: Inertia, shape: Inertia) -> bool:
    """Whether the parallel axes' part (Steiner) was left in."""
    c = given.centre
    more = given.mass * (c @ c * np.eye(3) - np.outer(c, c))
    size = float(np.abs(given.tensor).max())
    if np.abs(more).max() < 0.3 * np.abs(shape.tensor).max() or size <= 0:
        return False
    off = [
        float(np.abs(given.tensor - t).max()) / size for t in (shape.tensor, shape.tensor + more)
    ]
    return off[1] < 0.2 and off[1] < 0.4 * off[0]


def _unit_words(ratio: Array) -> str:
    """What unit a common factor speaks of."""
    middle = float(np.exp(np.log(np.maximum(ratio, 1e-30)).mean()))
    if ratio.min() <= 0 or ratio.max() / ratio.min() > 30:
        return ""
    for factor, words in _UNITS.items():
        if 1 / 4 < middle / factor < 4:
            return f", {factor:g} times as much: {words}?"
    return ""


_UNITS = {
    1e3: "its mass in g", 1e6: "kg mm^2", 1e9: "g mm^2", 1e4: "kg cm^2",
    1e-3: "the mass in t", 1e-6: "lengths in km, or in mm that were taken for m",
}  # fmt: skip


def _listed(inertia: Inertia) -> str:
    return ", ".join(f"{v:.3g}" for v in np.linalg.eigvalsh(inertia.tensor))


def _written(shape: Inertia) -> str:
    """Moments as URDF has them."""
    t = shape.tensor
    keys = {"ixx": t[0, 0], "ixy": t[0, 1], "ixz": t[0, 2], "iyy": t[1, 1], "iyz": t[1, 2],
            "izz": t[2, 2]}  # fmt: skip
    tiny = 1e-9 * float(np.abs(t).max())
    return " ".join(f'{key}="{0.0 if abs(v) < tiny else v:.4g}"' for key, v in keys.items())
