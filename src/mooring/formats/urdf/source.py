"""From the bytes of a URDF file to its elements, however they were written."""

from __future__ import annotations

import codecs
import re
from pathlib import Path
from typing import Any, NamedTuple, NoReturn, cast

from lxml import etree

from mooring.errors import DocumentError, InputError, Place, Problem
from mooring.files import note_file, write_whole
from mooring.formats.urdf.vocabulary import TAGS

LARGEST_FILE = 64 * 2**20
_BEFORE = re.compile(rb"\A(?:\s|<!--.*?-->)+(?=<\?xml\s)", re.DOTALL)
_MACRO_WORDS = ("macro", "include", "property", "arg", "if", "unless", "insert_block", "call")
_ENCODING = re.compile(r"""<\?xml[^>]*encoding\s*=\s*["']([\w.-]+)""")
_EXPRESSION = re.compile(r"\$[{(]")
_OTHER_MESSAGES = {
    etree.ErrorTypes.NS_ERR_UNDEFINED_NAMESPACE: "a prefix of a name is declared nowhere",
    etree.ErrorTypes.ERR_INVALID_ENCODING: "its letters are not in the encoding it states",
}
"""What a file may have wrong and still be read."""


class Source(NamedTuple):
    """A URDF file.

    Attributes:
        root: its `<robot>`.
        odd: what is unusual about it, which other programs may refuse, with the line.
    """

    root: etree._Element
    odd: list[tuple[str, int]]


def read_source(file: Path, text: str | None = None) -> Source:
    """The elements of a URDF file.

    Args:
        file: which.
        text: what is taken to stand in it, instead of what does.

    Raises:
        InputError: the file is missing or too large.
        DocumentError: it is no XML, no robot, or a macro file that has not been expanded.
    """
    data = _bytes_of(file) if text is None else text.encode(encoding_of(text))
    odd: list[tuple[str, int]] = []
    early = _BEFORE.match(data)
    if early is not None:
        odd.append(("something stands before the XML declaration, which must come first", 1))
        end = data.index(b"?>", early.end()) + 2
        # Lines keep their numbers.
        lines = early.group().count(b"\n")
        data = data[early.end() : end] + b"\n" * lines + data[end:]
    root = _parsed(file, data, odd)
    _look_at_doctype(file, root, odd)
    _take_off_namespace(root, odd)
    if root.tag != "robot":
        if str(root.tag).lower() != "robot":
            message = f"a URDF file begins with <robot>, this one with <{root.tag}>"
            _refuse(file, message, _line(root))
        odd.append((f"the file begins with <{root.tag}>; it should be <robot>", _line(root)))
    _refuse_macros(file, root)
    return Source(root, odd)


def encoding_of(text: str) -> str:
    """The encoding that a text states; UTF-8 where it states none, or one that there is not."""
    match = _ENCODING.search(text[:200])
    try:
        return codecs.lookup(match[1]).name if match else "utf-8"
    except LookupError:
        return "utf-8"


def decoded(data: bytes) -> str:
    """The text of a file, with its line ends as they are."""
    encoding = encoding_of(data[:200].decode("latin-1"))
    try:
        return data.decode("utf-8-sig" if encoding == "utf-8" else encoding)
    except UnicodeDecodeError:
        return data.decode("latin-1")


def encoded(file: Path, text: str) -> None:
    """Write a text in the encoding that it states."""
    with write_whole(file) as stream:
        stream.write(text.encode(encoding_of(text)))


def _bytes_of(file: Path) -> bytes:
    note_file(file)
    if not file.is_file():
        what = "is a folder" if file.is_dir() else "there is no such file"
        raise InputError(f"{file}: {what}")
    if file.stat().st_size > LARGEST_FILE:
        raise InputError(f"{file}: larger than {LARGEST_FILE >> 20} MiB; no URDF file is")
    data = file.read_bytes()
    if not data.strip():
        raise InputError(f"{file}: the file is empty")
    return data


def _parsed(file: Path, data: bytes, odd: list[tuple[str, int]]) -> etree._Element:
    options: dict[str, Any] = {"resolve_entities": False, "no_network": True, "load_dtd": False}
    options["remove_comments"] = True
    for encoding in (None, "iso-8859-1"):
        try:
            return etree.fromstring(data, etree.XMLParser(encoding=encoding, **options))
        except etree.XMLSyntaxError as error:
            code = cast("Any", error).code
            words = _OTHER_MESSAGES.get(code)
            if words is None:
                _refuse(file, f"not readable as XML: {error.msg}", int(error.lineno or 0) or None)
            odd.append((words, int(error.lineno or 1)))
            if code != etree.ErrorTypes.ERR_INVALID_ENCODING:
                break
    return etree.fromstring(data, etree.XMLParser(recover=True, **options))


def _look_at_doctype(file: Path, root: etree._Element, odd: list[tuple[str, int]]) -> None:
    info = cast("Any", root.getroottree().docinfo)
    if not info.doctype:
        return
    dtd = info.internalDTD
    if dtd is not None and (list(dtd.iterentities()) or list(dtd.iterelements())):
        _refuse(file, "document types with definitions of their own are refused", 1)
    odd.append(("a document type is stated, and not looked at", 1))


def _take_off_namespace(root: etree._Element, odd: list[tuple[str, int]]) -> None:
    """The names of what stands in the root's own namespace, without it."""
    space = etree.QName(root).namespace
    if space is None:
        return
    odd.append((f"its elements are put into the namespace {space!r}; URDF has none", _line(root)))
    for element in root.iter():
        if isinstance(element.tag, str) and etree.QName(element).namespace == space:
            element.tag = etree.QName(element).localname


def _refuse_macros(file: Path, root: etree._Element) -> None:
    """Refuse what is written to be turned into a URDF file, and was not."""
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        # With a prefix that is declared nowhere, the prefix is part of the name.
        space, _, rest = element.tag.rpartition("}")
        prefix, _, word = rest.rpartition(":")
        found = None
        if (space or prefix) and word in _MACRO_WORDS:
            found = f"<{element.prefix or prefix}:{word}>"
        elif not (space or prefix) and word in TAGS:
            found = next(
                (repr(v) for v in map(str, element.attrib.values()) if _EXPRESSION.search(v)), None
            )
        if found is not None:
            _refuse(
                file,
                f"this is a macro file that has not been expanded: it has {found} here; let the "
                "macro processor it was written for make the URDF file, and give that",
                _line(element),
            )


def _line(element: etree._Element) -> int:
    return int(cast("Any", element).sourceline or 1)


def _refuse(file: Path, message: str, line: int | None) -> NoReturn:
    raise DocumentError([Problem(message, code="syntax", place=Place(file, line))])
