"""Rules on names."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mooring.checks.fix import Edit
from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject


@rule("names-alike", "warning")
def names_alike(subject: Subject) -> Iterator[Found]:
    """No two names of a kind differ only in case, spaces or dashes."""
    robot = subject.robot
    for section, names in (("links", robot.links), ("joints", robot.joints)):
        for first, second in _alike(names):
            yield Found(
                (section, second),
                f"the {section} {first!r} and {second!r} differ only in case, spaces or dashes",
                "rename one of them; other programs may take them for the same",
            )


@rule("name-edges", "warning")
def name_edges(subject: Subject) -> Iterator[Found]:
    """No name begins or ends with a space."""
    robot = subject.robot
    for section, names in (("links", robot.links), ("joints", robot.joints)):
        for name in names:
            if name != name.strip():
                yield Found(
                    (section, name),
                    f"the name {name!r} begins or ends with a space",
                    f"call it {name.strip()!r}",
                    (Edit("rename", (section.removesuffix("s"), name), (name.strip(),)),),
                )


def _alike(names: Iterable[str]) -> Iterator[tuple[str, str]]:
    seen: dict[str, str] = {}
    for name in names:
        key = "".join(c for c in name.casefold() if c not in " -_")
        if key in seen:
            yield seen[key], name
        seen.setdefault(key, name)
