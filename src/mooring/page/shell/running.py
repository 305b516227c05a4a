"""What is run: the motion, the plots of what is chosen, and what went wrong."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from nicegui import ui

from mooring.drawing.palette import SERIES
from mooring.page.shell.outside import Outside
from mooring.page.shell.signals import Signals
from mooring.simulation import RunFinding

if TYPE_CHECKING:
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
                desk.quantities(), multiple=True, value=[], on_change=self._choose
            )
            self.lines.props("dense options-dense use-chips").classes("full-width")
            self.chart = None
            self.chart_place = ui.element("div")
            self.signals = Signals(self.window)
            self.outside = Outside(self.window)
            ui.label("What went wrong").classes("m-heading")
            self.found = ui.element("div")
        if desk.recording is not None:
            self.say(desk.recording.findings)

    def begin(self) -> None:
        """A run begins anew."""
        self._drawn = (0, 0)
        self.found.clear()

    def _choose(self, event: Any) -> None:
        self.chosen = list(event.value)[:_MOST_LINES]
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
            ],
        }  # fmt: skip

    def refresh_live(self) -> None:
        """Several times a second."""
        desk = self.window.desk
        self.signals.refresh_live()
        self.outside.refresh_live()
        state = (desk.model_number, desk.trace_number)
        if self.chart is None or state == self._drawn:
            return
        self._drawn = state
        for series, name in zip(self.chart.options["series"], self.chosen, strict=False):
            series["data"] = desk.trace(name, _POINTS)
            if desk.replay is not None:
                line = {"color": "#7a6a53", "type": "solid"}
                series["markLine"] = {
                    "symbol": "none", "silent": True, "label": {"show": False}, "lineStyle": line,
                    "data": [{"xAxis": desk.replay.time}],
                }  # fmt: skip
        self.chart.update()

    def say(self, findings: Sequence[RunFinding]) -> None:
        """What went wrong, the likely cause first."""
        self.lines.set_options(self.window.desk.quantities())
        self.found.clear()
        with self.found:
            if not findings:
                ui.label("nothing was found")
            for number, finding in enumerate(findings):
                with ui.element("div").classes("m-finding warning"):
                    word = "likely cause: " if number == 0 and len(findings) > 1 else ""
                    ui.label(f"{word}{finding.message}").style("font-weight: 600")
                    ui.label(finding.remedy).classes("remedy")
