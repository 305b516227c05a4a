"""The variants of a kind of item: one class or record each, found by the name a document uses.

A variant is one file and one line: its definition, and its entry in the `Variants` of its kind. A
variant of somebody else is registered with `mooring.register`, or named as an entry point of the
group `mooring.variants` in an installed package:

    [project.entry-points."mooring.variants"]
    altimeter = "harbour_sensors:Altimeter"
"""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterator, Mapping
from importlib import metadata
from typing import Any, ClassVar, Generic, TypeVar, get_args, get_origin, get_type_hints

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import CoreSchema, core_schema

from mooring.errors import ModelError, told

V = TypeVar("V")

GROUP = "mooring.variants"
"""The group of entry points that name variants of other packages."""


class Variants(Mapping[str, V], Generic[V]):
    """The variants of one kind, by name.

    Attributes:
        kind: what messages call one of them, such as `"sensor"`.
        base: the class of which each variant is a subclass or an instance.
        origins: the packages that variants come from, where that is not Mooring.
    """

    all_kinds: ClassVar[list[Variants[Any]]] = []

    def __init__(self, kind: str, base: type, name_of: Callable[[V], str], *own: V) -> None:
        """List Mooring's own variants.

        Args:
            kind: what messages call one of them.
            base: the class that they share.
            name_of: the name of a variant in documents.
            own: the variants.

        Raises:
            TypeError: one of them lacks a member.
        """
        self.kind, self.base = kind, base
        self.origins: dict[str, str] = {}
        self._name_of = name_of
        self._known: dict[str, V] = {}
        for variant in own:
            self.add(variant)
        Variants.all_kinds.append(self)

    def accepts(self, variant: object) -> bool:
        """Whether something is a variant of this kind."""
        if isinstance(variant, type):
            return issubclass(variant, self.base)
        return isinstance(variant, self.base)

    def add(self, variant: V, origin: str = "") -> None:
        """Add a variant.

        Args:
            variant: the class or record.
            origin: the package it comes from; empty for Mooring's own.

        Raises:
            TypeError: it lacks a member that its kind needs.
            ModelError: another variant has its name.
        """
        if isinstance(variant, type):
            refuse_incomplete(variant, self.kind)
        name = self._name_of(variant)
        if self._known.get(name, variant) is not variant:
            raise ModelError(f"there is already a {self.kind} {name!r}")
        self._known[name] = variant
        if origin:
            self.origins[name] = origin

    def remove(self, name: str) -> None:
        """Forget a variant of another package.

        Raises:
            ModelError: it is one of Mooring's own, or unknown.
        """
        if name not in self.origins:
            raise ModelError(f"no {self.kind} {name!r} was registered")
        del self._known[name], self.origins[name]

    # One of a kind: compared and hashed by identity.
    __eq__ = object.__eq__
    __hash__ = object.__hash__

    def __getitem__(self, name: str) -> V:
        if name not in self._known:
            load_extensions()
        return self._known[name]

    def __contains__(self, name: object) -> bool:
        if name not in self._known:
            load_extensions()
        return name in self._known

    def __iter__(self) -> Iterator[str]:
        load_extensions()
        return iter(tuple(self._known))

    def __len__(self) -> int:
        load_extensions()
        return len(self._known)


def kind_of(variant: Any) -> str:
    """The kind of a class of items: the one value of its field `kind`."""
    (kind,) = get_args(variant.model_fields["kind"].annotation) or ("",)
    return str(kind)


class VariantName:
    """Marks a field that names a variant: the name is checked when the field is set."""

    def __init__(self, variants: Variants[Any]) -> None:
        """Of a kind."""
        self.variants = variants

    def __get_pydantic_core_schema__(
        self, source: Any, handler: GetCoreSchemaHandler
    ) -> CoreSchema:
        return core_schema.with_info_plain_validator_function(
            self._known, serialization=core_schema.to_string_ser_schema()
        )

    def __get_pydantic_json_schema__(
        self, schema: CoreSchema, handler: GetJsonSchemaHandler
    ) -> dict[str, Any]:
        return {"type": "string", "enum": list(self.variants)}

    def _known(self, name: Any, info: Any) -> str:
        if isinstance(name, str) and name in self.variants:
            return name
        *most, last = self.variants
        choices = f"{', '.join(most)} or {last}"
        raise ValueError(f"{info.field_name} must be {choices}; got {told(name)}")


def refuse_incomplete(variant: type, kind: str) -> None:
    """Refuse a variant without a member that its base declares.

    Members are abstract methods and class attributes that a base annotates with `ClassVar` and
    gives no value.

    Raises:
        TypeError: with the names of what is missing.
    """
    declared = {
        name
        for owner in variant.__mro__
        for name, hint in _class_hints(owner).items()
        if get_origin(hint) is ClassVar or hint is ClassVar
    }
    missing = sorted(
        {name for name in declared if not name.startswith("_") and not hasattr(variant, name)}
        | set(getattr(variant, "__abstractmethods__", ()))
    )
    if missing:
        raise TypeError(f"{kind} {variant.__name__} lacks {', '.join(missing)}")


def _class_hints(owner: type) -> Mapping[str, Any]:
    own = inspect.get_annotations(owner)
    if not any("ClassVar" in str(hint) for hint in own.values()):
        return {}
    hints = get_type_hints(owner, include_extras=True)
    return {name: hints[name] for name in own if "ClassVar" in str(own[name])}


def register(variant: Any, origin: str = "") -> Any:
    """Add a variant of a kind: a sensor, a force law, a shape, a joint type.

    Documents, checks, simulation, recordings, the page, the bridge and the reports know it from
    then on. It can be used as a decorator.

    Args:
        variant: a subclass of `mooring.model.sensors.Sensor`, `mooring.model.forces.Force` or
            `mooring.model.shapes.NumericShape`, or a `mooring.model.joint_types.JointType`.
        origin: what messages call the place it comes from; the variant's module if empty.

    Returns:
        The variant.

    Raises:
        ModelError: it is of no kind that takes variants, or its name is taken.
        TypeError: it lacks a member.

    Example:
        >>> from mooring.model.joint_types import JOINT_TYPES, JointType
        >>> valve = JointType("valve", core="revolute", ends=True, urdf="revolute", color=2)
        >>> register(valve, "harbour-parts") is valve, "valve" in JOINT_TYPES
        (True, True)
        >>> JOINT_TYPES.remove("valve")
    """
    # Whoever has a variant has imported the package of its kind, where its variants are listed.
    for variants in Variants.all_kinds:
        if variants.accepts(variant):
            module = getattr(variant, "__module__", "") or type(variant).__module__
            variants.add(variant, origin or module)
            return variant
    kinds = ", ".join(one.kind for one in Variants.all_kinds)
    raise ModelError(f"{variant!r} is no variant of a kind; kinds with variants: {kinds}")


_loaded: list[str] = []
_state = {"loaded": False}


def load_extensions() -> list[str]:
    """Load the variants that installed packages name, once.

    Returns:
        What was loaded, a line each: the entry point, its package and version.

    Raises:
        ModelError: an entry point cannot be loaded, or names no variant.
    """
    if _state["loaded"]:
        return _loaded
    _state["loaded"] = True
    problems = []
    for point in metadata.entry_points(group=GROUP):
        package = "?" if point.dist is None else f"{point.dist.name} {point.dist.version}"
        try:
            register(point.load(), package)
        except Exception as error:
            problems.append(f"the extension {point.name!r} of {package} cannot be used: {error}")
            continue
        _loaded.append(f"{point.name} from {package}")
    if problems:
        raise ModelError("\n".join(problems))
    return _loaded
