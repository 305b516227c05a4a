"""Rules on mass properties."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.model import Inertia, Link, Robot
from mooring.model.mass import part_density
from mooring.model.structure import depth_first, roots
from mooring.units import show

_TOLERANCE = 1e-9
_SAME_DENSITY = 0.02


def _known(subject: Subject) -> Iterator[tuple[str, Inertia]]:
    for name, inertia in subject.own_inertias.items():
        if inertia is not None:
            yield name, inertia


def _moving(robot: Robot) -> dict[str, bool]:
    """Whether each link of a sound tree moves against the root."""
    moves = {roots(robot)[0]: robot.base == "floating"}
    for joint in depth_first(robot):
        moves[joint.child] = joint.moves or moves[joint.parent]
    return moves


def _held_together(robot: Robot) -> dict[str, str]:
    """The link that carries each one: what fixed joints hold is one body, with one mass."""
    group = {roots(robot)[0]: roots(robot)[0]}
    for joint in depth_first(robot):
        group[joint.child] = joint.child if joint.moves else group[joint.parent]
    return group


def _why_unknown(robot: Robot, link: Link) -> str:
    bare = [
        part.name
        for part in link.made_of(np.eye(4))
        if part_density(link, part, robot.materials) is None
    ]
    if not link.made_of(np.eye(4)):
        return "it has no parts and no mass is given"
    if not link.parts and not link.says_its_mass:
        return "neither its mass nor its material is given"
    names = ", ".join(bare[:3]) + (f" and {len(bare) - 3} more" if len(bare) > 3 else "")
    if link.weighed is not None:
        return (
            f"its parts of known density weigh more than the {show(link.weighed, 'mass')} of the "
            f"whole, so nothing is left for {names}"
        )
    return f"no density is known for {names}"


def _lacks(link: Link) -> str:
    return "has no mass" if link.weighed is None else "has a mass that cannot be spread"


@rule("mass-missing", "error", needs_tree=True)
def mass_missing(subject: Subject) -> Iterator[Found]:
    """Whatever a joint moves has mass."""
    robot = subject.robot
    moves = _moving(robot)
    group = _held_together(robot)
    heavy = {group[name] for name, inertia in _known(subject) if inertia.mass > 0}
    for name, link in robot.links.items():
        if not moves[name] or subject.own_inertias[name] is not None:
            continue
        if link.parts or (group[name] not in heavy and not link.carrier):
            yield Found(
                ("links", name),
                f"link {name!r} moves and {_lacks(link)}: {_why_unknown(robot, link)}",
                "give the link a material, or a mass with its inertia",
                in_urdf="give it an <inertial> with mass and inertia",
            )


@rule("inertia-unknown", "error", needs_tree=True)
def inertia_unknown(subject: Subject) -> Iterator[Found]:
    """What is weighed and moves is spread over something."""
    robot = subject.robot
    moves, group = _moving(robot), _held_together(robot)
    spread = {group[name] for name, inertia in _known(subject) if inertia.tensor.any()}
    for name, link in robot.links.items():
        inertia = subject.own_inertias[name]
        point = inertia is not None and not inertia.tensor.any()
        if link.weighed is None or not point or not moves[name] or group[name] in spread:
            continue
        yield Found(
            ("links", name, "mass"),
            f"link {name!r} weighs {show(link.weighed, 'mass')}, and nothing tells how that is "
            "spread: it counts as a point at the link's origin",
            "give its inertia, or what it is made of, such as box: [0.1, 0.1, 0.4]",
            in_urdf="give its <inertia>, or a <visual> that it is spread over",
        )


@rule("mass-unknown", "warning", needs_tree=True)
def mass_unknown(subject: Subject) -> Iterator[Found]:
    """Parts that do not move have mass as well."""
    robot = subject.robot
    moves = _moving(robot)
    for name, link in robot.links.items():
        if not moves[name] and link.parts and subject.own_inertias[name] is None:
            yield Found(
                ("links", name),
                f"link {name!r} {_lacks(link)}: {_why_unknown(robot, link)}",
                "give the link a material; it does not move, but the total mass lacks it",
            )


@rule("material-overridden", "note")
def material_overridden(subject: Subject) -> Iterator[Found]:
    """What the CAD states of a part's density is not replaced by a link's material unawares."""
    robot = subject.robot
    for name, link in robot.links.items():
        if link.material is None and link.density is None:
            continue
        other = []
        for part in link.parts:
            stated = None if part.material is None else part.material.density
            used = part_density(link, part, robot.materials)
            if stated and used and abs(used.value / stated - 1) > _SAME_DENSITY:
                other.append((part.name, stated, used.value))
        if other:
            first, stated, used_value = other[0]
            more = f" and {len(other) - 1} more" if len(other) > 1 else ""
            yield Found(
                ("links", name, "material" if link.material else "density"),
                f"link {name!r}: the CAD file states {stated:.4g} kg/m^3 for {first}{more}, and "
                f"{used_value:.4g} kg/m^3 is used",
                "leave the link's material out to take what the CAD states, or name single parts "
                "under part_materials",
            )


@rule("inertia-not-positive", "error")
def inertia_not_positive(subject: Subject) -> Iterator[Found]:
    """Every body resists being turned about every axis."""
    for name, inertia in _known(subject):
        moments = np.linalg.eigvalsh(inertia.tensor)
        spread = subject.robot.links[name].inertia is not None or inertia.tensor.any()
        if inertia.mass > 0 and moments[0] <= 0 and spread:
            listed = ", ".join(f"{value:.3g}" for value in moments)
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: the principal moments {listed} kg m^2 are not all positive",
                "no body has such an inertia; check the signs, above all of ixy, ixz, iyz",
            )


@rule("inertia-impossible", "error")
def inertia_impossible(subject: Subject) -> Iterator[Found]:
    """The two smaller principal moments add up to at least the largest."""
    for name, inertia in _known(subject):
        small, middle, large = np.linalg.eigvalsh(inertia.tensor)
        if small > 0 and small + middle < large * (1 - _TOLERANCE):
            yield Found(
                ("links", name, "inertia"),
                f"link {name!r}: of the principal moments {small:.3g}, {middle:.3g} and "
                f"{large:.3g} kg m^2 the largest is more than the sum of the others",
                "no rigid body has such an inertia; compute it from the parts, or check the units",
            )


@rule("centre-outside", "warning", needs_tree=True)
def centre_outside(subject: Subject) -> Iterator[Found]:
    """The centre of mass lies within the bounds of what is drawn."""
    for name, points in subject.seen.items():
        inertia = subject.inertias[name]
        if inertia is None or not len(points):
            continue
        low, high = points.min(axis=0), points.max(axis=0)
        slack = 0.02 * float(np.linalg.norm(high - low))
        beyond = np.maximum(np.maximum(low - inertia.centre, inertia.centre - high), 0).max()
        if beyond > slack:
            yield Found(
                ("links", name, "centre"),
                f"link {name!r}: the centre of mass is {show(float(beyond), 'length')} outside "
                "its parts",
                "check its coordinates: they are those of the link, not of the CAD file",
            )


@rule("mass-of-open-mesh", "warning")
def mass_of_open_mesh(subject: Subject) -> Iterator[Found]:
    """Mass is not computed from surfaces with holes."""
    robot = subject.robot
    for name, link in robot.links.items():
        holed = [part.name for part in link.parts if not part.geometry.closed]
        if holed and link.given_inertia is None:
            yield Found(
                ("links", name, "parts"),
                f"link {name!r}: the surface of {', '.join(holed[:3])} does not close, so its "
                "volume and mass are not to be trusted",
                "mend the part, read it from STEP, or give the link's mass and inertia",
            )
