"""XML as text in which single attributes and elements are changed, and all else stays as it is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from xml.sax.saxutils import escape, unescape

_PIECE = re.compile(
    r"<!--.*?-->|<\?.*?\?>|<!\[CDATA\[.*?\]\]>|<!DOCTYPE[^>\[]*(?:\[.*?\])?[^>]*>"
    r"|<(?P<close>/)?(?P<tag>[^\s/>!?]+)(?P<attributes>(?:\s+[^\s=/>]+\s*=\s*(?:\"[^\"]*\"|'[^']*'))*)"
    r"\s*(?P<empty>/)?>",
    re.DOTALL,
)
_ATTRIBUTE = re.compile(r"(\s+)([^\s=/>]+)(\s*=\s*)(\"[^\"]*\"|'[^']*')")
_QUOTES = {"&quot;": '"', "&apos;": "'"}
Span = tuple[int, int]


@dataclass(eq=False)
class Node:
    """An element in the text.

    Attributes:
        tag: its name.
        opening: where its first tag is.
        closing: where its last tag is; the same, where it is empty.
        attributes: where each value is, without quotes.
        parent: what it is in.
        children: the elements in it.
    """

    tag: str
    opening: Span
    closing: Span
    attributes: dict[str, Span]
    parent: Node | None = None
    children: list[Node] = field(default_factory=list)

    @property
    def is_empty(self) -> bool:
        """Whether it is written as one tag."""
        return self.opening == self.closing

    def all(self) -> Iterator[Node]:
        """It, and everything in it."""
        yield self
        for child in self.children:
            yield from child.all()

    def find(self, tag: str) -> Node | None:
        """The first element in it with that name."""
        return next((child for child in self.children if child.tag == tag), None)


class Markup:
    """A text of XML that is being changed.

    Attributes:
        text: as it is now.
        root: its outermost element; made anew with every change.
    """

    def __init__(self, text: str) -> None:
        self.text = text
        self.root = self._parsed()

    def _parsed(self) -> Node:
        top = Node("", (0, 0), (0, 0), {})
        here = top
        for match in _PIECE.finditer(self.text):
            tag = match["tag"]
            if tag is None:
                continue
            if match["close"]:
                here.closing = match.span()
                here = here.parent or top
                continue
            attributes = {
                one[2]: (one.start(4) + 1, one.end(4) - 1)
                for one in _ATTRIBUTE.finditer(
                    self.text, match.start("attributes"), match.end("attributes")
                )
            }
            node = Node(tag, match.span(), match.span(), attributes, here)
            here.children.append(node)
            if not match["empty"]:
                here = node
        if not top.children:
            raise ValueError("there is no element")
        return top.children[0]

    def value(self, node: Node, attribute: str) -> str | None:
        """The value of an attribute; None where it has none."""
        span = node.attributes.get(attribute)
        return None if span is None else unescape(self.text[span[0] : span[1]], _QUOTES)

    def line(self, node: Node) -> int:
        """The line on which an element begins."""
        return self.text.count("\n", 0, node.opening[0]) + 1

    # Each of these makes all nodes anew.

    def set(self, node: Node, attribute: str, value: str) -> None:
        """Give an attribute a value; a new one comes last."""
        span = node.attributes.get(attribute)
        if span is not None:
            quote = self.text[span[0] - 1]
            self._splice(span, _escaped(value, quote))
            return
        end = node.opening[1] - 1
        if self.text[end - 1] == "/":
            end -= 1
        while self.text[end - 1].isspace():
            end -= 1
        self._splice((end, end), f' {attribute}="{_escaped(value, chr(34))}"')

    def unset(self, node: Node, attribute: str) -> None:
        """Take an attribute away, with the space before it."""
        for match in _ATTRIBUTE.finditer(self.text, *node.opening):
            if match[2] == attribute:
                self._splice(match.span(), "")
                return

    def respell(self, node: Node, old: str, new: str) -> None:
        """Call an attribute something else; with no attribute, the element itself."""
        if old:
            for match in _ATTRIBUTE.finditer(self.text, *node.opening):
                if match[2] == old:
                    self._splice(match.span(2), new)
                    return
        elif not node.is_empty:
            end = node.closing[0] + 2
            self._splice((end, end + len(node.tag)), new)
        if not old:
            begin = node.opening[0] + 1
            self._splice((begin, begin + len(node.tag)), new)

    def add(self, owner: Node, element: str, *, after: Node | None = None) -> None:
        """Put an element into another, on a line of its own, indented like its neighbours.

        Args:
            owner: what it is put into.
            element: as text.
            after: the element in it that it comes after; the last, if not given.
        """
        newline = "\r\n" if "\r\n" in self.text else "\n"
        previous = after or (owner.children[-1] if owner.children else None)
        if previous is not None:
            indent = self._indent(previous)
            end = previous.closing[1]
            self._splice(
                (end, end), f"{newline}{indent}{element}" if indent is not None else element
            )
            return
        outer = self._indent(owner)
        step = self._step()
        inner = "" if outer is None else f"{newline}{outer}{step}{element}{newline}{outer}"
        if owner.is_empty:
            begin, end = owner.opening
            tag = self.text[begin : end - 2].rstrip()
            self._splice((begin, end), f"{tag}>{inner or element}</{owner.tag}>")
        else:
            self._splice((owner.opening[1], owner.closing[0]), inner or element)

    def remove(self, node: Node) -> None:
        """Take an element away, with its line where it has one of its own."""
        begin, end = node.opening[0], node.closing[1]
        start = self.text.rfind("\n", 0, begin) + 1
        stop = self.text.find("\n", end)
        stop = len(self.text) if stop < 0 else stop + 1
        if not self.text[start:begin].strip() and not self.text[end:stop].strip():
            begin, end = start, stop
        self._splice((begin, end), "")

    def _splice(self, span: Span, text: str) -> None:
        self.text = self.text[: span[0]] + text + self.text[span[1] :]
        self.root = self._parsed()

    def _indent(self, node: Node) -> str | None:
        """What is before an element on its line; None where other things are."""
        start = self.text.rfind("\n", 0, node.opening[0]) + 1
        before = self.text[start : node.opening[0]]
        return None if before.strip() else before

    def _step(self) -> str:
        """How much deeper what is inside something stands."""
        for child in self.root.children:
            indent = self._indent(child)
            if indent:
                return indent
        return "  "


def _escaped(value: str, quote: str) -> str:
    return escape(value, {quote: "&quot;" if quote == '"' else "&apos;"})
