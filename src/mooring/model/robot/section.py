"""The items of one kind: a mapping that checks what is put in, and notes every change."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, MutableMapping
from typing import TYPE_CHECKING, Any, TypeVar, get_origin

from mooring.errors import ModelError, Problem, UnknownNameError, did_you_mean, told
from mooring.model.definition.described import Described
from mooring.model.definition.problems import EntryError, define, define_as
from mooring.model.definition.walking import fields_of
from mooring.model.robot.editing import refuse_needed
from mooring.model.robot.fitting import refuse_for_dependents, refuse_item

if TYPE_CHECKING:
    from mooring.model.definition.context import Context
    from mooring.model.registry import Kind
    from mooring.model.robot.robot import Robot

Item = TypeVar("Item")


class Section(MutableMapping[Any, Item]):
    """The items of a kind, by name.

    It keeps copies of its own of what is put in. What refers to something that is not there, or is
    referred to and would be gone, is refused.

    Args:
        robot: whose.
        kind: of what.
    """

    def __init__(self, robot: Robot, kind: Kind) -> None:
        self._robot = robot
        self._kind = kind
        self._items: dict[Any, Item] = {}

    def __getitem__(self, name: Any) -> Item:
        try:
            return self._items[name]
        except KeyError:
            raise self._unknown(name) from None

    def __iter__(self) -> Iterator[Any]:
        return iter(self._items)

    def __len__(self) -> int:
        return len(self._items)

    def __contains__(self, name: object) -> bool:
        return name in self._items

    def __repr__(self) -> str:
        return f"<{len(self)} {self._kind.section}: {', '.join(map(str, self))}>"

    def __setitem__(self, name: Any, item: Item) -> None:
        kind, robot = self._kind, self._robot
        what = kind.called(name)
        key = self._key(name)
        entry, hidden = _as_entry(kind, what, item)
        new: Any = read_item(kind, what, entry, robot.context, {**hidden, kind.key_field: key})
        before = self._items.get(key)
        refuse_item(robot, kind, key, new)
        if before is not None:
            refuse_for_dependents(robot, kind, key, new)
        self.put(key, new)
        robot.note_change()

    def __delitem__(self, name: Any) -> None:
        if name not in self._items:
            raise self._unknown(name)
        refuse_needed(self._robot, self._kind.name, name)
        self.drop(name)
        self._robot.note_change()

    def clear(self) -> None:
        for name in list(self._items):
            del self[name]

    # For those who have checked, and note the change themselves.

    def put(self, key: Any, item: Any) -> None:
        """Hold an item without looking at it."""
        self._items[key] = item
        if isinstance(item, Described):
            item.belong_to(self._robot)

    def drop(self, key: Any) -> None:
        """Let an item go without looking who needs it."""
        item = self._items.pop(key)
        if isinstance(item, Described):
            item.belong_to(None)

    def replace_all(self, items: dict[Any, Any]) -> None:
        """Hold other items, in another order, without looking at them."""
        self._items.clear()
        for key, item in items.items():
            self.put(key, item)

    def refuse_taken(self, name: Any) -> None:
        """Refuse a name that is none, or that another item has.

        Raises:
            ModelError: it is so.
        """
        if self._kind.own_names and (not isinstance(name, str) or not name.strip()):
            raise ModelError(f"a {self._kind.name} needs a name, got {told(name)}")
        if name in self._items:
            text = f"there is already a {self._kind.name} called {name!r}"
            if self._kind.key_field != "name":
                text = f"there is already a {self._kind.called(name)}"
            raise ModelError(text)

    def _key(self, name: Any) -> Any:
        if get_origin(self._kind.key) is not tuple:
            if not isinstance(name, str) or not name.strip():
                raise ModelError(f"a {self._kind.name} needs a name, got {told(name)}")
            return name
        if not isinstance(name, tuple) or len(name) != 2 or len({*name}) < 2:
            raise ModelError(f"an {self._kind.name} is of two different links, got {told(name)}")
        return tuple(sorted(name))

    def _unknown(self, name: Any) -> UnknownNameError:
        hint = did_you_mean(str(name), [str(key) for key in self._items])
        return UnknownNameError(f"no {self._kind.name} is called {name!r}{hint}")


def read_item(kind: Kind, what: str, entry: Any, context: Context, hidden: dict[str, Any]) -> Any:
    """An item from what a user gave, checked by itself.

    Args:
        kind: of what.
        what: how messages call it.
        entry: what the user gave.
        context: to read it with.
        hidden: what is not the user's to give, such as its name.

    Raises:
        EntryError: with every problem of the entry.
    """
    definition = kind.type
    if kind.variants is not None:
        if not isinstance(entry, Mapping):
            raise EntryError(what, [Problem(f"expected a mapping of keys, got {told(entry)}")])
        variant = entry.get("kind")
        if not isinstance(variant, str) or variant not in kind.variants:
            hint = did_you_mean(told(variant), list(kind.variants))
            text = f"unknown kind of {kind.name} {told(variant)}{hint}"
            raise EntryError(what, [Problem(text, ("kind",))])
        definition = kind.variants[str(variant)]
    if isinstance(definition, type) and issubclass(definition, Described):
        return define(definition, what, entry, context, **hidden)
    try:
        return define_as(kind.adapter, what, entry, context, kind.inner)
    except EntryError as error:
        raise EntryError(what, error.problems) from None


def _as_entry(kind: Kind, what: str, item: Any) -> tuple[Any, dict[str, Any]]:
    """What a user would have given for an item, copied, and what is not the user's to give."""
    if not isinstance(item, Described):
        return item, {}
    fitting = tuple((kind.variants or {}).values()) or kind.type
    if not isinstance(item, fitting):
        raise EntryError(what, [Problem(f"a {type(item).__name__} is no {kind.name}")])
    given, values = fields_of(item.__class__), item.copied().__dict__
    return (
        {name: value for name, value in values.items() if name in given},
        {name: value for name, value in values.items() if name not in given and name != "motion"},
    )
