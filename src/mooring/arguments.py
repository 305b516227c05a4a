"""Arguments of public calls, proven before anything is done with them."""

from __future__ import annotations

import ast
import inspect
import math
import os
import re
from collections.abc import Callable, Iterable, Mapping
from functools import cache, wraps
from itertools import islice
from numbers import Integral, Real
from types import FunctionType
from typing import Any, Literal, NamedTuple, TypeVar, cast, get_origin

import numpy as np

from mooring.errors import ModelError, did_you_mean, told

_Call = TypeVar("_Call", bound=Callable[..., Any])
_Class = TypeVar("_Class", bound=type)

_LARGEST = 2**63
_MOST_LOOKED_AT = 1000
"""Of values that are given together."""
_READ_WITH = {"Robot": "read", "Scene": "read_scene", "Assembly": "read_cad"}
"""What makes an argument of a file, by the class that is expected."""


def _is_numbers(value: object) -> bool:
    if isinstance(value, str | bytes | Mapping) or value is None:
        return False
    if isinstance(value, np.ndarray):
        return value.dtype.kind in "fiub"
    try:
        np.asarray(value, dtype=float)
    except (TypeError, ValueError, OverflowError):
        return False
    return True


def _is_number(value: object) -> bool:
    if not isinstance(value, Real) or isinstance(value, bool):
        return False
    try:
        return not math.isnan(value)
    except OverflowError:
        return False


def _is_whole(value: object) -> bool:
    if not isinstance(value, Integral) or isinstance(value, bool):
        return False
    return abs(int(value)) < _LARGEST


def _is_several(value: object) -> bool:
    return isinstance(value, Iterable) and not isinstance(value, str | bytes | Mapping)


_SORTS: dict[str, tuple[str, Callable[[object], bool]]] = {
    "ArrayLike": ("numbers", _is_numbers),
    "Array": ("numbers", _is_numbers),
    "Callable": ("a function", callable),
    "Iterable": ("several values", _is_several),
    "Mapping": ("values by name", lambda value: isinstance(value, Mapping)),
    "Path": ("a path", lambda value: isinstance(value, os.PathLike)),
    "PathLike": ("a path", lambda value: isinstance(value, os.PathLike)),
    "Sequence": ("several values", _is_several),
    "bool": ("True or False", lambda value: isinstance(value, bool | np.bool_)),
    "dict": ("values by name", lambda value: isinstance(value, Mapping)),
    "float": ("a number", _is_number),
    "int": ("a whole number", _is_whole),
    "list": ("several values", _is_several),
    "str": ("text", lambda value: isinstance(value, str)),
    "tuple": ("several values", _is_several),
}


def proven(call: _Call) -> _Call:
    """Refuse arguments that are not what the annotations of a function say, in words.

    Annotations are read by name, as the classes they name need not be imported where they are
    written. Names that are not known here, such as those of aliases, say nothing; the function
    then judges for itself.

    Raises:
        ModelError: when the function is called: which argument, what is expected, what it got.

    Example:
        >>> from mooring import check
        >>> check("crane.yaml")
        Traceback (most recent call last):
        mooring.errors.ModelError: check: robot: expected a robot, got 'crane.yaml'; read it first: mooring.read('crane.yaml')
    """  # noqa: E501
    return cast("_Call", _proving(cast("FunctionType", call), call.__name__))


def proven_methods(owner: _Class) -> _Class:
    """The same of what a class has for others: making one, and its public methods."""
    for name, member in list(vars(owner).items()):
        if name.startswith("_") and name != "__init__":
            continue
        called = owner.__name__ if name == "__init__" else name
        if isinstance(member, staticmethod | classmethod):
            setattr(owner, name, type(member)(_proving(member.__func__, called)))
        elif isinstance(member, FunctionType) and not hasattr(member, "__isabstractmethod__"):
            setattr(owner, name, _proving(member, called))
    return owner


def _proving(function: Callable[..., Any], called: str) -> Callable[..., Any]:
    @cache
    def sorts() -> tuple[list[str], str | None, dict[str, frozenset[_Wanted]], list[str] | None]:
        parameters = inspect.signature(function).parameters.values()
        by_place = (inspect.Parameter.POSITIONAL_ONLY, inspect.Parameter.POSITIONAL_OR_KEYWORD)
        further = [p.name for p in parameters if p.kind is p.VAR_POSITIONAL]
        return (
            [p.name for p in parameters if p.kind in by_place],
            further[0] if further else None,
            {
                p.name: names
                for p in parameters
                if p.kind is not p.VAR_KEYWORD
                and (names := _wanted(p.annotation, function.__globals__))
            },
            None
            if any(p.kind is p.VAR_KEYWORD for p in parameters)
            else [p.name for p in parameters if p.kind is not p.POSITIONAL_ONLY],
        )

    @wraps(function)
    def proving(*args: Any, **kwargs: Any) -> Any:
        placed, further, known, options = sorts()
        if options is not None:
            refuse_unknown(called, kwargs, options)
        more = ((further or "", value) for value in args[len(placed) :])
        for name, value in (*zip(placed, args, strict=False), *more, *kwargs.items()):
            names = known.get(name)
            if names is not None and not any(_fits(value, each) for each in names):
                raise ModelError(f"{called}: {name}: {_refusal(value, names)}")
        return function(*args, **kwargs)

    return proving


