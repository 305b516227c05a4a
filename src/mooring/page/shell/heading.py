"""The bar at the top: what is looked at, what is found, from where, and with which tool."""

from __future__ import annotations

from typing import TYPE_CHECKING

from nicegui import ui

from mooring.drawing.camera import VIEWS
from mooring.errors import MooringError
from mooring.page.shell.hints import hint

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell

TOOLS = {"look": "turn the view, choose (L)", "move": "pull at links (M, or Shift)",
         "measure": "measure between two points (D)"}  # fmt: skip
KEYS = """\
1 to 7   corner, front, back, left, right, top, bottom
F        everything in view
L, M, D  look, move, measure
N        neutral posture
Space    play or pause
Ctrl Z   take the last move or change back; with Shift do it again
Esc      choose nothing
Arrows   on a slider: 1 deg or 1 mm; with Shift ten times as far
Shift and drag  pull at a link; with Ctrl it stays turned as it is
Double click    look there"""


class Heading:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        with ui.element("div").classes("m-head-bar"):
            self.title = ui.label().classes("m-title")
            self.file = ui.label().classes("m-file")
            hint(self.file, str(window.desk.source.file))
            self.busy = ui.label().style("color: var(--warm)")
            ui.space()
            self.counts = ui.row().classes("gap-1 items-center no-wrap")
            self.undo = ui.button("Undo", on_click=self.step_back).props("flat dense no-caps")
            self.redo = ui.button("Redo", on_click=self.step_on).props("flat dense no-caps")
            self.tools = ui.toggle(list(TOOLS), value="look", on_change=self._tool)
            self.tools.props("dense no-caps unelevated")
            hint(self.tools, "; ".join(TOOLS.values()))
            with ui.dropdown_button("View", auto_close=True).props("flat dense no-caps"):
                for number, name in enumerate(VIEWS, 1):
                    ui.item(f"{name}  ({number})", on_click=lambda n=name: self._view(n))
                ui.item("everything  (F)", on_click=lambda: self._view("fit"))
                ui.separator()
                ui.item("in perspective", on_click=lambda: self._view("deep"))
                ui.item("parallel", on_click=lambda: self._view("flat"))
            self.theme = ui.button("Dark", on_click=self._theme).props("flat dense no-caps")
            ui.button("Keys", on_click=self._keys).props("flat dense no-caps")

    def refresh(self) -> None:
        """After a new model, findings or changes."""
        desk = self.window.desk
        self.title.text = desk.robot.name
        self.file.text = desk.source.file.name
        self.counts.clear()
        with self.counts:
            if desk.problem:
                self._judgement("cannot be read", "negative")
            elif desk.report is None:
                ui.label("checking ...").style("color: var(--dim)")
            else:
                errors, warnings = desk.report.count("error"), desk.report.count("warning")
                color = "negative" if errors else "warning" if warnings else "positive"
                said = [
                    f"{count} {word}{'' if count == 1 else 's'}"
                    for count, word in ((errors, "error"), (warnings, "warning"))
                    if count
                ]
                self._judgement(", ".join(said) or "sound", color)
        self.refresh_steps()
        self.theme.text = "Light" if self.window.settings["theme"] == "dark" else "Dark"

    def refresh_steps(self) -> None:
        """What can be taken back, and done again."""
        shared = self.window.desk.history
        own = shared if self.window.own is None else self.window.own.history
        for steps, button, keys in (
            (own.past or shared.past, self.undo, "Ctrl Z"),
            (own.future or shared.future, self.redo, "Ctrl Shift Z"),
        ):
            button.set_enabled(bool(steps))
            hint(button, f"{steps[-1].what if steps else 'nothing'} ({keys})").update()

    def refresh_status(self) -> None:
        """What is being waited for."""
        busy = self.window.host.busy
        self.busy.text = f"{busy} ..." if busy else ""

    def _judgement(self, text: str, color: str) -> None:
        button = ui.button(text, on_click=lambda: self.window.show_tab("Findings"))
        button.props(f"flat dense no-caps color={color}")

    def take(self, tool: str) -> None:
        """Take another tool."""
        self.tools.value = tool

    def _tool(self) -> None:
        self.window.tell("tool", self.tools.value)

    def _view(self, name: str) -> None:
        self.window.tell("view", name)

    def _theme(self) -> None:
        dark = self.window.settings["theme"] == "dark"
        self.window.set_theme("light" if dark else "dark")
        self.theme.text = "Dark" if dark else "Light"

    async def step_back(self) -> None:
        """Take the last step back."""
        try:
            what = await self.window.step_back()
        except MooringError as error:
            self.window.notify(str(error))
        else:
            self.window.show_far()
            self.window.notify(f"taken back: {what}", "positive")

    async def step_on(self) -> None:
        """Do again what was taken back last."""
        try:
            what = await self.window.step_on()
        except MooringError as error:
            self.window.notify(str(error))
        else:
            self.window.show_far()
            self.window.notify(f"done again: {what}", "positive")

    def _keys(self) -> None:
        with ui.dialog() as dialog, ui.card():
            ui.label("Keys").classes("m-title")
            ui.label(KEYS).style("white-space: pre; font-family: monospace")
            ui.button("Close", on_click=dialog.close).props("flat no-caps")
        dialog.open()
