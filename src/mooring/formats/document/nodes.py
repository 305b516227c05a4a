"""Values as nodes of a document that is being edited, with how they are to be written."""

from __future__ import annotations

from typing import Any

from mooring.errors import InputError
from mooring.formats.document.writing import flow_text


def parser() -> Any:
    """What reads a document and writes it again with its comments and quotes."""
    from ruamel.yaml import YAML

    yaml = YAML(typ="rt", pure=True)
    yaml.preserve_quotes = True
    yaml.width = 4096
    return yaml


def new_mapping() -> Any:
    """An empty section."""
    return _node({}, one_line=False)


def flow(value: Any) -> Any:
    """A list or mapping as a node that is written in one line."""
    return _node(value, one_line=True)


def node_for(value: Any, before: Any) -> Any:
    """A plain value as a node that is written as the one in its place was; else lists in one line.

    Args:
        value: plain, or a node already, which stays as it is.
        before: what stood there; None for nothing.
    """
    styled = getattr(before, "fa", None)
    return _node(value, one_line=styled is not None and bool(styled.flow_style()))


def _node(value: Any, *, one_line: bool) -> Any:
    from ruamel.yaml.comments import CommentedMap, CommentedSeq

    node: Any
    if type(value) is dict:
        node = CommentedMap({k: _node(inner, one_line=one_line) for k, inner in value.items()})
    elif type(value) is list:
        one_line = one_line or not any(isinstance(inner, dict) for inner in value)
        node = CommentedSeq([_node(inner, one_line=one_line) for inner in value])
    else:
        return value
    if one_line:
        node.fa.set_flow_style()
    return node


def in_line(value: dict[str, Any]) -> str:
    """A mapping as one line, without its brackets.

    Example:
        >>> in_line({"bore": ["column", "turntable"], "radius": "20 mm"})
        'bore: [column, turntable], radius: 20 mm'
    """
    return flow_text(value)[1:-1]


def from_line(said: str) -> dict[str, Any]:
    """A mapping that is written in one line, with its brackets or without.

    Raises:
        InputError: it is none.
    """
    from ruamel.yaml import YAML
    from ruamel.yaml.error import YAMLError

    try:
        value = YAML(typ="safe").load(said if said.startswith("{") else "{" + said + "}")
    except YAMLError:
        value = None
    if not isinstance(value, dict) or not value or any(v is None for v in value.values()):
        raise InputError(f"{said!r} is no place; one is written as bore: [arm, pin], for example")
    return value
