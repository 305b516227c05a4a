"""What fits a robot: its items name what is there, and bear what they refer to."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mooring.errors import ModelError
from mooring.model.definition.described import Described
from mooring.model.definition.problems import EntryError
from mooring.model.joint import Joint
from mooring.model.registry import KINDS, Kind
from mooring.model.robot.references import dependents, problems_of_item

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot


def refuse_change(robot: Robot, old: Described, new: Described) -> None:
    """Refuse a change of an item that does not fit the rest; see `Robot.refuse_unfit`."""
    kind, key = _home(robot, old)
    if getattr(new, kind.key_field) != key:
        raise ModelError(
            f"the name of {kind.called(key)} is changed with "
            f'rename("{kind.name}", {key!r}, ...), which changes what refers to it, too'
        )
    refuse_item(robot, kind, key, new)
    refuse_for_dependents(robot, kind, key, new)


def refuse_item(robot: Robot, kind: Kind, key: Any, item: Any) -> None:
    """Refuse an item that names what is not there, or does not fit otherwise.

    Raises:
        EntryError: what does not fit.
    """
    problems = list(problems_of_item(robot, kind, key, item))
    if problems:
        raise EntryError(kind.called(key), problems)


def refuse_for_dependents(robot: Robot, kind: Kind, key: Any, new: Any) -> None:
    """Refuse another item in the place of one, where those that refer to it do not bear it.

    Raises:
        EntryError: what does not fit.
        ModelError: it would move otherwise, and something says how it is to move.
    """
    section = robot.section(kind.name)
    old = section[key]
    found = list(dependents(robot, (kind.name, key)))
    others = [item for item, _ in found]
    measured = [item for item, reference in found if reference.ref.moving]
    if measured and isinstance(old, Joint) and old.motion != new.motion:
        listed = ", ".join(KINDS[k].called(n) for k, n in dict.fromkeys(measured))
        raise ModelError(
            f"joint {key!r} cannot become {new.type}: {listed} say what a {old.type} joint is "
            "to do; remove them first"
        )
    # As if it were there already; a look that changes nothing.
    section._items[key] = new
    try:
        for other_kind, other_key in others:
            other = KINDS[other_kind]
            refuse_item(robot, other, other_key, robot.section(other_kind)[other_key])
    finally:
        section._items[key] = old


def _home(robot: Robot, item: Described) -> tuple[Kind, Any]:
    for kind in KINDS.values():
        for key, other in robot.section(kind.name).items():
            if other is item:
                return kind, key
    raise ModelError(f"{item!r} is not part of {robot.name}")
