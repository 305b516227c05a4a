"""What other programs have written into a description: kept as it is, and written back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Annotated, Any, cast

from lxml import etree
from pydantic import BeforeValidator, WithJsonSchema

from mooring.errors import told

_SAFE: dict[str, Any] = {"resolve_entities": False, "no_network": True, "load_dtd": False}


def element_of(text: str) -> etree._Element:
    """The element that a text holds.

    Raises:
        ValueError: it holds none.
    """
    try:
        return etree.fromstring(text.encode(), etree.XMLParser(**_SAFE))
    except etree.XMLSyntaxError as error:
        if cast("Any", error).code == etree.ErrorTypes.NS_ERR_UNDEFINED_NAMESPACE:
            # A prefix that is declared nowhere, as others leave it.
            return etree.fromstring(text.encode(), etree.XMLParser(recover=True, **_SAFE))
        raise ValueError(f"{text[:60]!r} is no element of XML: {error.msg}") from None


def _elements(value: Any) -> Any:
    texts = (value,) if isinstance(value, str) or not isinstance(value, Iterable) else tuple(value)
    for text in texts:
        if not isinstance(text, str):
            raise ValueError(f"an element of another program is written as text, got {told(text)}")
        element_of(text)
    return texts


VendorParts = Annotated[
    tuple[str, ...],
    BeforeValidator(_elements),
    WithJsonSchema({"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}),
]
"""Elements of XML, each as text; attributes of the thing itself are those of `<kept/>`."""

ATTRIBUTES = "kept"
"""The element whose attributes stand for those that the thing itself had besides its own."""


def renamed(parts: tuple[str, ...], names: Mapping[str, str]) -> tuple[str, ...]:
    """The same where whatever is exactly an item's old name is its new one."""
    found = []
    for text in parts:
        top, changed = element_of(text), False
        for element in top.iter():
            for key, value in element.attrib.items():
                if str(value) in names:
                    element.set(key, names[str(value)])
                    changed = True
            own = (element.text or "").strip()
            if own in names:
                element.text, changed = (element.text or "").replace(own, names[own]), True
        found.append(etree.tostring(top, encoding="unicode") if changed else text)
    return tuple(found)
