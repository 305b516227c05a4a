"""Files with tables of dimensions: CSV with units in its heads, or YAML."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.error import YAMLError

from mooring.errors import InputError, ModelError, did_you_mean
from mooring.files import is_there, note_file
from mooring.model import Robot
from mooring.model.definition.problems import EntryError, define
from mooring.model.dimension_table import DimensionTable
from mooring.model.structure import roots

_COLUMNS = ("joint", "theta", "d", "a", "alpha")
_GREEK = {"θ": "theta", "α": "alpha"}


def read_table(file: Path, robot: Robot, said: Mapping[str, str | None]) -> DimensionTable:
    """A table of dimensions from a file, for a robot.

    Args:
        file: .csv with the columns theta, d, a, alpha and perhaps joint, each with its unit in
            brackets where it is not SI; or .yaml with the fields of `DimensionTable`.
        robot: whose root is the base if nothing else is said.
        said: base, end and convention, which go before what the file says.

    Raises:
        InputError: the file is missing, damaged, or no such table.
    """
    note_file(file)
    if not is_there(file):
        raise InputError(f"{file}: there is no such file")
    try:
        text = file.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        raise InputError(f"{file}: cannot be read ({error})") from None
    entry: dict[str, Any] = {"base": roots(robot)[0]}
    if file.suffix.lower() in (".yaml", ".yml"):
        entry |= _from_yaml(file, text)
    else:
        entry["rows"] = list(_from_csv(file, text))
    entry |= {key: value for key, value in said.items() if value is not None}
    try:
        return define(DimensionTable, "table", entry, name=file.stem)
    except (EntryError, ModelError) as error:
        raise InputError(f"{file}: {error}") from None


def _from_yaml(file: Path, text: str) -> dict[str, Any]:
    try:
        read = YAML(typ="safe", pure=True).load(text)
    except YAMLError as error:
        raise InputError(f"{file}: is no YAML ({str(error).splitlines()[0]})") from None
    if not isinstance(read, dict):
        raise InputError(f"{file}: a table is a mapping with rows: [{{theta: ..., d: ...}}, ...]")
    return read


def _from_csv(file: Path, text: str) -> Iterator[dict[str, Any]]:
    separator = ";" if text.partition("\n")[0].count(";") else ","
    rows = [row for row in csv.reader(io.StringIO(text), delimiter=separator) if any(row)]
    if len(rows) < 2:
        raise InputError(f"{file}: a table has a line of heads and a row a joint")
    heads = [_head(file, head) for head in rows[0]]
    names = [name for name, _ in heads]
    for name in names:
        if names.count(name) > 1:
            raise InputError(f"{file}: there are two columns {name}")
    for number, row in enumerate(rows[1:], start=2):
        if len(row) != len(heads):
            raise InputError(f"{file}:{number}: {len(row)} values under {len(heads)} heads")
        yield {
            name: f"{value.strip().replace(',', '.')} {unit}".strip() if unit else _plain(value)
            for (name, unit), value in zip(heads, row, strict=True)
            if value.strip()
        }


def _plain(value: str) -> float | str:
    """A number without a unit is SI."""
    try:
        return float(value.strip().replace(",", "."))
    except ValueError:
        return value.strip()


def _head(file: Path, text: str) -> tuple[str, str]:
    match = re.fullmatch(r"\s*([^\s(\[]+)\s*[(\[]?\s*([^)\]]*?)\s*[)\]]?\s*", text)
    name = "" if match is None else match[1].lower()
    name = _GREEK.get(name.rstrip("_i0123456789"), name.removesuffix("_i"))
    if match is None or name not in _COLUMNS:
        hint = did_you_mean(name, list(_COLUMNS))
        raise InputError(
            f"{file}: the column {text.strip()!r} is none of {', '.join(_COLUMNS)}{hint}"
        )
    return name, match[2].replace("°", "deg")
