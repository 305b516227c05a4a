"""Rules on lengths, efforts and speeds that are out of all proportion: mostly another unit."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.model.definition.fields import dimension_of
from mooring.standard import STANDARD_GRAVITY
from mooring.units import show

_STANDS_OUT = 30.0
"""How many times farther than anything else a thing is that another unit must be meant for."""
_EFFORT = 1000.0
"""How many times more than what lifts the whole robot at its longest arm no drive can do."""
_LEAST_EFFORT = 1e4
_SPEEDS = {"rotation": 1000.0, "translation": 100.0}
"""[rad/s, m/s]"""


@rule(
    "place-unlikely", "warning", needs_tree=True,
    explains=("size-unlikely", "axis-far", "effort-too-small", "twins-unlike"),
)  # fmt: skip
def place_unlikely(subject: Subject) -> Iterator[Found]:
    """No joint is many times farther from its parent than everything else is large."""
    robot = subject.robot
    ways = {
        joint.name: float(np.linalg.norm(joint.at.in_link(subject.frames[joint.parent])[:3, 3]))
        for joint in robot.joints.values()
    }
    sizes = [float(np.ptp(cloud, axis=0).max()) for cloud in subject.seen.values() if len(cloud)]
    if len(ways) < 2:
        return
    *_, second, first = sorted(ways.values())
    for name, way in ways.items():
        usual = max([second if way == first else first, *sizes])
        if usual > 0 and way > _STANDS_OUT * usual:
            yield Found(
                ("joints", name, "at"),
                f"joint {name!r} is {show(way, 'length', 4)} from its parent, and nothing else in "
                f"the robot is larger than {show(usual, 'length', 3)}",
                f"if {way:g} mm is meant, write '{way:g} mm'; a plain number is in m",
                in_urdf=f"if {way:g} mm is meant, write {way / 1000:g}: URDF has metres",
            )


@rule(
    "shape-far", "warning", needs_tree=True,
    explains=("size-unlikely", "axis-far", "geometry-apart", "scale-unlikely", "centre-outside"),
)  # fmt: skip
def shape_far(subject: Subject) -> Iterator[Found]:
    """No shape is many times farther from its link's frame than it and the robot are large."""
    robot = subject.robot
    reach = _reach(subject)
    for name, link in robot.links.items():
        if link.parts:
            continue
        for field, shapes in (("visuals", link.visuals), ("collision", link.given_collisions)):
            for shape in shapes:
                way = float(np.linalg.norm(shape.in_link(subject.frames[name])[:3, 3]))
                size = float(np.linalg.norm(np.ptp(shape.shape.mesh.vertices, axis=0)))
                if way > _STANDS_OUT * max(size, reach):
                    yield Found(
                        ("links", name, field),
                        f"link {name!r}: a {shape.shape.kind} of {show(size, 'length', 3)} is "
                        f"{show(way, 'length', 4)} from the link's frame",
                        "check the unit of its place: a plain number is in m",
                    )


def _reach(subject: Subject) -> float:
    """How far the joints of a robot are from each other at most, the farthest few left out [m]."""
    ways = [
        float(np.linalg.norm(joint.at.in_link(subject.frames[joint.parent])[:3, 3]))
        for joint in subject.robot.joints.values()
    ]
    return float(np.median(ways)) if ways else 0.0


@rule("effort-unlikely", "warning", needs_tree=True)
def effort_unlikely(subject: Subject) -> Iterator[Found]:
    """No drive is a thousand times stronger than what lifts the whole robot."""
    mass = sum(inertia.mass for inertia in subject.own_inertias.values() if inertia is not None)
    if mass <= 0:
        return
    spread = np.array([frame[:3, 3] for frame in subject.frames.values()])
    seen = [cloud for cloud in subject.seen.values() if len(cloud)]
    arm = float(np.linalg.norm(np.ptp(spread, axis=0))) + max(
        (float(np.ptp(cloud, axis=0).max()) for cloud in seen), default=1.0
    )
    for joint in subject.robot.joints.values():
        effort = joint.limits.effort
        lever = arm if joint.motion == "rotation" else 1.0
        if effort is None or effort <= max(
            _EFFORT * mass * STANDARD_GRAVITY * lever, _LEAST_EFFORT
        ):
            continue
        dimension = dimension_of("effort", joint.motion)
        yield Found(
            ("joints", joint.name, "limits", "effort"),
            f"joint {joint.name!r}: an effort limit of {show(effort, dimension, 3)} is more than "
            f"{_EFFORT:.0f} times what lifts the whole robot of {show(mass, 'mass', 3)}",
            "give what its drive can do, or leave it out",
            in_urdf="give what its drive can do [N m or N]",
        )


@rule("velocity-unlikely", "warning")
def velocity_unlikely(subject: Subject) -> Iterator[Found]:
    """No joint is faster than a thousand rad/s or a hundred m/s."""
    for joint in subject.robot.joints.values():
        limit = joint.limits.velocity
        if limit is None or limit <= _SPEEDS[joint.motion]:
            continue
        dimension = dimension_of("velocity", joint.motion)
        yield Found(
            ("joints", joint.name, "limits", "velocity"),
            f"joint {joint.name!r}: a speed limit of {show(limit, dimension, 4)}",
            "check its unit: a plain number is in rad/s or m/s",
        )


@rule("effort-too-small", "warning", needs_tree=True)
def effort_too_small(subject: Subject) -> Iterator[Found]:
    """Joints without a motor, but with an effort limit, can be held up within it."""
    driven = {motor.joint for motor in subject.robot.motors.values()}
    holding = np.abs(subject.holding)
    for column, name in enumerate(subject.driven):
        joint = subject.robot.joints[name]
        limit = joint.limits.effort
        if name in driven or limit is None or limit <= 0 or not holding[:, column].size:
            continue
        worst = int(np.argmax(holding[:, column]))
        if holding[worst, column] <= limit:
            continue
        dimension = dimension_of("effort", joint.motion)
        yield Found(
            ("joints", name, "limits", "effort"),
            f"joint {name!r} has to hold {show(float(holding[worst, column]), dimension, 3)} "
            f"{subject.postures_and_sweeps[1][worst]}, more than its effort limit of "
            f"{show(limit, dimension, 3)}",
            "check the limit, and the masses of what it carries",
        )
