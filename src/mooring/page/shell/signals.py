"""The two-valued signals of devices: inputs to be set, outputs to be seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from nicegui import ui

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell


class Signals:
    """Built once a model; nothing for one without devices."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self._inputs: dict[str, ui.switch] = {}
        self._outputs: dict[str, ui.label] = {}
        self._setting = False
        devices = window.desk.robot.devices
        if not devices:
            return
        ui.label("Signals").classes("m-heading")
        ui.label("Set while it runs.").style("color: var(--dim)")
        for name, device in devices.items():
            ui.label(name).style("font-weight: 600")
            with ui.row().classes("items-center gap-3"):
                for key in device.inputs:
                    whole = f"{name}.{key}"
                    switch = ui.switch(key, on_change=lambda e, n=whole: self._set(n, e.value))
                    self._inputs[whole] = switch.props("dense")
            with ui.row().classes("items-center gap-3"):
                for key in device.outputs:
                    self._outputs[f"{name}.{key}"] = ui.label(key)

    def refresh_live(self) -> None:
        """Several times a second."""
        said = self.window.desk.instruments.signals()
        self._setting = True
        for name, switch in self._inputs.items():
            switch.set_enabled(self.window.desk.player is not None)
            value = said is not None and said.get(name, False)
            if switch.value != value:
                switch.value = value
        self._setting = False
        for name, label in self._outputs.items():
            sign = "–" if said is None else "●" if said.get(name, False) else "○"
            label.text = f"{sign} {name.partition('.')[2]}"

    def _set(self, name: str, value: bool) -> None:
        player = self.window.desk.player
        if player is not None and not self._setting:
            player.signal(name, value)
