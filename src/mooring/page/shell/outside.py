"""Controllers outside: who is connected to the simulation, and who has the say."""

from __future__ import annotations

from typing import TYPE_CHECKING

from nicegui import ui

from mooring.errors import MooringError

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell

_COLUMNS = [
    {"name": "name", "label": "program", "field": "name", "align": "left"},
    {"name": "heard", "label": "heard", "field": "heard"},
    {"name": "age", "label": "age", "field": "age"},
    {"name": "sent", "label": "sent", "field": "sent"},
]


_EVENTS = 4


class Outside:
    """Built once a model."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        ui.label("Controllers outside").classes("m-heading")
        self.button = ui.button("Let them connect", on_click=self._change)
        self.button.props("outline dense no-caps")
        self.url = ui.label().style("font-family: monospace; user-select: all")
        self.table = ui.table(columns=_COLUMNS, rows=[], row_key="number")
        self.table.props("dense flat hide-bottom wrap-cells").classes("full-width")
        self.table.set_visibility(False)
        self.events = ui.label().style("white-space: pre-line; color: var(--dim)")
        self._listens: bool | None = None

    def refresh_live(self) -> None:
        """Several times a second."""
        listening = self.window.desk.listening
        if (listening is not None) != self._listens:
            self._listens = listening is not None
            self.button.text = "Stop listening" if listening else "Let them connect"
            self.url.text = listening.url if listening else ""
            self.table.set_visibility(listening is not None)
            self.events.set_visibility(listening is not None)
        if listening is None:
            return
        rows = [
            {
                "number": number,
                "name": f"{program.name}{' (has the say)' if program.controls else ''}",
                "heard": f"{program.rate:.0f}/s",
                "age": f"{program.age:.1f}\N{NO-BREAK SPACE}s",
                "sent": f"{program.sent:,}"
                + (f" ({program.left_out:,} left out)" if program.left_out else ""),
            }
            for number, program in enumerate(listening.connected())
        ]
        self.events.text = "\n".join(listening.happened(_EVENTS))
        if rows != self.table.rows:
            self.table.rows = rows
            self.table.update()

    async def _change(self) -> None:
        desk = self.window.desk
        try:
            if desk.listening is not None:
                desk.stop_listening()
            elif desk.player is not None or await self.window.new_run():
                desk.listen()
        except MooringError as error:
            self.window.notify(str(error))
        self.refresh_live()
