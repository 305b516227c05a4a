"""Where a joint or a frame is: by what of the CAD it is found, typed anew, or pointed at."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from typing import TYPE_CHECKING, Any

import numpy as np
from nicegui import ui

from mooring.errors import MooringError
from mooring.formats.document.drafting.pointing import Feature, Pointed, pointed_at
from mooring.formats.document.nodes import flow, from_line, in_line
from mooring.page.desk.placing import place_by
from mooring.page.shell.changing import show_change
from mooring.page.shell.hints import hint

if TYPE_CHECKING:
    from mooring.page.desk.editing import Edits, KeyPath
    from mooring.page.shell.shell import Shell

ItemPath = tuple[str, ...]


class Placing:
    """Built once a window.

    Attributes:
        waits: the path of the place that what is pointed at next is to be; None if none waits.
    """

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.waits: ItemPath | None = None
        self._shown: set[ItemPath] = set()

    @contextmanager
    def anew(self) -> Iterator[None]:
        """While rows are built: a place that is not among them waits no longer."""
        self._shown.clear()
        yield
        if self.waits not in self._shown:
            self.waits = None

    def show(self, path: ItemPath) -> None:
        """Build the row of a place.

        Args:
            path: of the place, by the names that the robot has for its items.
        """
        self._shown.add(path)
        desk = self.window.desk
        home = desk.documents.home_of(desk.robot, path)
        written = None if home is None else home[0].written(home[1])
        if home is None or not home[0].is_document:
            ui.label("numbers")
            return
        if self.waits == path:
            ui.label("Point at a bore, a face or an edge in the view.").props("role=status")
            self._button("Leave it", "let it be where it is", self._leave)
            return
        if isinstance(written, dict):
            self._field(path, in_line(written))
        else:
            ui.label("numbers")
        if desk.robot.assemblies:
            self._button("Point ...", "place it by what you point at", partial(self._begin, path))

    def _field(self, path: ItemPath, shown: str) -> None:
        field = ui.input(value=shown)
        field.props('dense borderless input-class=m-edit aria-label="placed by"')
        hint(field, "change it in the document: Enter shows the change")

        async def change() -> None:
            said = (field.value or "").strip()
            if said == shown:
                return
            try:
                place = from_line(said)
            except MooringError as error:
                self.window.notify(str(error))
                return
            await self._propose(path, lambda _, home: {home: flow(place)})

        field.on("keydown.enter", change)

    def _button(self, text: str, why: str, act: Any) -> None:
        hint(ui.button(text, on_click=act).props("flat dense no-caps size=sm"), why)

    def _begin(self, path: ItemPath) -> None:
        self.waits = path
        self.window.refresh_properties()

    def _leave(self) -> None:
        self.waits = None
        self.window.refresh_properties()

    def point(self, link: str | None, point: list[float] | None) -> bool:
        """Take what somebody points at: a point of a link, in its coordinates.

        Returns:
            Whether a place waited for it.
        """
        if self.waits is None:
            return False
        if link is None or point is None:
            self._leave()
            return True
        robot = self.window.desk.robot
        found = pointed_at(robot, link, np.array(point, dtype=float))
        if found is None or not found.named:
            what = (
                "no parts of a CAD file" if found is None else f"no name for {found.surface.words}"
            )
            self.window.notify(f"{link} has {what} there; point at a bore, a face or an edge")
            return True
        path, self.waits = self.waits, None
        self.window.refresh_properties()
        if len(found.named) == 1:
            self._place(path, found, found.named[0])
        else:
            self._choose(path, found)
        return True

    def _choose(self, path: ItemPath, found: Pointed) -> None:
        with self.window.page, ui.dialog() as dialog, ui.card():
            ui.label(f"Which of {found.part} is meant for {path[1]}?").classes("m-title")

            def take(feature: Feature) -> None:
                dialog.close()
                self._place(path, found, feature)

            for feature in found.named:
                ui.button(feature.words, on_click=partial(take, feature)).props("no-caps flat")
            ui.button("Cancel", on_click=dialog.close).props("flat no-caps")
        dialog.open()

    def _place(self, path: ItemPath, found: Pointed, feature: Feature) -> None:
        desk = self.window.desk

        def changes(edits: Edits, home: ItemPath) -> dict[KeyPath, Any]:
            return place_by(desk.robot, path, edits, home, feature)

        words = f"by the {feature.words} of {found.part}"
        with self.window.page:
            ui.timer(0, partial(self._propose, path, changes, words), once=True)

    async def _propose(self, path: ItemPath, changes: Any, words: str = "") -> None:
        desk = self.window.desk
        home = desk.documents.home_of(desk.robot, path)
        if home is None:
            return
        edits, own = home
        joint = own[1] if own[0] == "joints" else ""
        what = f"place of {path[1]}"
        await show_change(self.window, what, changes(edits, own), edits, words, joint)
