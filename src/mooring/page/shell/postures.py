"""Postures above the tree: to go to one, and to keep the one that is shown."""

from __future__ import annotations

from typing import TYPE_CHECKING

from nicegui import ui

from mooring.errors import MooringError
from mooring.page.shell.changing import show_change
from mooring.page.shell.hints import hint

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell


class Postures:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.place = ui.element("div").classes("m-postures")

    def refresh(self) -> None:
        """After a new model."""
        window = self.window
        self.place.clear()
        with self.place:
            zero = ui.button("neutral", on_click=lambda: self.take(None))
            hint(zero, "every joint at zero (N)").props("outline dense no-caps")
            for name in window.desk.robot.postures:
                if name != "neutral":
                    ui.button(name, on_click=lambda n=name: self.take(n)).props(
                        "outline dense no-caps"
                    )
            if window.desk.edits is not None and window.desk.edits.is_document:
                keep = ui.button("keep ...", on_click=self._keep).props("flat dense no-caps")
                hint(keep, "write the posture that is shown into the document")
            if window.own is None:
                alone = ui.button("on its own", on_click=self._leave).props("flat dense no-caps")
                hint(alone, "let this window hold a posture of its own")
            else:
                mine = ui.button("follow mine", on_click=self._lead).props("flat dense no-caps")
                hint(mine, "let all windows show this posture")
                theirs = ui.button("follow theirs", on_click=self._join).props("flat dense no-caps")
                hint(theirs, "show again what all windows show")
            units = "deg, mm" if window.settings["units"]["rotation"] == "deg" else "rad, m"
            self.units = ui.button(units, on_click=self._units).props("flat dense no-caps")
            hint(self.units, "units of the fields")

    def take(self, name: str | None) -> None:
        """Go to a posture; None is neutral."""
        window, desk = self.window, self.window.desk
        try:
            if window.own is not None:
                window.own.go(window.own.posture(name), f"posture {name or 'neutral'}")
            else:
                desk.take_posture(name)
                window.host.tell("swing", None)
        except MooringError as error:
            window.notify(str(error))
        window.show_far()

    def _leave(self) -> None:
        self.window.stand_alone(True)
        self.refresh()

    def _join(self) -> None:
        self.window.stand_alone(False)
        self.refresh()

    def _lead(self) -> None:
        own = self.window.own
        if own is not None:
            self.window.desk.stand_at(own.q, "posture of a window", "the posture of a window")
        self._join()

    def _units(self) -> None:
        usual = self.window.settings["units"]["rotation"] == "deg"
        units = {"rotation": "rad", "translation": "m"} if usual else {
            "rotation": "deg", "translation": "mm"}  # fmt: skip
        self.window.keep("units", units)
        self.window.tell("units", units)
        self.window.refresh_units()
        self.refresh()

    def _keep(self) -> None:
        with ui.dialog() as dialog, ui.card():
            ui.label("Keep this posture as").classes("m-title")
            name = ui.input("name").props("dense autofocus")
            if any(axis.endswith(".qw") for axis in self.window.desk.tree.coordinates):
                ui.label("Where joints are is kept; where things float is not.").classes("m-quiet")

            async def go_on() -> None:
                dialog.close()
                said = (name.value or "").strip()
                if said:
                    entry = self.window.standing.entry()
                    await show_change(self.window, f"posture {said}", {("postures", said): entry})

            name.on("keydown.enter", go_on)
            with ui.row():
                ui.button("Show the change", on_click=go_on).props("no-caps")
                ui.button("Cancel", on_click=dialog.close).props("flat no-caps")
        dialog.open()
