"""Rules on the CAD parts that links are made of."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject

_LISTED = 6


def _list(names: list[str]) -> str:
    more = f" and {len(names) - _LISTED} more" if len(names) > _LISTED else ""
    return ", ".join(names[:_LISTED]) + more


@rule("part-left-over", "warning")
def part_left_over(subject: Subject) -> Iterator[Found]:
    """Every part of the CAD belongs to a link, or was dropped on purpose."""
    robot = subject.robot
    names = [part.name for part in robot.leftover_parts()]
    if names:
        what = "1 part belongs" if len(names) == 1 else f"{len(names)} parts belong"
        yield Found(
            ("cad",),
            f"{what} to no link: {_list(names)}",
            "add them to the link they move with, or drop them",
        )


@rule("part-twice", "error")
def part_twice(subject: Subject) -> Iterator[Found]:
    """No part belongs to two links."""
    robot = subject.robot
    owner: dict[tuple[int, str], str] = {}
    twice: dict[tuple[str, str], list[str]] = {}
    for name, link in robot.links.items():
        for part in link.parts:
            first = owner.setdefault((id(part), link.included_as), name)
            if first != name:
                twice.setdefault((first, name), []).append(part.name)
    for (first, second), parts in twice.items():
        yield Found(
            ("links", second, "parts"),
            f"{_list(parts)} belong{'s' if len(parts) == 1 else ''} to link {first!r} and to link "
            f"{second!r}",
            "take it away from one of them; its mass counts twice",
        )
