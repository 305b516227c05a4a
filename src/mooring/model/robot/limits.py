"""Values for many joints at once."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from mooring.errors import ModelError, did_you_mean, told
from mooring.model.definition.context import Context
from mooring.model.definition.problems import EntryError
from mooring.model.joint import Joint
from mooring.model.joint_values import OF_THE_JOINT, OF_TRAVEL, JointValues
from mooring.model.note import Note
from mooring.model.robot.references import matching

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def set_limits(robot: Robot, pattern: str, entry: Mapping[str, Any], context: Context) -> None:
    """See `Robot.set_limits`."""
    named = [robot.joints[name] for name in matching(robot, "joint", pattern)]
    if not named:
        raise ModelError(f"no joint matches {pattern!r}{did_you_mean(pattern, list(robot.joints))}")
    known = list(JointValues.model_fields)
    if not isinstance(entry, Mapping):
        raise EntryError("limits", [((), f"expected values such as velocity, got {told(entry)}")])
    for key in entry:
        if key not in known:
            hint = did_you_mean(str(key), known) or f"; known: {', '.join(known)}"
            raise EntryError("limits", [((str(key),), f"unknown key {key!r}{hint}")])
    chosen = [joint for joint in named if joint.has_axis]
    if not chosen:
        raise ModelError(f"no joint that matches {pattern!r} turns or slides")
    changes: dict[str, dict[str, Any]] = {joint.name: {} for joint in chosen}
    for key, value in entry.items():
        _for_each(robot, pattern, key, value, chosen, changes, context)
    for joint in chosen:
        if changes[joint.name]:
            joint.change(**_fields_of(joint, changes[joint.name]))


def _for_each(
    robot: Robot,
    pattern: str,
    key: str,
    value: Any,
    chosen: Sequence[Joint],
    changes: dict[str, dict[str, Any]],
    context: Context,
) -> None:
    """Note a value for the joints that have none; where its unit is not theirs, that is told."""
    misfits: list[str] = []
    error: EntryError | None = None
    fitting = False
    for joint in chosen:
        if key in OF_TRAVEL and joint.endless:
            continue
        try:
            joint.with_fields(context, **_fields_of(joint, {key: value}))
        except EntryError as problem:
            error = problem
            misfits.append(joint.name)
            continue
        fitting = True
        own = getattr(joint if key in OF_THE_JOINT else joint.limits, key)
        if not own:
            changes[joint.name][key] = value
    if error is not None and not fitting:
        text = "; ".join(problem.message for problem in error.problems)
        raise EntryError("limits", [((key,), text)])
    if misfits:
        names = ", ".join(misfits[:4]) + (f" and {len(misfits) - 4} more" if misfits[4:] else "")
        robot.notes.append(Note(f"limits of {pattern!r}: {key} {value} does not fit {names}"))


def _fields_of(joint: Joint, values: Mapping[str, Any]) -> dict[str, Any]:
    """Fields of a joint with some of its values set, those of its limits among them."""
    fields = {key: value for key, value in values.items() if key in OF_THE_JOINT}
    limits = {key: value for key, value in values.items() if key not in OF_THE_JOINT}
    if limits:
        own = joint.limits.model_dump(exclude_none=True, exclude={"motion", "soft"})
        soft = {} if joint.limits.soft is None else {"soft": joint.limits.soft}
        fields["limits"] = {**own, **soft, **limits}
    return fields
