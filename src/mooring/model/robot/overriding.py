"""Other values for the items of a robot that comes from elsewhere."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from mooring.errors import ModelError, did_you_mean, told
from mooring.model.definition.context import Context
from mooring.model.definition.described import Described
from mooring.model.definition.problems import EntryError
from mooring.model.registry import BY_SECTION
from mooring.model.robot.references import matching

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def override(robot: Robot, changes: Mapping[str, Any], context: Context) -> None:
    """Change items of a robot, or take them away.

    Args:
        robot: which.
        changes: by section, and by name or name pattern: the fields that are to be others, those
            of inner definitions by themselves; None takes the item away, and what needs it.
        context: what they are read with.

    Raises:
        EntryError: nothing matches, or a value is wrong; with the way to it.

    Example:
        `override(arm, {"joints": {"luff": {"limits": {"upper": "80 deg"}}}}, arm.context)`
    """
    for section, entries in changes.items():
        if section not in BY_SECTION:
            hint = did_you_mean(str(section), list(BY_SECTION))
            raise EntryError("", [((section,), f"there are no {section!r}{hint}")])
        if not isinstance(entries, Mapping):
            raise EntryError("", [((section,), "expected names, each with what is to change")])
        for pattern, fields in entries.items():
            try:
                _change(robot, BY_SECTION[section].name, str(pattern), fields, context)
            except EntryError as error:
                raise error.inside(section, pattern) from None
            except ModelError as error:
                raise EntryError("", [((section, pattern), str(error))]) from None


def _change(robot: Robot, kind: str, pattern: str, fields: Any, context: Context) -> None:
    section = robot.section(kind)
    names = [pattern] if pattern in section else matching(robot, kind, pattern)
    if not names:
        raise ModelError(f"no {kind} matches {pattern!r}{did_you_mean(pattern, list(section))}")
    for name in names:
        if fields is None:
            if name in section:
                robot.remove(kind, name, with_dependents=True)
            continue
        if not isinstance(fields, Mapping):
            raise ModelError(f"expected fields with their values, got {told(fields)}")
        item = section[name]
        if not isinstance(item, Described):
            if not isinstance(item, Mapping):
                raise ModelError(f"a {kind} is given as a whole; take it away, and give it anew")
            section[name] = {**item, **fields}
            continue
        for key in fields:
            if key not in type(item).model_fields:
                hint = did_you_mean(str(key), list(type(item).model_fields))
                raise EntryError("", [((key,), f"unknown key {key!r}{hint}")])
        section[name] = item.with_fields(context, **_merged(item, fields, context))


def _merged(item: Described, fields: Mapping[str, Any], context: Context) -> dict[str, Any]:
    """Fields, where those of inner definitions are what they were, but for what is said."""
    found: dict[str, Any] = {}
    for key, value in fields.items():
        inner = getattr(item, key, None)
        if isinstance(inner, Described) and isinstance(value, Mapping):
            value = inner.with_fields(context, **_merged(inner, value, context))
        found[key] = value
    return found
