"""Where a joint or a frame is: by what of the CAD it is found, typed anew, or pointed at."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

import numpy as np
from nicegui import ui

from mooring.formats.document.drafting.pointing import Feature, Pointed, pointed_at
from mooring.formats.document.nodes import flow, in_line
from mooring.page.desk.placing import place_by
from mooring.page.shell.changing import show_change

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

    def keep_waiting(self, shown: Sequence[ItemPath]) -> None:
        """A place that is not among those that are shown waits no longer."""
        if self.waits not in shown:
            self.waits = None

    def said(self, path: ItemPath, home: tuple[Edits, ItemPath] | None) -> dict[str, str]:
        """What the row of a place tells besides its name.

        Args:
            path: of the place, by the names that the robot has for its items.
            home: what changes it, and the path there.
        """
        if home is None:
            return {"value": "what cannot be changed here"}
        if not home[0].is_document:
            return {"value": "numbers"}
        if self.waits == path:
            words = "Point at a bore, a face or an edge in the view."
            return {"value": words, "deed": "Leave it", "why": "let it be where it is"}
        written = home[0].written(home[1])
        said = {"value": "numbers"}
        if isinstance(written, dict):
            hint = "change it in the document: Enter shows the change"
            said = {"value": "", "shown": in_line(written), "hint": hint}
        # What is pointed at is named in the CAD of the document that is shown, and means nothing,
        # or something else, in one that it includes; a scene has none.
        known = home[0] is self.window.desk.edits and home[1][0] == path[0]
        if known and self.window.desk.robot.assemblies:
            said |= {"deed": "Point ...", "why": "place it by what you point at"}
        return said

    async def type(self, path: ItemPath, place: dict[str, Any]) -> None:
        """Show what the document would be with a place that was typed."""
        await self._propose(path, lambda _, home: {home: flow(place)})

    def begin_or_leave(self, path: ItemPath) -> None:
        """Wait for what is pointed at, or no longer."""
        self.waits = None if self.waits == path else path
        self.window.refresh_properties()

    def point(self, link: str | None, point: list[float] | None) -> bool:
        """Take what somebody points at: a point of a link, in its coordinates; None leaves it.

        Returns:
            Whether a place waited for it.
        """
        if self.waits is None:
            return False
        if link is None or point is None:
            self.begin_or_leave(self.waits)
            return True
        robot = self.window.desk.robot
        found = pointed_at(robot, link, np.array(point, dtype=float))
        if found is None or not found.named:
            what = (
                f"no name for {found.surface.words}"
                if found is not None
                else "CAD that belongs to a document that is included"
                if robot.links[link].parts
                else "no parts of a CAD file"
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