def refuse_unknown(called: str, given: Iterable[str], known: Iterable[str]) -> None:
    """Refuse options that a call does not have.

    Raises:
        ModelError: with a guess at what was meant.
    """
    offered = [name for name in known if name != "self"]
    for name in given:
        if name not in offered:
            raise ModelError(f"{called}: it takes no {name!r}{did_you_mean(name, offered)}")


class _Wanted(NamedTuple):
    """What an argument may be.

    Attributes:
        name: of a class, or a word of annotations.
        within: of what holds others, what these may be, where that is known.
    """

    name: str
    within: frozenset[_Wanted] | None = None


def _wanted(annotation: object, around: Mapping[str, Any]) -> frozenset[_Wanted] | None:
    """What an annotation names, of which one must fit; None where it tells nothing."""
    if not isinstance(annotation, str):
        return None
    return _wanted_by(ast.parse(annotation, mode="eval").body, around)


def _wanted_by(node: ast.expr, around: Mapping[str, Any]) -> frozenset[_Wanted] | None:
    if isinstance(node, ast.BinOp):
        sides = _wanted_by(node.left, around), _wanted_by(node.right, around)
        return None if sides[0] is None or sides[1] is None else sides[0] | sides[1]
    within = None
    if isinstance(node, ast.Subscript):
        within, node = node.slice, node.value
    name = str(node.value) if isinstance(node, ast.Constant) else getattr(node, "id", "")
    alias = get_origin(around.get(name))
    if alias is Callable:
        name = "Callable"
    elif alias is Literal:
        name = "str"
    known = name in ("None", *_SORTS, *_CLASSES) or isinstance(around.get(name), type)
    if name == "Any" or not known:
        return None
    held = None if within is None or name not in _HOLDERS else _held(name, within)
    return frozenset({_Wanted(name, None if held is None else _wanted_by(held, around))})


_HOLDERS = ("Iterable", "Mapping", "Sequence", "dict", "list", "tuple")


def _held(name: str, within: ast.expr) -> ast.expr | None:
    """What something holds, if all of that is of one sort: of a mapping, its values."""
    if not isinstance(within, ast.Tuple):
        return within
    if name in ("Mapping", "dict"):
        key, value = within.elts
        return value if ast.unparse(key) == "str" else None
    alike = {ast.unparse(element) for element in within.elts} - {"..."}
    return within.elts[0] if len(alike) == 1 else None


_CLASSES = {
    "Assembly": "an assembly",
    "Part": "a part",
    "Recording": "a recording",
    "Robot": "a robot",
    "SavedState": "a saved state",
    "Scene": "a scene",
    "Simulation": "a simulation",
    "Tree": "a kinematic tree (robot.tree())",
}


def _fits(value: object, wanted: _Wanted) -> bool:
    if wanted.name == "None":
        return value is None
    if wanted.name not in _SORTS:
        return any(base.__name__ == wanted.name for base in type(value).__mro__)
    if not _SORTS[wanted.name][1](value):
        return False
    if wanted.within is None:
        return True
    held: Iterable[object] = ()
    if isinstance(value, Mapping):
        if not all(isinstance(key, str) for key in value):
            return False
        held = value.values()
    elif isinstance(value, list | tuple):
        held = value
    some = islice(held, _MOST_LOOKED_AT)
    # Of what is not finite inside something, the function knows whose it is, and says that.
    numbers = any(each.name == "float" for each in wanted.within)
    return all(
        any(_fits(one, each) for each in wanted.within) or (numbers and _is_nan(one))
        for one in some
    )


def _is_nan(value: object) -> bool:
    return isinstance(value, float) and math.isnan(value)


def _told(wanted: _Wanted) -> str:
    """What a user calls what an annotation names."""
    name = wanted.name
    if name not in _SORTS:
        return _CLASSES.get(name) or f"a {re.sub(r'(?<=[a-z])(?=[A-Z])', ' ', name).lower()}"
    words = _SORTS[name][0]
    if wanted.within:
        words += f", each {_either(wanted.within)}"
    return words


def _either(wanted: frozenset[_Wanted]) -> str:
    return " or ".join(sorted({_told(one) for one in wanted if one.name != "None"}))


def _refusal(value: object, wanted: frozenset[_Wanted]) -> str:
    words = f"expected {_either(wanted)}, got {told(value)}"
    names = [one.name for one in wanted]
    reader = next(
        (_READ_WITH[name] for name in sorted(names, reverse=True) if name in _READ_WITH), None
    )
    if reader is not None and isinstance(value, str | os.PathLike):
        words += f"; read it first: mooring.{reader}({str(value)!r})"
    return words
