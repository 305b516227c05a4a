"""Findings about what a file says, made of what its reader told."""

from __future__ import annotations

from collections.abc import Iterator

from mooring.checks.fix import Edit
from mooring.checks.rule import Found, rule
from mooring.checks.subject import Subject
from mooring.model.note import Note

READING = (
    "value-unreadable", "element-missing", "name-twice", "size-not-positive", "mass-negative",
    "mesh-missing", "not-understood", "element-twice", "material-undefined", "angle-unlikely",
    "value-assumed", "axis-not-unit", "axis-assumed", "not-standard",
)  # fmt: skip
"""Codes of what a reader told."""


def _told(subject: Subject, code: str) -> Iterator[Found]:
    return (
        Found(note.item, note.text, note.remedy, fix=_fix(note), place=note.place)
        for note in subject.robot.notes
        if note.code == code
    )


def _fix(note: Note) -> tuple[Edit, ...]:
    """What is sure to mend it."""
    if note.respell:
        return (Edit("respell", note.respell[:3], note.respell[3:]),)
    return () if note.wanted is None else (Edit("set", *note.wanted),)


@rule("value-unreadable", "error")
def value_unreadable(subject: Subject) -> Iterator[Found]:
    """What stands in the file can be read as what it should be."""
    return _told(subject, "value-unreadable")


@rule("element-missing", "error")
def element_missing(subject: Subject) -> Iterator[Found]:
    """What every item of its kind must say is said."""
    return _told(subject, "element-missing")


@rule("name-twice", "error")
def name_twice(subject: Subject) -> Iterator[Found]:
    """No two links, and no two joints, have one name."""
    return _told(subject, "name-twice")


@rule("size-not-positive", "error")
def size_not_positive(subject: Subject) -> Iterator[Found]:
    """Sizes and scales are greater than zero."""
    return _told(subject, "size-not-positive")


@rule("mass-negative", "error")
def mass_negative(subject: Subject) -> Iterator[Found]:
    """No mass is less than zero."""
    return _told(subject, "mass-negative")


@rule("mesh-missing", "error")
def mesh_missing(subject: Subject) -> Iterator[Found]:
    """Every mesh that is named is there, and can be read."""
    return _told(subject, "mesh-missing")


@rule("not-understood", "warning")
def not_understood(subject: Subject) -> Iterator[Found]:
    """No element and no attribute looks like a misspelling."""
    return _told(subject, "not-understood")


@rule("element-twice", "warning")
def element_twice(subject: Subject) -> Iterator[Found]:
    """Nothing is said twice of which one is meant."""
    return _told(subject, "element-twice")


@rule("material-undefined", "warning")
def material_undefined(subject: Subject) -> Iterator[Found]:
    """Colors that are named are defined."""
    return _told(subject, "material-undefined")


@rule("angle-unlikely", "warning")
def angle_unlikely(subject: Subject) -> Iterator[Found]:
    """Angles of orientations are no more than a turn, or degrees must be meant."""
    return _told(subject, "angle-unlikely")


@rule("value-assumed", "warning")
def value_assumed(subject: Subject) -> Iterator[Found]:
    """Nothing that the format requires has to be assumed."""
    return _told(subject, "value-assumed")


@rule("axis-not-unit", "warning")
def axis_not_unit(subject: Subject) -> Iterator[Found]:
    """The axes of joints are unit vectors."""
    return _told(subject, "axis-not-unit")


@rule("axis-assumed", "note")
def axis_assumed(subject: Subject) -> Iterator[Found]:
    """Joints that move say about or along which axis."""
    return _told(subject, "axis-assumed")


@rule("not-standard", "note")
def not_standard(subject: Subject) -> Iterator[Found]:
    """Other programs can read the file, too."""
    return _told(subject, "not-standard")
