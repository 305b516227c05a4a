"""Where a frame or link is, live, and where it is to go: six numbers that can be typed over."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING, Any

import numpy as np
from nicegui import ui
from nicegui.events import ValueChangeEventArguments

from mooring.errors import MooringError, did_you_mean
from mooring.geometry import rpy_from_rotation
from mooring.page.desk.jogging import pose_of
from mooring.page.desk.typed import typed_quantity
from mooring.page.shell.hints import hint

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell

_AXES = ("x", "y", "z", "roll", "pitch", "yaw")
_SIZES = {"mm": 1e-3, "m": 1.0, "deg": np.pi / 180, "rad": 1.0}
_DIGITS = {"mm": 1, "m": 4, "deg": 2, "rad": 4}


class Whereabouts:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.name = ""
        self.turn = False
        self.typed: set[str] = set()
        self._shown: dict[str, str] = {}
        self._built: tuple[Any, ...] = ()
        self.fields: dict[str, ui.input] = {}
        self.place = ui.element("div")

    def refresh(self) -> None:
        """After a new model, or other units."""
        names = self._names()
        if self.name not in names:
            tools = [n for n, f in self.window.desk.robot.frames.items() if f.role == "tool"]
            self.name = (tools or names)[0]
        built = (self.name, *names, *self.window.settings["units"].values())
        if built == self._built:
            self.refresh_live()
            return
        self._built = built
        self.typed.clear()
        self.place.clear()
        with self.place:
            ui.label("Where it is").classes("m-heading")
            self.chosen = ui.select(names, value=self.name, with_input=True, on_change=self._choose)
            self.chosen.props('dense options-dense aria-label="frame or link"')
            # What is chosen is no text to search by, so all names are there to choose from.
            self.chosen.props(remove="fill-input hide-selected")
            self.chosen.classes("full-width")
            # The same press comes from the element and from what it is made of.
            once = "(event) => { if (!event.met) emit(event.target.value); event.met = true; }"
            find = self._find
            self.chosen.on("keyup.enter", lambda e: find(str(e.args or "")), js_handler=once)
            with ui.element("div").classes("m-six"):
                for axis in _AXES:
                    self._field(axis)
            with ui.row().classes("items-center no-wrap gap-2"):
                go = ui.button("Go there", on_click=self._go).props("outline dense no-caps")
                hint(go, "bring it to the numbers that were typed, by its joints")
                ui.checkbox(
                    "turned so, too", value=self.turn,
                    on_change=lambda e: setattr(self, "turn", bool(e.value)),
                ).props("dense")  # fmt: skip
        self.refresh_live()

    def _names(self) -> list[str]:
        tree = self.window.desk.tree
        return [*tree.frames, *tree.links]

    def _field(self, axis: str) -> None:
        unit = self._unit(axis)
        field = ui.input(
            label=f"{axis} [{unit}]", on_change=lambda e, a=axis: self._typing(a, e.value)
        )
        field.props(f'dense aria-label="{axis} in {unit}"')
        field.on("keydown.enter", self._go)
        field.on("keydown.escape", partial(self._leave, axis))
        self.fields[axis] = field

    def _unit(self, axis: str) -> str:
        units = self.window.settings["units"]
        return str(units["translation" if axis in "xyz" else "rotation"])

    def look_at(self, link: str | None) -> None:
        """Follow what is chosen, as long as no frame was asked for by name."""
        if link is not None and self.name in self.window.desk.tree.links:
            self.chosen.value = link

    def _find(self, text: str) -> None:
        """What was typed is the name that it is, or else begins, or else is in."""
        sought = text.strip().lower()
        names = [name for name in self._names() if sought in name.lower()]
        if sought and names:
            self.chosen.value = min(
                names, key=lambda n: (n.lower() != sought, not n.lower().startswith(sought))
            )
        elif sought:
            guess = did_you_mean(sought, self._names())
            self.window.notify(f"no frame or link is called {sought!r}{guess}")
        self.chosen.run_method("hidePopup")
        self.chosen.run_method("updateInputValue", "", True)

    def _choose(self, event: ValueChangeEventArguments[Any]) -> None:
        self.name = str(event.value)
        self.typed.clear()
        self.refresh_live()

    def _said(self) -> dict[str, str]:
        """The six numbers as they are now."""
        pose = pose_of(self.window.desk.tree, self.window.standing.q, self.name)
        values = [*pose[:3, 3], *rpy_from_rotation(pose[:3, :3])]
        said = {}
        for axis, value in zip(_AXES, values, strict=True):
            unit = self._unit(axis)
            said[axis] = f"{round(float(value) / _SIZES[unit], _DIGITS[unit]) + 0.0:g}"
        return said

    def refresh_live(self) -> None:
        """Several times a second; what is being typed stays."""
        if self.window.tab != "Properties" or self.name not in self._names():
            return
        self._shown = self._said()
        for axis, text in self._shown.items():
            field = self.fields[axis]
            # What is typed is not where it is.
            field.classes(**{"add" if axis in self.typed else "remove": "m-typed"})
            if axis not in self.typed and field.value != text:
                field.value = text

    def _typing(self, axis: str, text: str | None) -> None:
        if text is not None and text != self._shown.get(axis):
            self.typed.add(axis)
        else:
            self.typed.discard(axis)

    def _leave(self, axis: str) -> None:
        self.typed.discard(axis)
        self.refresh_live()

    async def _go(self) -> None:
        window = self.window
        try:
            numbers = {axis: self._read(axis) for axis in _AXES}
            target = {"xyz": [numbers[a] for a in "xyz"]}
            if self.turn or self.typed & {"roll", "pitch", "yaw"}:
                target["rpy"] = [numbers[a] for a in _AXES[3:]]
            standing = window.standing
            moved = await window.host.waiting("reaching", standing.reach, self.name, target)
            what = f"{self.name} to a place"
            if standing is window.own:
                standing.go(moved.q, what)
            else:
                window.desk.stand_at(moved.q, what, "a place to reach")
            window.show_far()
        except MooringError as error:
            window.notify(str(error))
            return
        self.typed.clear()
        self.refresh_live()
        if moved.refused:
            window.notify(f"{self.name}: {moved.refused}")

    def _read(self, axis: str) -> float:
        if axis not in self.typed:
            pose = pose_of(self.window.desk.tree, self.window.standing.q, self.name)
            now = [*pose[:3, 3], *rpy_from_rotation(pose[:3, :3])]
            return float(now[_AXES.index(axis)])
        said, dimension = self.fields[axis].value or "", "length" if axis in "xyz" else "angle"
        values = self.window.desk.documents.values
        return typed_quantity(said, self._unit(axis), dimension, values)
