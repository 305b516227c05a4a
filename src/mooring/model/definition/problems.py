"""From Pydantic's errors to sentences in the user's words."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, TypeVar

from pydantic import BaseModel, TypeAdapter, ValidationError

from mooring.errors import ModelError, Problem, did_you_mean, told
from mooring.model.definition.walking import Path, fields_of

__all__ = ["EntryError", "Path", "Problem", "define", "problems_of"]

Definition = TypeVar("Definition", bound=BaseModel)


class EntryError(ModelError):
    """What is wrong with one entry of a description, each with the path of keys inside it."""

    def __init__(self, what: str, problems: Iterable[Problem | tuple[Path, str]]) -> None:
        self.problems = tuple(
            p if isinstance(p, Problem) else Problem(p[1], p[0]) for p in problems
        )
        self.what = what
        super().__init__("\n".join(f"{what}: {_said(problem)}" for problem in self.problems))

    def inside(self, *keys: str | int, what: str = "") -> EntryError:
        """The same problems, of something that holds the entry under these keys."""
        return EntryError(what or self.what, [problem.inside(*keys) for problem in self.problems])


def define(
    kind: type[Definition],
    what: str,
    entry: Mapping[str, Any],
    context: object = None,
    **hidden: Any,
) -> Definition:
    """Make a definition from what a user gave.

    Args:
        kind: the definition's class.
        what: how messages call the entry.
        entry: what the user gave, by key.
        context: a `Context` to read it with.
        hidden: fields that are not the user's to give, such as the name.

    Raises:
        EntryError: with every problem of the entry.
    """
    if not isinstance(entry, Mapping):
        raise EntryError(what, [((), f"expected a mapping of keys, got {told(entry)}")])
    taken = [key for key in entry if key in kind.model_fields and key not in fields_of(kind)]
    if taken:
        raise EntryError(what, [_unknown_key(kind, (key,)) for key in taken])
    try:
        return kind.model_validate({**hidden, **entry}, context=context)
    except ValidationError as error:
        raise EntryError(what, problems_of(kind, error)) from None


def define_as(
    adapter: TypeAdapter[Any],
    what: str,
    entry: Any,
    context: object = None,
    inner: type[BaseModel] | None = None,
) -> Any:
    """The same for what is no definition, but a mapping or a sequence of them (`inner`)."""
    try:
        return adapter.validate_python(entry, context=context)
    except ValidationError as error:
        raise EntryError(what, problems_of(inner, error)) from None


def problems_of(kind: type[BaseModel] | None, error: ValidationError) -> list[Problem]:
    """What is wrong, a problem each."""
    found = [problem for one in error.errors() for problem in _problems(kind, one)]
    return list(dict.fromkeys(found))


def _problems(kind: type[BaseModel] | None, error: Any) -> Sequence[Problem]:
    path: Path = tuple(key for key in error["loc"] if _is_key(key))
    cause = error.get("ctx", {}).get("error")
    if isinstance(cause, EntryError):
        return [problem.inside(*path) for problem in cause.problems]
    if error["type"] == "extra_forbidden":
        # The last is the key itself, whatever it looks like.
        within = tuple(key for key in error["loc"][:-1] if _is_key(key))
        return [_unknown_key(kind, (*within, error["loc"][-1]))]
    if error["type"] == "missing":
        return [Problem(f"{path[-1]!r} is missing", path[:-1], "missing")]
    if error["type"] == "literal_error":
        choice = str(error["ctx"]["expected"]).replace("'", "")
        what = f"{path[-1]} must be" if path else "expected"
        return [Problem(f"{what} {choice}; got {told(error['input'])}", path)]
    if error["type"] in ("model_type", "model_attributes_type"):
        return [Problem(f"expected a mapping of keys, got {told(error['input'])}", path)]
    if error["type"] == "too_short":
        return [Problem(f"{path[-1] if path else 'the list'} needs at least one entry", path)]
    message = str(error["msg"]).removeprefix("Value error, ")
    if error["type"].endswith("_error") and error["type"] != "value_error":
        message = message[0].lower() + message[1:]
    if error["type"] in ("string_type", "float_type", "bool_type", "list_type", "dict_type"):
        message = f"{message[0].lower() + message[1:]}, got {told(error['input'])}"
    if error["type"] in ("greater_than", "greater_than_equal", "less_than", "less_than_equal"):
        what = f"the {path[-1]}" if path else "the value"
        words = message.partition("should ")[2]
        message = f"{what} must {words}, got {error['input']}"
    return [Problem(message, path)]


def _unknown_key(kind: type[BaseModel] | None, path: Path) -> Problem:
    owner = None if kind is None else _model_at(kind, path[:-1])
    known = [] if owner is None else list(fields_of(owner))
    hint = did_you_mean(str(path[-1]), known) if known else ""
    return Problem(f"unknown key {told(path[-1])}{hint}", path, "unknown-key")


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


def _is_key(key: object) -> bool:
    """Pydantic's paths also name validators and the choices of unions."""
    return not (isinstance(key, str) and ("[" in key or key in ("str", "float", "[key]")))


def _said(problem: Problem) -> str:
    """A problem with the keys on the way to it, but for the last where the message names it."""
    keys = [str(key) for key in problem.path]
    if keys and problem.message.startswith(f"{keys[-1]} "):
        keys.pop()
    return ": ".join([*([".".join(keys)] if keys else []), problem.message])
