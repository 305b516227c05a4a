"""The elements and attributes of URDF; whatever else there is belongs to other programs."""

from __future__ import annotations

from collections.abc import Iterator
from difflib import get_close_matches
from typing import NamedTuple
from xml.sax.saxutils import quoteattr

from lxml import etree

from mooring.model.vendor import ATTRIBUTES, element_of


class Word(NamedTuple):
    """What an element may have.

    Attributes:
        attributes: their names.
        children: the names of elements in it.
    """

    attributes: tuple[str, ...] = ()
    children: tuple[str, ...] = ()


_ORIGIN = Word(("xyz", "rpy"))
_LOOKS = Word(("name",), ("color", "texture"))
WORDS: dict[tuple[str, ...], Word] = {
    (): Word(("name", "version"), ("material", "link", "joint", "transmission")),
    ("material",): _LOOKS,
    ("link",): Word(("name",), ("inertial", "visual", "collision")),
    ("link", "inertial"): Word((), ("origin", "mass", "inertia")),
    ("link", "inertial", "mass"): Word(("value",)),
    ("link", "inertial", "inertia"): Word(("ixx", "ixy", "ixz", "iyy", "iyz", "izz")),
    ("link", "visual"): Word(("name",), ("origin", "geometry", "material")),
    ("link", "visual", "material"): _LOOKS,
    ("link", "collision"): Word(("name",), ("origin", "geometry")),
    ("joint",): Word(
        ("name", "type"),
        ("origin", "parent", "child", "axis", "calibration", "dynamics", "limit", "mimic",
         "safety_controller"),
    ),
    ("joint", "parent"): Word(("link",)),
    ("joint", "child"): Word(("link",)),
    ("joint", "axis"): Word(("xyz",)),
    ("joint", "calibration"): Word(("rising", "falling")),
    ("joint", "dynamics"): Word(("damping", "friction")),
    ("joint", "limit"): Word(("lower", "upper", "effort", "velocity", "acceleration")),
    ("joint", "mimic"): Word(("joint", "multiplier", "offset")),
    ("joint", "safety_controller"): Word(
        ("soft_lower_limit", "soft_upper_limit", "k_position", "k_velocity")
    ),
}  # fmt: skip
for _owner in (("link", "inertial"), ("link", "visual"), ("link", "collision"), ("joint",)):
    WORDS[(*_owner, "origin")] = _ORIGIN
for _shape in (("link", "visual"), ("link", "collision")):
    WORDS[(*_shape, "geometry")] = Word((), ("box", "cylinder", "sphere", "capsule", "mesh"))
    for _kind, _sizes in {
        "box": ("size",), "sphere": ("radius",), "cylinder": ("radius", "length"),
        "capsule": ("radius", "length"), "mesh": ("filename", "scale"),
    }.items():  # fmt: skip
        WORDS[(*_shape, "geometry", _kind)] = Word(_sizes)
for _look in (("material",), ("link", "visual", "material")):
    WORDS[(*_look, "color")] = Word(("rgba",))
    WORDS[(*_look, "texture")] = Word(("filename",))
TAGS = {path[-1] for path in WORDS if path}


class Stranger(NamedTuple):
    """An element or attribute that URDF has not.

    Attributes:
        element: it, or the one whose attribute it is.
        attribute: its name; empty for an element.
        meant: what it may be a misspelling of; empty where nothing is like it.
        known: what may stand there.
    """

    element: etree._Element
    attribute: str
    meant: str
    known: tuple[str, ...]


def strangers(element: etree._Element, path: tuple[str, ...]) -> Iterator[Stranger]:
    """What of an element, and what is in it, URDF has not; nothing inside that is looked at."""
    word = WORDS.get(path)
    if word is None:
        return
    for key in element.attrib:
        if key not in word.attributes:
            yield Stranger(element, str(key), _meant(str(key), word.attributes), word.attributes)
    for child in element:
        if not isinstance(child.tag, str):
            continue
        if child.tag in word.children:
            if child.tag != "transmission":
                yield from strangers(child, (*path, child.tag))
        else:
            yield Stranger(child, "", _meant(child.tag, word.children), word.children)


def _meant(word: str, known: tuple[str, ...]) -> str:
    same = [other for other in known if other.lower() == word.lower()]
    return (same or get_close_matches(word, known, n=1, cutoff=0.75) or [""])[0]


def vendor_parts(element: etree._Element, path: tuple[str, ...]) -> tuple[str, ...]:
    """What other programs have written into an element, and directly into what is in it."""
    word = WORDS[path]
    found = []
    own = _attributes(element, word.attributes, ATTRIBUTES)
    if own is not None:
        found.append(own)
    for child in element:
        if not isinstance(child.tag, str):
            continue
        if child.tag not in word.children:
            found.append(_alone(child))
        elif (*path, child.tag) in WORDS and child.tag not in _READ_BY_THEMSELVES:
            more = _attributes(child, WORDS[(*path, child.tag)].attributes, child.tag)
            if more is not None:
                found.append(more)
    return tuple(found)


_READ_BY_THEMSELVES = ("link", "joint", "material", "visual", "collision", "transmission")


def _attributes(element: etree._Element, known: tuple[str, ...], tag: str) -> str | None:
    kept = {str(k): str(v) for k, v in element.attrib.items() if k not in known}
    if not kept:
        return None
    # A prefix that is declared nowhere is part of a name, which no new element could have.
    odd = {name: kept.pop(name) for name in list(kept) if ":" in name and name[0] != "{"}
    text = etree.tostring(etree.Element(tag, kept), encoding="unicode")
    more = "".join(f" {name}={quoteattr(value)}" for name, value in odd.items())
    return f"{text.removesuffix('/>')}{more}/>"


def _alone(element: etree._Element) -> str:
    return etree.tostring(element, encoding="unicode", with_tail=False)


_COLON = "..colon.."
"""Behind a prefix that is declared nowhere, which no element can be given otherwise."""


def merge_vendor(element: etree._Element, parts: tuple[str, ...]) -> None:
    """Write back what `vendor_parts` found."""
    for text in parts:
        part = element_of(text)
        into = element if part.tag == ATTRIBUTES else element.find(part.tag)
        if part.tag not in (ATTRIBUTES, *TAGS) or into is None or len(part):
            element.append(part)
            continue
        for key, value in part.attrib.items():
            name = str(key)
            name = name if name[0] == "{" else name.replace(":", _COLON)
            if into.get(name) is None:
                into.set(name, value)


def as_text(root: etree._Element) -> str:
    """The text of elements into which parts of others have been merged."""
    text = etree.tostring(root, xml_declaration=True, encoding="utf-8").decode()
    return text.replace(_COLON, ":")
