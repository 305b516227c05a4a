"""What is known of what is chosen, and what of it can be changed in the document."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from nicegui import ui

from mooring.page.facts.properties import Row, joint_rows, link_rows
from mooring.page.shell.changing import show_change
from mooring.page.shell.hints import hint

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell


class Properties:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.place = ui.element("div")

    def refresh(self) -> None:
        """After something else is chosen, or a new model."""
        window, robot = self.window, self.window.desk.robot
        link, joint = window.selection["link"], window.selection["joint"]
        self.place.clear()
        with self.place:
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
        edits = self.window.desk.edits
        if edits is None or not row.path or edits.written(row.path[:2]) is None:
            ui.label(row.value)
            return
        written = edits.written(row.path)
        if row.path[-1] in ("xyz", "rpy"):
            place = edits.written(row.path[:3])
            if isinstance(place, dict) and not {"xyz", "rpy"} & set(place):
                # It is looked up in the CAD, and a number would say it a second time.
                found = "; ".join(f"{key} of {as_text(said)}" for key, said in place.items())
                ui.label(f"{row.value}, by the {found}")
                return
        shown = as_text(written)
        field = ui.input(value=shown, placeholder=row.value).props(
            "dense borderless input-class=m-edit"
        )
        hint(field, "change it in the document: Enter shows the change")

        async def change() -> None:
            said = (field.value or "").strip()
            if said != shown:
                what = f"{row.path[-1]} of {row.path[1]}"
                await show_change(self.window, what, {row.path: from_text(said)})

        field.on("keydown.enter", change)


def as_text(value: Any) -> str:
    """What a document holds, as one types it."""
    if value is None:
        return ""
    if isinstance(value, list):
        return ", ".join(str(item) for item in value)
    return str(value)


def from_text(said: str) -> Any:
    """What one types as what a document holds: a number, a text with a unit, a list of these."""
    if not said:
        return None
    if "," in said:
        return [from_text(item.strip()) for item in said.strip("[] ").split(",")]
    try:
        return float(said) if "." in said or "e" in said.lower() else int(said)
    except ValueError:
        return said
