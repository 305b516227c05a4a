"""A change of the document: shown as it would be written, made when it is said so."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Any

from nicegui import ui

from mooring.errors import MooringError
from mooring.formats.document import DocumentEditor

if TYPE_CHECKING:
    from mooring.page.desk.editing import KeyPath
    from mooring.page.shell.shell import Shell


async def show_change(
    window: Shell,
    what: str,
    changes: Mapping[KeyPath, Any] | Callable[[DocumentEditor], object],
) -> None:
    """Ask whether to write some values, or what a change makes of it, into the document."""
    try:
        edits = window.desk.edits_or_refuse()
        if isinstance(changes, Mapping):
            proposal = await asyncio.to_thread(edits.propose, what, changes)
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
        with ui.element("div").classes("m-diff full-width"):
            for line in proposal.diff.splitlines():
                kind = {"-": "gone", "+": "new"}.get(line[:1], "")
                ui.label(line).classes(kind)

        async def write() -> None:
            dialog.close()
            try:
                await window.host.change(proposal)
            except MooringError as error:
                window.notify(str(error))

        def leave() -> None:
            dialog.close()
            window.refresh_properties()

        with ui.row():
            ui.button("Write", on_click=write).props("no-caps")
            ui.button("Cancel", on_click=leave).props("flat no-caps")
    dialog.open()
