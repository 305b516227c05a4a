"""`Described`: the base of everything a user describes."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, NoReturn, Self, TypeVar

from pydantic import AfterValidator, BaseModel, ConfigDict, ValidationError

from mooring import outlet
from mooring.brief import brief
from mooring.errors import ModelError, did_you_mean
from mooring.model.definition.context import Context
from mooring.model.definition.mirroring import mirrored_inside
from mooring.model.definition.problems import EntryError, Problem, problems_of
from mooring.model.definition.walking import with_fields_rebuilt

if TYPE_CHECKING:
    from mooring.geometry import Array
    from mooring.model.robot import Robot

K = TypeVar("K")
V = TypeVar("V")


class Fixed(dict[K, V]):
    """A mapping that is given anew as a whole, so that no change of it goes unnoticed."""

    def _refuse(self, *_: object, **__: object) -> NoReturn:
        raise ModelError(
            "this mapping is given as a whole: assign a new one, such as {**old, name: value}"
        )

    __setitem__ = __delitem__ = __ior__ = _refuse
    clear = pop = popitem = setdefault = update = _refuse

    def __reduce__(self) -> Any:
        return type(self), (dict(self),)


Table = Annotated[dict[K, V], AfterValidator(Fixed)]
"""A field that holds a mapping."""


class Described(BaseModel, outlet.Shown):
    """Something that a user describes: strict, and checked again whenever a field is set.

    What is in a robot tells it of every change, and a change that the robot cannot take is refused.
    """

    __slots__ = ("_owner",)
    word: ClassVar[str] = ""
    """What messages call it, where that is not the name of the class."""

    model_config = ConfigDict(extra="forbid", arbitrary_types_allowed=True)

    def __init__(self, **fields: Any) -> None:
        try:
            super().__init__(**fields)
        except ValidationError as error:
            what = _called(type(self), fields.get("name"))
            raise EntryError(what, problems_of(type(self), error)) from None

    # Otherwise Pydantic would call it for what is read as well, where errors are told elsewhere.
    __init__.__pydantic_base_init__ = True  # type: ignore[attr-defined]

    def __repr__(self) -> str:
        usual = {name: field.default for name, field in type(self).model_fields.items()}
        given = self.model_fields_set
        return brief(self, [n for n in usual if n in given and getattr(self, n) is not usual[n]])

    def __setattr__(self, name: str, value: Any) -> None:
        if name == "_owner":
            object.__setattr__(self, name, value)
            return
        self.change(**{name: value})

    def change(self, **fields: Any) -> None:
        """Set several fields, checked together.

        Raises:
            ModelError: there is no such field, or a value is wrong; nothing is changed then.

        Example:
            `robot.links["arm"].change(mass="12 kg", centre=(0, 0, 0.2), inertia=(1, 1, 0.2))`
        """
        what = self.called
        for name in fields:
            if name not in type(self).model_fields:
                known = list(type(self).model_fields)
                raise ModelError(f"{what} has no {name!r}{did_you_mean(name, known)}")
        owner = getattr(self, "_owner", None)
        new = self.with_fields(None if owner is None else owner.context, **fields)
        if owner is not None:
            owner.refuse_unfit(self, new)
        before = [inner for inner in self.__dict__.values() if isinstance(inner, Described)]
        self.__dict__.update(new.__dict__)
        self.__pydantic_fields_set__.update(fields)
        for inner in before:
            inner.belong_to(None)
        self.belong_to(owner)
        if owner is not None:
            owner.note_change()

    def with_fields(self, context: Context | None = None, **fields: Any) -> Self:
        """A copy with other fields, checked.

        Raises:
            ModelError: a value is wrong.
        """
        said = {name: getattr(self, name) for name in type(self).model_fields}
        try:
            return type(self).model_validate({**said, **fields}, context=context)
        except ValidationError as error:
            raise EntryError(self.called, problems_of(type(self), error)) from None

    def copied(self) -> Self:
        """A copy that belongs to nobody."""
        copy = self.model_copy()
        for name, inner in copy.__dict__.items():
            if isinstance(inner, Described):
                copy.__dict__[name] = inner.copied()
        return copy

    # What is inside belongs to what it is in, up to the robot.

    def belong_to(self, owner: Any) -> None:
        """Tell an owner of every change from now on."""
        object.__setattr__(self, "_owner", owner)
        for inner in self.__dict__.values():
            if isinstance(inner, Described):
                inner.belong_to(self)

    @property
    def called(self) -> str:
        """What messages call it: by its name, or as part of what it is in."""
        name = getattr(self, "name", None)
        if name is None and isinstance(self.owner, Described):
            inside = next(key for key, value in self.owner.__dict__.items() if value is self)
            return f"{self.owner.called}: {inside}"
        return _called(type(self), name)

    @property
    def owner(self) -> Any:
        """What it is told to; None where nothing is."""
        return getattr(self, "_owner", None)

    @property
    def context(self) -> Context | None:
        """What values are read with."""
        owner = self.owner
        return None if owner is None else owner.context

    def refuse_unfit(self, inner: Described, new: Described) -> None:
        """Refuse a change of something inside that does not fit.

        Raises:
            ModelError: what does not fit.
        """
        owner = getattr(self, "_owner", None)
        name = next(key for key, value in self.__dict__.items() if value is inner)
        changed = self.with_fields(self.context, **{name: new})
        if owner is not None:
            owner.refuse_unfit(self, changed)

    def note_change(self) -> None:
        """Something inside has changed."""
        owner = getattr(self, "_owner", None)
        if owner is not None:
            owner.note_change()

    # What has a meaning of its own in some definitions.

    def unfit(self, robot: Robot) -> Iterator[Problem]:
        """What does not fit the rest of a robot, besides names of what is not there."""
        del robot
        return iter(())

    def placed_on(self) -> str | None:
        """The link on which its placements are measured."""
        return None

    def mirrored(self, mirror: Array) -> Self:
        """The same in a mirror, (4, 4)."""
        image: Self = with_fields_rebuilt(self, mirrored_inside(mirror))
        return image

    def resolved(self, robot: Robot) -> Self:
        """The same with nothing left to be computed."""
        del robot
        return self


class Value(Described):
    """Something described that is given anew as a whole."""

    model_config = ConfigDict(frozen=True)

    def __setattr__(self, name: str, value: Any) -> None:
        if name != "_owner":
            raise ModelError(
                f"{_called(type(self), None)} is given as a whole: assign a new one, made with "
                f"with_fields({name}=...)"
            )
        object.__setattr__(self, name, value)


def needs(item: Described, **companions: str) -> None:
    """Refuse what says nothing without its companion, such as damping without stiffness.

    Args:
        item: of a class with these fields.
        companions: the field that each needs to be given with it.

    Raises:
        ValueError: one is given without.

    Example:
        `needs(cable, damping="stiffness")`.
    """
    for field, companion in companions.items():
        if getattr(item, field) and getattr(item, companion) is None:
            raise ValueError(f"{field} says nothing without {companion}")


def _called(kind: type, name: object) -> str:
    word = (
        getattr(kind, "word", "")
        or "".join(f" {c.lower()}" if c.isupper() else c for c in kind.__name__).strip()
    )
    return word if name is None else f"{word} {name!r}"
