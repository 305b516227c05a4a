"""What is run: the motion, the plots of what is chosen, and what went wrong."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from nicegui import ui

from mooring.drawing.palette import SERIES
from mooring.errors import MooringError
from mooring.page.desk.replay import Replay
from mooring.page.shell.hints import hint
from mooring.page.shell.outside import Outside
from mooring.page.shell.signals import Signals
from mooring.simulation import RunFinding

if TYPE_CHECKING:
    from mooring.page.desk.runs import KeptRun
    from mooring.page.shell.shell import Shell

HOLD = "hold the posture that is shown"
SCENE = "the motion of the scene"
_POINTS = 600
_MOST_LINES = len(SERIES)


class Running:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.motion = HOLD
        self.chosen: list[str] = []
        self.other = ""
        self.place = ui.element("div")
        self.chart: ui.echart | None = None
        self._drawn: tuple[int, int] = (0, 0)

    def refresh(self) -> None:
        """After a new model."""
        desk = self.window.desk
        motions = [*([SCENE] if desk.scene.motion is not None else []), *desk.robot.motions, HOLD]
        self.motion = motions[0]
        self.place.clear()
        with self.place:
            ui.label("The motors").classes("m-heading")
            ui.select(
                motions, value=self.motion,
                on_change=lambda e: setattr(self, "motion", e.value),
            ).props("dense options-dense").classes("full-width")  # fmt: skip
            ui.label("While it runs, sliders tell motors where to go; Move pulls at links.").style(
                "color: var(--dim)"
            )
            ui.label("Plots").classes("m-heading")
            self.lines = ui.select(
                desk.instruments.quantities(), multiple=True, value=[], on_change=self._choose
            )
            self.lines.props("dense options-dense use-chips").classes("full-width")
            self.chart = None
            self.chart_place = ui.element("div")
            self.signals = Signals(self.window)
            self.outside = Outside(self.window)
            ui.label("Runs").classes("m-heading")
            self.runs = ui.element("div")
            ui.label("What went wrong").classes("m-heading")
            self.found = ui.element("div")
        self.refresh_runs()
        if desk.recording is not None:
            self.say(desk.recording.findings)

    def refresh_runs(self) -> None:
        """The runs that are kept: to look at, go on from, compare, save, and let go of."""
        desk = self.window.desk
        shown = desk.runs.of(desk.recording)
        self.runs.clear()
        with self.runs:
            if not desk.runs.kept:
                ui.label("none yet; each is kept here until it is let go").classes("m-quiet")
            for run in desk.runs.kept:
                with ui.row().classes("items-center no-wrap gap-1 full-width m-run"):
                    label = ui.label(f"{run.name}, {run.seconds:.2f} s").classes("col")
                    label.style("font-weight: 600" if run is shown else "")
                    motion = run.motion or "the motion of the scene"
                    what = "a posture held" if run.hold else motion
                    saved = "not saved" if run.saved is None else f"saved as {run.saved}"
                    hint(label, f"{what}; {saved}")
                    for text, call, words in (
                        ("Look", partial(self.window.look_at, run), "look through it"),
                        ("Save", partial(self._save, run), "write it into a folder"),
                        ("Let go", partial(self._let_go, run), "forget it"),
                    ):
                        hint(ui.button(text, on_click=call), words).props("flat dense no-caps")
            if shown is not None and desk.replay is not None:
                words = "a simulation from the instant that is shown"
                go_on = ui.button("Go on from here", on_click=partial(self._go_on, shown))
                hint(go_on, words).props("outline dense no-caps")
                others = [run.name for run in desk.runs.kept if run is not shown]
                self.other = self.other if self.other in others else ""
                if others:
                    ui.select(["", *others], label="beside it in plots", value=self.other,
                              on_change=self._beside).props("dense options-dense")  # fmt: skip

    async def _go_on(self, run: KeptRun) -> None:
        replay = self.window.desk.replay
        if replay is not None:
            await self.window.go_on_from(run, replay.time)

    async def _beside(self, event: Any) -> None:
        desk = self.window.desk
        if event.value:
            run = desk.runs.called(event.value)
            await self.window.host.waiting("reading the run", run.recorded)
        self.other = event.value or ""
        self._show_chart()

    def _let_go(self, run: KeptRun) -> None:
        self.window.desk.runs.let_go(run.name)

    def _save(self, run: KeptRun) -> None:
        window = self.window
        file = window.desk.source.file
        usual = file.parent / f"{file.stem}-{run.name.replace(' ', '-')}"
        with window.page, ui.dialog() as dialog, ui.card().style("width: 560px"):
            ui.label(f"Save {run.name} in this folder").classes("m-title")
            folder = ui.input(value=str(usual)).props("dense autofocus").classes("full-width")

            async def save() -> None:
                dialog.close()
                try:
                    await window.host.waiting("saving", run.save, Path(folder.value.strip()))
                except MooringError as error:
                    window.notify(str(error))
                else:
                    window.notify(f"saved: mooring open {folder.value.strip()}", "positive")
                    self.refresh_runs()

            folder.on("keydown.enter", save)
            with ui.row():
                ui.button("Save", on_click=save).props("no-caps")
                ui.button("Cancel", on_click=dialog.close).props("flat no-caps")
        dialog.open()

    def begin(self) -> None:
        """A run begins anew."""
        self._drawn = (0, 0)
        self.found.clear()

    def _choose(self, event: Any) -> None:
        self.chosen = list(event.value)[:_MOST_LINES]
        self._show_chart()

    def _show_chart(self) -> None:
        self._drawn = (0, 0)
        self.chart_place.clear()
        self.chart = None
        if self.chosen:
            with self.chart_place:
                self.chart = ui.echart(self._options()).style("height: 230px; width: 100%")
        self.refresh_live()

    def _options(self) -> dict[str, Any]:
        dark = self.window.settings["theme"] == "dark"
        ink = "#c9d3d9" if dark else "#1f2a33"
        return {
            "animation": False,
            "color": list(SERIES),
            "textStyle": {"color": ink},
            "grid": {"left": 50, "right": 10, "top": 20 + 16 * len(self.chosen), "bottom": 28},
            "legend": {"orient": "vertical", "left": 0, "top": 0, "itemHeight": 8,
                       "textStyle": {"fontSize": 11, "color": ink}},
            "xAxis": {"type": "value", "scale": True, "axisLabel": {"color": ink},
                      "name": "s", "nameGap": 4},
            "yAxis": {"type": "value", "scale": True, "axisLabel": {"color": ink}},
            "series": [
                {"type": "line", "name": name, "showSymbol": False, "data": [],
                 "lineStyle": {"width": 1.6}}
                for name in self.chosen
            ] + [
                {"type": "line", "name": f"{name}, {self.other}", "showSymbol": False,
                 "lineStyle": {"width": 1.2, "type": "dashed"}, "color": SERIES[number],
                 "data": self._of_other(name)}
                for number, name in enumerate(self.chosen) if self.other
            ],
        }  # fmt: skip

    def _of_other(self, quantity: str) -> list[list[float]]:
        """The same quantity in the run that is compared."""
        recording = self.window.desk.runs.called(self.other).recorded()
        return Replay(recording).trace(quantity, _POINTS) if len(recording.table) else []

    def refresh_live(self) -> None:
        """Several times a second."""
        desk = self.window.desk
        self.signals.refresh_live()
        self.outside.refresh_live()
        state = (desk.model_number, desk.instruments.trace_number)
        if self.chart is None or state == self._drawn:
            return
        self._drawn = state
        for series, name in zip(self.chart.options["series"], self.chosen, strict=False):
            series["data"] = desk.instruments.trace(name, _POINTS)
            if desk.replay is not None:
                line = {"color": "#7a6a53", "type": "solid"}
                series["markLine"] = {
                    "symbol": "none", "silent": True, "label": {"show": False}, "lineStyle": line,
                    "data": [{"xAxis": desk.replay.time}],
                }  # fmt: skip
        self.chart.update()

    def say(self, findings: Sequence[RunFinding]) -> None:
        """What went wrong, the likely cause first."""
        self.lines.set_options(self.window.desk.instruments.quantities())
        self.found.clear()
        with self.found:
            if not findings:
                ui.label("nothing was found")
            for number, finding in enumerate(findings):
                with ui.element("div").classes("m-finding warning"):
                    word = "likely cause: " if number == 0 and len(findings) > 1 else ""
                    ui.label(f"{word}{finding.message}").style("font-weight: 600")
                    ui.label(finding.remedy).classes("remedy")
