"""From Pydantic's errors to sentences in the user's words."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from mooring.errors import ModelError, did_you_mean

Path = tuple[str | int, ...]
Definition = TypeVar("Definition", bound=BaseModel)


class EntryError(ModelError):
    """What is wrong with one entry of a description, each with the path of keys inside it."""

    def __init__(self, what: str, problems: Sequence[tuple[Path, str]]) -> None:
        self.problems = tuple(problems)
        self.what = what
        super().__init__("\n".join(f"{what}: {_at(path)}{text}" for path, text in problems))

    def inside(self, *keys: str | int, what: str = "") -> EntryError:
        """The same problems, of something that holds the entry under these keys."""
        problems = [((*keys, *path), text) for path, text in self.problems]
        return EntryError(what or self.what, problems)


def define(
    kind: type[Definition], what: str, entry: Mapping[str, Any], **context: Any
) -> Definition:
    """Make a definition from what a user gave.

    Args:
        kind: the definition's class.
        what: how messages call the entry.
        entry: what the user gave, by key.
        context: fields that are not the user's to give, such as the name.

    Raises:
        EntryError: with every problem of the entry.
    """
    if not isinstance(entry, Mapping):
        raise EntryError(what, [((), f"expected a mapping of keys, got {entry!r}")])
    taken = [key for key in entry if key in kind.model_fields and kind.model_fields[key].exclude]
    if taken:
        known = [name for name, field in kind.model_fields.items() if not field.exclude]
        raise EntryError(
            what, [((key,), f"unknown key {key!r}{did_you_mean(key, known)}") for key in taken]
        )
    try:
        return kind.model_validate({**context, **entry})
    except ValidationError as error:
        raise EntryError(what, [_problem(kind, e) for e in error.errors()]) from None


def _problem(kind: type[BaseModel], error: Any) -> tuple[Path, str]:
    path: Path = tuple(error["loc"])
    if error["type"] == "extra_forbidden":
        owner = _model_at(kind, path[:-1])
        known = [name for name, field in owner.model_fields.items() if not field.exclude]
        return path, f"unknown key {path[-1]!r}{did_you_mean(str(path[-1]), known)}"
    if error["type"] == "missing":
        return path[:-1], f"{path[-1]!r} is missing"
    if error["type"] == "literal_error":
        choice = str(error["ctx"]["expected"]).replace("'", "")
        return path, f"{path[-1]} must be {choice}; got {error['input']!r}"
    message = str(error["msg"]).removeprefix("Value error, ")
    if error["type"].endswith("_error") and error["type"] != "value_error":
        message = message[0].lower() + message[1:]
    if error["type"] in ("string_type", "float_type", "bool_type", "list_type", "dict_type"):
        message = f"{message[0].lower() + message[1:]}, got {error['input']!r}"
    return path, message


def _model_at(kind: type[BaseModel], path: Path) -> type[BaseModel]:
    for key in path:
        field = kind.model_fields.get(str(key))
        inner = (
            [] if field is None else [field.annotation, *getattr(field.annotation, "__args__", ())]
        )
        for candidate in inner:
            if isinstance(candidate, type) and issubclass(candidate, BaseModel):
                kind = candidate
                break
    return kind


def _at(path: Path) -> str:
    return f"{'.'.join(str(key) for key in path)}: " if path else ""
