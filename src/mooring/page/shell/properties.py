"""What is known of what is chosen, and what of it can be changed in the document."""

from __future__ import annotations

import html
from typing import TYPE_CHECKING, Any

from nicegui import ui

from mooring.errors import MooringError
from mooring.page.desk.typed import as_typed, read_typed, unit_in
from mooring.page.facts.properties import Row, joint_rows, link_rows
from mooring.page.shell.changing import show_change
from mooring.page.shell.hints import hint
from mooring.page.shell.placing import Placing
from mooring.units import DIMENSIONS, show, to_si

if TYPE_CHECKING:
    from mooring.page.desk.editing import Edits, KeyPath
    from mooring.page.shell.shell import Shell


class Properties:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.place = ui.element("div")
        self.half: dict[tuple[str, ...], str] = {}
        self.placing = Placing(window)

    def refresh(self) -> None:
        """After something else is chosen, or a new model."""
        window, robot = self.window, self.window.desk.robot
        link, joint = window.selection["link"], window.selection["joint"]
        self.place.clear()
        with self.place, self.placing.anew():
            if link not in robot.links and joint not in robot.joints:
                ui.label("Choose a link in the view, or a link or joint in the tree.")
                self._overview()
            if joint in robot.joints and joint is not None:
                self._table(f"joint {joint}", joint_rows(robot, joint))
            if link in robot.links and link is not None:
                self._table(f"link {link}", link_rows(robot, link))

    def _overview(self) -> None:
        desk = self.window.desk
        tree = desk.tree
        rows = [
            Row("links", str(len(tree.links))),
            Row("moving joints", str(len(tree.freedoms))),
            Row("mass", f"{desk.robot.mass():.4g} kg"),
        ]
        self._table(desk.robot.name, rows)
        values = None if desk.edits is None else desk.edits.written(("values",))
        if isinstance(values, dict) and values:
            self._table("values", [Row(n, str(v), ("values", n)) for n, v in values.items()])

    def _table(self, title: str, rows: list[Row]) -> None:
        ui.label(title).classes("m-heading")
        with ui.element("table").classes("m-table"):
            for row in rows:
                with ui.element("tr"):
                    with ui.element("td"):
                        ui.label(row.name)
                    with ui.element("td"):
                        self._value(row)

    def _value(self, row: Row) -> None:
        if row.path[-1:] == ("at",):
            self.placing.show(row.path)
            return
        home = self.window.desk.documents.home_of(self.window.desk.robot, row.path)
        if home is None:
            ui.label(row.value)
            return
        edits, path = home
        placed = path[-1] in ("xyz", "rpy")
        written = edits.written_place(path) if placed else edits.written(path)
        if placed and self._is_found(edits, path):
            # It is looked up in the CAD, and a number would say it a second time.
            ui.label(row.value)
            return
        # A number that stands in the document without its unit is shown with it.
        bare = isinstance(written, int | float) and bool(row.dimension)
        shown = row.value if bare else as_typed(written)
        # What is half typed stays when the table is made anew.
        half = self.half.get(row.path)
        field = ui.input(
            value=shown if half is None else half,
            placeholder=row.value,
            on_change=lambda e: self._typing(row.path, e.value, shown),
        )
        field.props(f'dense borderless input-class=m-edit aria-label="{html.escape(row.name)}"')
        hint(field, self._about(edits, path, written))

        async def change() -> None:
            said = (field.value or "").strip()
            if said == shown:
                return
            # An axis may be a word: x, -y.
            several = placed or (path[-1] == "axis" and "," in said)
            unit = unit_in(shown) or unit_in(row.value) or self._unit(row.dimension)
            try:
                value = read_typed(said, unit, several)
                note = _both(value, row.dimension)
            except MooringError as error:
                self.window.notify(str(error))
                return
            self.half.pop(row.path, None)
            what = f"{row.path[-1]} of {row.path[1]}"
            changes: dict[KeyPath, Any] = (
                edits.place_changes(path, value) if placed else {path: value}
            )
            joint = path[1] if path[0] == "joints" else ""
            await show_change(self.window, what, changes, edits, note, joint)

        field.on("keydown.enter", change)

    @staticmethod
    def _is_found(edits: Edits, path: tuple[str, ...]) -> bool:
        """Whether a place is looked up in the CAD; others are written in numbers."""
        place = edits.written((*path[:2], "at"))
        return isinstance(place, dict) and not {"xyz", "rpy"} & set(place)

    def _typing(self, path: tuple[str, ...], said: str | None, shown: str) -> None:
        if said is None or said == shown:
            self.half.pop(path, None)
        else:
            self.half[path] = said

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


def _both(value: Any, dimension: str) -> str:
    """A quantity as it is typed and in SI, where these are two things."""
    if not isinstance(value, str) or value.startswith("=") or dimension not in DIMENSIONS:
        return ""
    size = to_si(value, dimension)
    shown, plain = show(size, dimension, 6), f"{size:.6g} {DIMENSIONS[dimension].si}"
    return "" if value in (shown, plain) and shown == plain else f"{shown}, which is {plain}"
