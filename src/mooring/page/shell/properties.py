"""What is known of what is chosen, and what of it can be changed in the document."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mooring.formats.document.nodes import from_line
from mooring.page.desk.typed import as_typed, evaluated, read_typed, unit_in
from mooring.page.facts.properties import Row, joint_rows, link_rows
from mooring.page.shell.changing import show_change
from mooring.page.shell.part import ClientPart
from mooring.page.shell.placing import Placing
from mooring.units import DIMENSIONS, show, to_si

if TYPE_CHECKING:
    from mooring.page.desk.editing import Edits, KeyPath
    from mooring.page.shell.shell import Shell

_BETWEEN = "\n"
"""The keys of a path, in the browser; no name has it."""


class Properties:
    """Built once a window; its tables are built in the browser, of what it is told."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.placing = Placing(window)
        self._rows: dict[str, Row] = {}
        self._shown: dict[str, str] = {}
        ClientPart("facts")

    def refresh(self, settled: str = "") -> None:
        """After something else is chosen, or a new model.

        Args:
            settled: the path of a value that is half typed no more.
        """
        window, robot = self.window, self.window.desk.robot
        link, joint = window.selection["link"], window.selection["joint"]
        tables = []
        if joint in robot.joints and joint is not None:
            tables.append((f"joint {joint}", joint_rows(robot, joint)))
        if link in robot.links and link is not None:
            tables.append((f"link {link}", link_rows(robot, link)))
        hint = ""
        if not tables:
            hint = "Choose a link in the view, or a link or joint in the tree."
            tables = self._overview()
        self._rows = {
            _BETWEEN.join(row.path): row for _, rows in tables for row in rows if row.path
        }
        self._shown = {}
        self.placing.keep_waiting([row.path for row in self._rows.values()])
        said = [
            {"title": title, "rows": [self._said(row) for row in rows]} for title, rows in tables
        ]
        window.tell("facts", {"hint": hint, "tables": said, "settled": [settled]})

    def _overview(self) -> list[tuple[str, list[Row]]]:
        desk = self.window.desk
        joints = desk.robot.joints.values()
        rows = [
            Row("links", str(len(desk.robot.links))),
            Row("moving joints", str(sum(joint.moves for joint in joints))),
            Row("mass", f"{desk.robot.mass():.4g} kg"),
        ]
        tables = [(desk.robot.name, rows)]
        values = None if desk.edits is None else desk.edits.written(("values",))
        if isinstance(values, dict) and values:
            tables.append(("values", [Row(n, str(v), ("values", n)) for n, v in values.items()]))
        return tables

    def _said(self, row: Row) -> dict[str, Any]:
        """A row as the browser builds it; a value that is not to be changed has nothing shown."""
        path = _BETWEEN.join(row.path)
        said = {"name": row.name, "value": row.value, "path": path, "shown": None, "hint": "",
                "deed": "", "why": ""}  # fmt: skip
        home = self.window.desk.documents.home_of(self.window.desk.robot, row.path)
        if row.path[-1:] == ("at",):
            said |= self.placing.said(row.path, home)
        elif home is not None and not _is_found(*home):
            edits, own = home
            written = edits.written_place(own) if own[-1] in ("xyz", "rpy") else edits.written(own)
            # A number that stands in the document without its unit is shown with it.
            bare = isinstance(written, int | float) and bool(row.dimension)
            said["shown"] = row.value if bare else as_typed(written)
            said["hint"] = self._about(edits, own, written)
        if said["shown"] is not None:
            self._shown[path] = said["shown"]
        return said

    async def change(self, path: str, typed: str) -> None:
        """Show what a document would be with a value that was typed.

        Args:
            path: of the value, as the browser was told.
            typed: instead of what was shown.

        Raises:
            MooringError: it cannot be understood.
            KeyError: nothing that is shown has this path.
        """
        row, shown, typed = self._rows[path], self._shown[path], typed.strip()
        home = self.window.desk.documents.home_of(self.window.desk.robot, row.path)
        if typed == shown or home is None:
            return
        if row.path[-1] == "at":
            place = from_line(typed)
            self.refresh(settled=path)
            await self.placing.type(row.path, place)
            return
        edits, own = home
        placed = own[-1] in ("xyz", "rpy")
        # An axis may be a word: x, -y.
        several = placed or (own[-1] == "axis" and "," in typed)
        unit = unit_in(shown) or unit_in(row.value) or self._unit(row.dimension)
        value = read_typed(typed, unit, several)
        if not edits.is_document:
            value = evaluated(value, unit, {})
        note = _both(value, row.dimension)
        changes: dict[KeyPath, Any] = edits.place_changes(own, value) if placed else {own: value}
        joint = own[1] if own[0] == "joints" else ""
        self.refresh(settled=path)
        what = f"{row.path[-1]} of {row.path[1]}"
        await show_change(self.window, what, changes, edits, note, joint)

    def place(self, path: str) -> None:
        """Begin, or leave, to place something by pointing.

        Raises:
            KeyError: nothing that is shown has this path.
        """
        self.placing.begin_or_leave(self._rows[path].path)

    def _unit(self, dimension: str) -> str:
        """The unit in which the page shows what has no value yet."""
        units = self.window.settings["units"]
        own = {"angle": units["rotation"], "length": units["translation"]}
        usual = DIMENSIONS[dimension].si if dimension in DIMENSIONS else ""
        return str(own.get(dimension, usual))

    def _about(self, edits: Edits, path: tuple[str, ...], written: Any) -> str:
        words = ["change it in the document: Enter shows the change"]
        if edits is not self.window.desk.edits:
            words.append(f"it is written in {edits.file.name}")
        own = [path[1]] if path[0] == "values" else []
        for name in [*own, *edits.values_in(written)]:
            count = edits.uses_of(name)
            if count > 1:
                words.append(f"{name} is used {count} times")
        return "; ".join(words)


def _is_found(edits: Edits, path: tuple[str, ...]) -> bool:
    """Whether a number is of a place that is looked up in the CAD, and would say it twice."""
    place = edits.written((*path[:2], "at")) if path[-1] in ("xyz", "rpy") else None
    return isinstance(place, dict) and not {"xyz", "rpy"} & set(place)


def _both(value: Any, dimension: str) -> str:
    """A quantity as it is typed and in SI, where these are two things."""
    if not isinstance(value, str) or value.startswith("=") or dimension not in DIMENSIONS:
        return ""
    size = to_si(value, dimension)
    shown, plain = show(size, dimension, 6), f"{size:.6g} {DIMENSIONS[dimension].si}"
    return "" if value in (shown, plain) and shown == plain else f"{shown}, which is {plain}"
