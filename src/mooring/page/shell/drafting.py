"""The draft: what is proposed with its reasons, and what one does with what one points at."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from nicegui import ui

from mooring.errors import MooringError
from mooring.formats.document import DocumentEditor
from mooring.formats.document.drafting import remembered, reshaping
from mooring.formats.document.drafting.pointing import Feature, Pointed, pointed_at
from mooring.formats.document.drafting.remembered import JointPrint
from mooring.page.shell.changing import show_change
from mooring.page.shell.hints import hint

if TYPE_CHECKING:
    from mooring.model.joint import Joint
    from mooring.page.shell.shell import Shell

_TYPES = ("revolute", "continuous", "prismatic", "fixed")
_ROLES = ("plain", "tool", "mount", "sensor")
_SURE = {"high": "", "fair": "warning", "low": "error"}


class Drafting:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.pointed: Pointed | None = None
        self.merging: str | None = None
        self.place = ui.element("div")

    def refresh(self) -> None:
        """After a new model, or something else is pointed at."""
        self.place.clear()
        with self.place:
            edits = self.window.desk.edits
            if edits is None or not edits.is_document:
                ui.label("Only a document can be reshaped; this is none.")
                return
            self._pointed()
            self._proposals()

    def point(self, link: str | None, point: list[float] | None) -> None:
        """Take what somebody points at: a point of a link, in its coordinates."""
        robot = self.window.desk.robot
        self.pointed = None
        if link in robot.links and link is not None:
            if point is not None:
                self.pointed = pointed_at(robot, link, np.array(point, dtype=float))
            if self.merging is not None and self.merging != link:
                into, self.merging = self.merging, None
                self._ask_merge(into, link)
        self.refresh()

    # What is pointed at.

    def _pointed(self) -> None:
        link = self.window.selection["link"]
        ui.label("Pointed at").classes("m-heading")
        if self.merging is not None:
            ui.label(f"Now point at the link that {self.merging} is to take in.")
            self._button("Leave it", "take nothing in", self._leave)
            return
        if link is None:
            ui.label("Point at something in the view.")
            return
        found = self.pointed
        with ui.element("div").classes("m-finding"):
            ui.label(link).style("font-weight: 600")
            if found is not None and found.link == link:
                beside = "" if found.edge is None else f"; beside it an {found.edge.words}"
                words = f"part {found.part}, {found.surface.words}{beside}"
                ui.label(words).classes("remedy")
            with ui.row().style("gap: 4px; margin-top: 4px"):
                self._button(
                    "Take in ...", "one link of this and the next you point at", self._merge
                )
                if found is None or found.link != link:
                    return
                self._button("Link of its own", f"split {found.part} off", self._split)
                for feature in found.named:
                    text = "Frame on the edge" if feature is found.edge else "Frame here"
                    self._button(text, f"a frame on the {feature.words}",
                                 partial(self._frame, found, feature))  # fmt: skip
                self._button("Cut at its neck", "where the part is narrowest near here",
                             partial(self._cut, found, self._neck(found)))  # fmt: skip
                at = found.surface.at
                if at is not None and "face" in at:
                    self._button("Cut along", "along the plane of this face",
                                 partial(self._cut, found, {"plane": dict(at)}))  # fmt: skip

    @staticmethod
    def _neck(found: Pointed) -> dict[str, object]:
        return {"neck": [f"{round(1000 * value, 2) + 0.0:g} mm" for value in found.point]}

    def _button(self, text: str, why: str, act: Callable[[], object]) -> None:
        button = ui.button(text).props("flat dense no-caps size=sm")
        # Not also a click on what it stands in.
        hint(button, why).on("click.stop", lambda: act())

    def _merge(self) -> None:
        self.merging = self.window.selection["link"]
        self.refresh()

    def _leave(self) -> None:
        self.merging = None
        self.refresh()

    def _ask_merge(self, into: str, gone: str) -> None:
        self._ask(f"{into} takes in {gone}", lambda editor: reshaping.merge(editor, into, gone))

    def _split(self) -> None:
        found, robot = self.pointed, self.window.desk.robot
        if found is not None:
            self._ask(
                f"{found.part} as a link of its own",
                lambda editor: reshaping.split_off(editor, robot, found.link, [found.part]),
            )

    def _cut(self, found: Pointed, cut: dict[str, object]) -> None:
        self._ask(f"{found.part} cut", lambda editor: reshaping.cut_part(editor, found.part, cut))

    def _frame(self, found: Pointed, feature: Feature) -> None:
        at = feature.at
        if at is None:
            return
        with self.window.page, ui.dialog() as dialog, ui.card():
            ui.label(f"A frame on the {feature.words} of {found.part}").classes("m-title")
            name = ui.input("name", value=f"{found.link}_frame").props("dense autofocus")
            role = ui.select(list(_ROLES), value="plain", label="role").props("dense")

            def go_on() -> None:
                dialog.close()
                said = (str(name.value).strip(), found.link, at, str(role.value))
                self._ask(f"frame {said[0]}", lambda editor: reshaping.add_frame(editor, *said))

            with ui.row():
                ui.button("Go on", on_click=go_on).props("no-caps")
                ui.button("Cancel", on_click=dialog.close).props("flat no-caps")
        dialog.open()

    # What was proposed.

    def _proposals(self) -> None:
        document = self.window.desk.source.file
        try:
            kept = remembered.recall(document)
        except MooringError as error:
            ui.label(str(error)).classes("remedy")
            return
        joints = self.window.desk.robot.joints
        drafted = {} if kept is None else {one.name: one for one in kept.joints}
        known = [(drafted[name], joint) for name, joint in joints.items() if name in drafted]
        ui.label("Proposed joints").classes("m-heading")
        if not known:
            ui.label("None of its joints was drafted from CAD.")
            return
        left = sum(not one.accepted for one, _ in known)
        ui.label(f"{left} of {len(known)} to be looked at").classes("remedy")
        for one, joint in sorted(known, key=lambda pair: pair[0].accepted):
            self._one(one, joint)

    def _one(self, one: JointPrint, joint: Joint) -> None:
        kind = "accepted" if one.accepted else _SURE.get(one.confidence, "")
        row = ui.element("div").classes(f"m-finding {kind}")
        row.on("click", lambda: self.window.choose(joint.child, joint.name))
        with row:
            ui.label(f"{joint.name}: {joint.parent} to {joint.child}").style("font-weight: 600")
            sure = "accepted" if one.accepted else f"{one.confidence} confidence"
            ui.label(f"{sure}: {one.reason}")
            if one.alternatives and not one.accepted:
                ui.label(f"or {'; or '.join(one.alternatives)}").classes("remedy")
            with ui.element("div").classes("m-deeds"):
                words = "Look again" if one.accepted else "Accept"
                self._button(words, "keep that it was looked at",
                             partial(self._accept, joint.name, not one.accepted))  # fmt: skip
                if joint.has_axis:
                    self._button("Turn round", "let it count the other way",
                                 partial(self._turn, joint.name))  # fmt: skip
                self._button("Refuse", f"{joint.parent} and {joint.child} are one link",
                             partial(self._ask_merge, joint.parent, joint.child))  # fmt: skip
                choice = ui.select(list(_TYPES), value=joint.type).classes("m-kind")
                choice.props("dense borderless options-dense")
                choice.on_value_change(lambda event: self._type(joint.name, str(event.value)))

    async def _accept(self, name: str, accepted: bool) -> None:
        try:
            document = self.window.desk.source.file
            await asyncio.to_thread(remembered.accept, document, name, accepted)
        except MooringError as error:
            self.window.notify(str(error))
        for window in self.window.host.each():
            window.refresh_draft()

    def _turn(self, name: str) -> None:
        robot = self.window.desk.robot
        turn = partial(reshaping.turn_round, robot=robot, joint=name)
        self._ask(f"{name} turned round", turn, name)

    def _type(self, name: str, kind: str) -> None:
        if kind == "fixed":
            self._ask(f"{name} held", lambda editor: reshaping.weld(editor, name))
        else:
            self._ask(f"{name} {kind}", lambda e: reshaping.set_type(e, name, kind), name)

    def _ask(self, what: str, change: Callable[[DocumentEditor], object], joint: str = "") -> None:
        show = partial(show_change, self.window, what, change, joint=joint)
        with self.window.page:
            ui.timer(0, show, once=True)
