"""A change of the document: shown as it would be written, made when it is said so."""

from __future__ import annotations

import asyncio
import base64
import html
from collections.abc import Callable, Mapping
from functools import partial
from typing import TYPE_CHECKING, Any

from nicegui import ui

from mooring.drawing.exercise.preview import Preview, preview
from mooring.errors import MooringError
from mooring.formats.document import DocumentEditor

if TYPE_CHECKING:
    from mooring.page.desk.editing import Edits, KeyPath, ProposedEdit
    from mooring.page.shell.shell import Shell


async def show_change(
    window: Shell,
    what: str,
    changes: Mapping[KeyPath, Any] | Callable[[DocumentEditor], object],
    edits: Edits | None = None,
    note: str = "",
    joint: str = "",
) -> None:
    """Ask whether to write some values, or what a change makes of it, into a document.

    Values that would be wrong by the checks are refused.

    Args:
        window: where it is asked.
        what: is changed, in words.
        changes: values by their paths, or what changes it.
        edits: of the document; of the one that is shown if not given.
        note: what else is to be said of it.
        joint: that would move in another way, by its name in that document; empty for none.
    """
    try:
        edits = edits or window.desk.edits_or_refuse()
        if isinstance(changes, Mapping):
            proposal = await asyncio.to_thread(edits.propose, what, changes)
            if proposal.before != proposal.after:
                desk = window.desk
                await window.host.waiting(
                    "checking the change",
                    desk.documents.refuse_wrong, edits, proposal, desk.report,
                )  # fmt: skip
        else:
            proposal = await asyncio.to_thread(edits.propose_by, what, changes)
    except MooringError as error:
        window.notify(str(error))
        window.refresh_properties()
        return
    if proposal.before == proposal.after:
        return
    with window.page, ui.dialog() as dialog, ui.card().style("max-width: 760px; width: 640px"):
        ui.label(f"{what}: write this into {edits.file.name}?").classes("m-title")
        if note:
            ui.label(note)
        copies = window.desk.documents.copies_of(window.desk.robot, edits)
        if copies > 1:
            ui.label(f"{edits.file.name} is included {copies} times: all of these change")
        with ui.element("div").classes("m-diff full-width"):
            for line in proposal.diff.splitlines():
                kind = {"-": "gone", "+": "new"}.get(line[:1], "")
                ui.label(line).classes(kind)
        if joint:
            with ui.element("div").classes("m-preview") as place:
                ui.label("drawing how it would move ...").classes("remedy")
            ui.timer(0, partial(_show_moving, place, edits, proposal, joint), once=True)

        async def write() -> None:
            dialog.close()
            try:
                await window.host.change(proposal, edits)
            except MooringError as error:
                window.notify(str(error))

        def leave() -> None:
            dialog.close()
            window.refresh_properties()

        with ui.row():
            ui.button("Write", on_click=write).props("no-caps")
            ui.button("Cancel", on_click=leave).props("flat no-caps")
    dialog.open()


async def _show_moving(place: ui.element, edits: Edits, proposal: ProposedEdit, joint: str) -> None:
    """Put the joint as it would move into the dialog."""

    def drawn() -> Preview:
        return preview(edits.robot_of(proposal.after), joint)

    film, words = "", ""
    try:
        moving = await asyncio.to_thread(drawn)
        film, words = base64.b64encode(moving.film).decode(), moving.words
    except MooringError as error:
        words = f"not shown moving: {error}"
    if place.is_deleted:
        return
    place.clear()
    with place:
        if film:
            ui.element("img").props(
                f'src="data:image/webp;base64,{film}" alt="{html.escape(words)}"'
            )
        ui.label(words).classes("remedy")
