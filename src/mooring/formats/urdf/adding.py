"""Adding to a robot what was read, but for what is wrong with it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from lxml import etree

from mooring.formats.urdf.told import Told
from mooring.model import Robot
from mooring.model.definition.problems import EntryError


def add_item(
    robot: Robot, told: Told, kind: str, name: str, entry: dict[str, Any],
    element: etree._Element, tags: Mapping[str, str],
) -> None:  # fmt: skip
    """Add an item; fields that are wrong are told, and the item added without them.

    Args:
        robot, told: where it goes, and what is told.
        kind, name, entry: as for `Robot.add`.
        element: where it stands.
        tags: of the elements in it that its fields stand in.

    Raises:
        ModelError: it is wrong as a whole.
    """
    for _ in range(len(entry)):
        try:
            robot.add(kind, name, entry)
        except EntryError as error:
            wrong = {str(p.path[0]): p for p in error.problems if p.path and p.path[0] in entry}
            if not wrong:
                raise
            for field, problem in wrong.items():
                inner = element.find(tags.get(field, "")) if tags.get(field) else None
                at = ".".join(str(key) for key in problem.path)
                told.note(
                    element if inner is None else inner,
                    f"{kind} {name!r}: {at}: {problem.message}; left out",
                    code="value-unreadable", item=(f"{kind}s", name, field),
                    remedy="write what the message asks for",
                )  # fmt: skip
                entry = _without(entry, problem.path)
        else:
            return


def _without(entry: dict[str, Any], path: tuple[str | int, ...]) -> dict[str, Any]:
    """An entry without what stands at a path."""
    first, *rest = path
    inner = entry.get(str(first))
    if rest and isinstance(inner, dict) and rest[0] in inner:
        return entry | {str(first): _without(inner, tuple(rest))}
    return {key: value for key, value in entry.items() if key != first}
