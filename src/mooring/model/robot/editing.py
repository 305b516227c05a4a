"""Changing what is there: renaming and removing, with everything that refers to it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from mooring.errors import ModelError, did_you_mean, told
from mooring.model.definition.described import Described
from mooring.model.definition.walking import rebuilt
from mooring.model.registry import BY_SECTION, KINDS, kind_called
from mooring.model.robot.references import (
    Item,
    Rename,
    dependents,
    renamed_inside,
    renamed_item,
    without_entries,
)
from mooring.model.vendor import renamed as vendor_renamed

if TYPE_CHECKING:
    from mooring.model.robot.robot import ItemPath, Robot
    from mooring.model.robot.section import Section


def rename(robot: Robot, kind: str, old: str, new: str) -> None:
    """See `Robot.rename`."""
    what = kind_called(kind)
    if not what.own_names:
        known = [k.name for k in KINDS.values() if k.own_names]
        raise ModelError(f"a {kind} has no name of its own{did_you_mean(kind, known)}")
    section = robot.section(kind)
    if old not in section:
        raise ModelError(f"no {kind} is called {old!r}{did_you_mean(old, list(section))}")
    if new == old:
        return
    section.refuse_taken(new)
    rename_all(robot, lambda k, name: new if (k, name) == (kind, old) else name)


def rename_all(robot: Robot, rename: Rename) -> None:
    """Give items other names; every reference follows."""
    change = renamed_inside(robot, rename)
    renamed = {
        kind.name: [
            (item, *renamed_item(robot, kind, key, item, rename))
            for key, item in robot.section(kind.name).items()
        ]
        for kind in KINDS.values()
    }
    heads = [(head, rebuilt(type(head), head, change)) for head in robot.heads()]
    robot.places = {_renamed_place(path, rename): place for path, place in robot.places.items()}
    robot.notes = [
        replace(note, item=_renamed_place(note.item, rename)) if note.item else note
        for note in robot.notes
    ]
    names = {
        name: rename(kind, name)
        for kind in ("link", "joint")
        for name in robot.section(kind)
        if rename(kind, name) != name
    }
    for kind in KINDS.values():
        items = {}
        for item, key, new in renamed[kind.name]:
            items[key] = new
            if isinstance(item, Described):
                # It stays the one that somebody may hold.
                item.__dict__.update({**new.__dict__, kind.key_field: key})
                items[key] = item
        robot.section(kind.name).replace_all(items)
    for head, new in heads:
        head.__dict__.update(new.__dict__)
        head.belong_to(head.owner)
    _rename_in_vendor_parts(robot, names)
    robot.note_change()


def _rename_in_vendor_parts(robot: Robot, names: Mapping[str, str]) -> None:
    """What other programs have written names links and joints as well."""
    items = [item for kind in ("link", "joint", "motor") for item in robot.section(kind).values()]
    for item in (robot.head, *items):
        if item.vendor:
            item.__dict__["vendor"] = vendor_renamed(item.vendor, names)


def _renamed_place(path: ItemPath, rename: Rename) -> ItemPath:
    kind = BY_SECTION.get(path[0]) if len(path) > 1 else None
    if kind is None:
        return path
    if kind.name == "coupling":
        return (path[0], rename("joint", path[1]), *path[2:])
    return (path[0], rename(kind.name, path[1]), *path[2:])


def remove(robot: Robot, kind: str, name: Any, with_dependents: bool) -> list[Item]:
    """See `Robot.remove`."""
    section = robot.section(kind)
    if name not in section:
        raise ModelError(f"no {kind} is called {name!r}{did_you_mean(str(name), list(section))}")
    gone = [(kind, name), *needing(robot, (kind, name))]
    if len(gone) > 1 and not with_dependents:
        _refuse(kind, name, gone[1:])
    drop_items(robot, set(gone))
    robot.note_change()
    return [item for item in gone if item[0] != "allowance" or item[0] == kind]


def drop_items(robot: Robot, gone: set[Item]) -> None:
    """Let items go, and the entries that name them in what stays."""
    change = without_entries(robot, gone)
    for kind in KINDS.values():
        items = robot.section(kind.name)
        for key, item in list(items.items()):
            new = item if (kind.name, key) in gone else rebuilt(kind.type, item, change)
            if new is not item and isinstance(item, Described):
                item.__dict__.update(new.__dict__)
            elif new is not item:
                items.put(key, new)
    for head in robot.heads():
        head.__dict__.update(rebuilt(type(head), head, change).__dict__)
    for kind_name, key in gone:
        robot.section(kind_name).drop(key)


def refuse_needed(robot: Robot, kind: str, name: Any) -> None:
    """Refuse to lose an item that something needs; a joint may wait for its links.

    Raises:
        ModelError: with what needs it.
    """
    needing = [item for item, reference in dependents(robot, (kind, name))
               if not reference.ref.may_dangle]  # fmt: skip
    if needing:
        _refuse(kind, name, list(dict.fromkeys(needing)))


def _refuse(kind: str, name: Any, needing: list[Item]) -> None:
    listed = ", ".join(f"{k} {n!r}" for k, n in needing[:8])
    more = f" and {len(needing) - 8} more" if len(needing) > 8 else ""
    raise ModelError(
        f"{kind} {name!r} is needed by {listed}{more}; remove them too with "
        f'remove("{kind}", {name!r}, with_dependents=True)'
    )


def needing(robot: Robot, item: Item) -> list[Item]:
    """What cannot be without an item, and what cannot be without that."""
    gone = [item]
    for one in gone:
        found = [other for other, reference in dependents(robot, one)
                 if reference.ref.lost == "item"]  # fmt: skip
        if one[0] == "joint":
            child = robot.joints[one[1]].child
            if child in robot.links:
                found.append(("link", child))
        gone += [other for other in dict.fromkeys(found) if other not in gone]
    return gone[1:]


def replace_section(robot: Robot, section: Section[Any], items: Mapping[Any, Any]) -> None:
    """Put other items in the place of all of a kind."""
    if items is section:
        return
    if not isinstance(items, Mapping):
        raise ModelError(f"expected items by name, got {told(items)}")
    for name in [name for name in section if name not in items]:
        del section[name]
    for name, item in items.items():
        section[name] = item
    robot.note_change()
