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
        player = self.window.desk.player
        said = {} if player is None else player.signals()
        self._setting = True
        for name, switch in self._inputs.items():
            switch.set_enabled(player is not None)
            if switch.value != said.get(name, False):
                switch.value = said.get(name, False)
        self._setting = False
        for name, label in self._outputs.items():
            on = said.get(name, False)
            label.text = f"{'●' if on else '○'} {name.partition('.')[2]}"

    def _set(self, name: str, value: bool) -> None:
        player = self.window.desk.player
        if player is not None and not self._setting:
            player.signal(name, value)
