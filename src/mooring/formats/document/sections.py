"""The sections of a document: what stands in each, and in which kind of document it may stand.

The reader, the JSON Schema and the editor go over these; what a robot's items are is said in
`mooring.model.registry`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from mooring.formats.document.entries import (
    AllowanceEntry,
    CadEntry,
    FootprintEntry,
    IncludeEntry,
    SceneRobotEntry,
)
from mooring.model.chain import Chain
from mooring.model.collision import Collision
from mooring.model.compound_joint import CompoundJoint
from mooring.model.definition.walking import fields_of
from mooring.model.giving_joint import GivingJoint
from mooring.model.joint_values import JointValues
from mooring.model.link import Link
from mooring.model.registry import KINDS
from mooring.model.robot.head import RobotHead
from mooring.model.scene import SceneSettings

DocumentKind = Literal["robot", "scene"]


class BodyEntry(Link):
    """Something in a scene that stands or lies about: a link, with `at`, where its frame is."""


@dataclass(frozen=True)
class DocumentSection:
    """One section.

    Attributes:
        key: what it is called.
        form: entries by a `"name"` of their own, by a `"pattern"` of others' names, a `"list"`, or
            `"whole"`: the section is the entry.
        types: of an entry, besides its variants.
        word: what messages call an entry, before its name.
        kinds: the documents that may have it.
        of: the kind of item that a pattern names.
        variants: the variants of the kind of item, where it has some.
    """

    key: str
    form: Literal["name", "pattern", "list", "whole"]
    types: tuple[Any, ...]
    word: str
    kinds: tuple[DocumentKind, ...] = ("robot", "scene")
    of: str = "link"
    variants: Mapping[str, type] = field(default_factory=dict)

    @property
    def entries(self) -> tuple[Any, ...]:
        """The types of an entry; one of them fits. Variants may be registered at any time."""
        return (*self.types, *self.variants.values())


_ALSO: Mapping[str, tuple[type, ...]] = {
    "joint": (CompoundJoint, GivingJoint),
    "frame": (FootprintEntry,),
}
"""Entries that stand for several items, or are placed by the geometry."""


def _sections() -> list[DocumentSection]:
    found = [
        DocumentSection("cad", "list", (CadEntry,), "cad"),
        DocumentSection("include", "list", (IncludeEntry,), "include", ("robot",)),
        DocumentSection("chains", "name", (Chain,), "chain"),
        DocumentSection("collision", "pattern", (Collision,), "collision of"),
        DocumentSection("limits", "pattern", (JointValues,), "limits of", of="joint"),
        DocumentSection("allowances", "list", (AllowanceEntry,), "allowance"),
        DocumentSection("robots", "name", (SceneRobotEntry,), "robot", ("scene",)),
        DocumentSection("obstacles", "name", (BodyEntry,), "obstacle", ("scene",)),
        DocumentSection("bodies", "name", (BodyEntry,), "body", ("scene",)),
    ]
    for kind in KINDS.values():
        if kind.name != "allowance":
            types = () if kind.variants is not None else (kind.type,)
            word = kind.name if kind.own_names else f"{kind.name} of"
            form: Any = "name"
            found.append(
                DocumentSection(
                    kind.section,
                    form,
                    (*types, *_ALSO.get(kind.name, ())),
                    word,
                    variants=kind.variants or {},
                )
            )
    for definition, kinds in ((RobotHead, ("robot",)), (SceneSettings, ("scene",))):
        for name in fields_of(definition):
            if name != "name":
                # A scene's findings are judged like a robot's, and its robots' parts are kept.
                where: Any = ("robot", "scene") if name in ("checks", "vendor") else kinds
                found.append(
                    DocumentSection(name, "whole", (Field(definition, name),), name, where)
                )
    return found


@dataclass(frozen=True)
class Field:
    """A field of a definition, as an entry.

    Attributes:
        definition: whose.
        name: which.
    """

    definition: Any
    name: str


SECTIONS: dict[str, DocumentSection] = {section.key: section for section in _sections()}
HEAD = ("mooring", "kind", "name", "values")
"""What stands in every document besides."""


def sections_of(kind: DocumentKind) -> list[DocumentSection]:
    """The sections that a kind of document may have."""
    return [section for section in SECTIONS.values() if kind in section.kinds]
