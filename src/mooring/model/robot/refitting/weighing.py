"""Masses and inertias anew, from what links are made of or show."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import ModelError, did_you_mean
from mooring.model.robot.references import matching
from mooring.units import show

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def weigh(
    robot: Robot,
    pattern: str,
    mass: float | str | None,
    density: float | str | None,
    material: str | None,
) -> list[str]:
    """See `Robot.weigh`."""
    names = matching(robot, "link", pattern)
    if not names:
        raise ModelError(f"no link matches {pattern!r}{did_you_mean(pattern, list(robot.links))}")
    if sum(one is not None for one in (mass, density, material)) > 1:
        raise ModelError("weigh: give one of mass, density and material")
    told = []
    for name in names:
        link = robot.links[name]
        bodies = link.weighed_by(np.eye(4))
        volume = sum(body.volume for body in bodies)
        if volume <= 0:
            if name == pattern:
                raise ModelError(f"link {name!r} shows nothing with a volume to be weighed by")
            if bodies:
                told.append(f"link {name!r} left as it is: what it shows has no volume")
            continue
        before = robot.inertia(name, np.eye(4))
        fields: dict[str, Any] = {"inertia": None, "centre": None, "assumed": False}
        if mass is not None or density is not None or material is not None:
            fields |= {"mass": mass, "density": density, "material": material}
        elif link.mass is None:
            told.append(f"link {name!r} left as it is: it has no mass, and none is given")
            continue
        link.change(**fields)
        after = robot.inertia(name, np.eye(4))
        holed = [body.name for body in bodies if not body.geometry.closed]
        words = "" if before is None else f", it was {show(before.mass, 'mass')}"
        now = "nothing that is known" if after is None else show(after.mass, "mass")
        told.append(
            f"link {name!r} weighs {now}{words}; spread over {len(bodies)} "
            f"{'body' if len(bodies) == 1 else 'bodies'}"
            + (f", of which {', '.join(holed)} has holes: not to be trusted" if holed else "")
        )
    return told
