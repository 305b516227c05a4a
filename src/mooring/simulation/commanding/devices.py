"""The two-valued signals of devices: what was set, what it does, and what is reported."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from mooring.errors import ModelError, did_you_mean, told
from mooring.model.device import DeviceInput, DeviceOutput

if TYPE_CHECKING:
    from mooring.simulation.simulation import Simulation

SCAN = 0.005
"""Between two looks at signals [s]."""


class Devices:
    """The devices of a simulation.

    Attributes:
        signals: of all, by whole name, such as `clamp.open`.
        changes: when a signal changed [s], which, and to what; at the beginning all are false.
    """

    def __init__(self, simulation: Simulation) -> None:
        """No input is true; outputs are as everything stands."""
        self._simulation = simulation
        devices = simulation.robot.devices.items()
        self._inputs: dict[str, DeviceInput] = {
            f"{name}.{key}": signal for name, device in devices
            for key, signal in device.inputs.items()
        }  # fmt: skip
        self._outputs: dict[str, DeviceOutput] = {
            f"{name}.{key}": report for name, device in devices
            for key, report in device.outputs.items()
        }  # fmt: skip
        self.signals = dict.fromkeys([*self._inputs, *self._outputs], False)
        self.changes: list[tuple[float, str, bool]] = []
        self._waiting: list[tuple[float, str, bool]] = []
        self._since: dict[str, float] = {}
        self._every = max(1, round(SCAN / simulation.settings.step))
        for name, report in self._outputs.items():
            if self._holds(report):
                self._note(name, True)
        self._idle: set[str] = set()
        for name, device in devices:
            for key, why in device.undriven(simulation.robot):
                self._idle.add(f"{name}.{key}")
                note = f"signal {name}.{key} comes to nothing: {why}"
                if note not in simulation.plan.notes:
                    simulation.plan.notes.append(note)

    @property
    def inputs(self) -> list[str]:
        """Names of the signals that can be set."""
        return list(self._inputs)

    @property
    def outputs(self) -> list[str]:
        """Names of the signals that report."""
        return list(self._outputs)

    def save(self) -> dict[str, Any]:
        """For `restore`."""
        return {
            "signals": dict(self.signals), "changes": list(self.changes),
            "waiting": list(self._waiting), "since": dict(self._since),
        }  # fmt: skip

    def restore(self, saved: dict[str, Any]) -> None:
        """Go back, or on, to what was saved."""
        self.signals, self._since = dict(saved["signals"]), dict(saved["since"])
        self.changes = [(float(t), str(n), bool(v)) for t, n, v in saved["changes"]]
        self._waiting = [(float(t), str(n), bool(v)) for t, n, v in saved["waiting"]]

    @property
    def room(self) -> int:
        """Steps until signals are looked at again."""
        if not self.signals:
            return 1 << 30
        return self._every - self._simulation.native.steps % self._every

    def refuse(self, name: str, value: object) -> None:
        """Refuse what cannot be set.

        Raises:
            ModelError: no input has that name, or the value is neither true nor false.
        """
        if name in self._outputs:
            raise ModelError(f"{name!r} is an output: the device sets it")
        if name not in self._inputs:
            hint = did_you_mean(name, list(self._inputs))
            raise ModelError(f"no device has an input {name!r}{hint}")
        if not isinstance(value, bool):
            raise ModelError(f"{name!r} is true or false, got {told(value)}")

    def set(self, name: str, value: bool) -> None:
        """Set an input, from now on.

        Raises:
            ModelError: see `refuse`.
        """
        self.refuse(name, value)
        if self.signals[name] != value:
            self._note(name, value)
            self._waiting.append((self._simulation.time + self._inputs[name].delay, name, value))

    def look(self) -> None:
        """Do what is due, and report."""
        simulation = self._simulation
        if not self.signals or simulation.native.steps % self._every:
            return
        now = simulation.time + 1e-9
        due = [entry for entry in self._waiting if entry[0] <= now]
        self._waiting = [entry for entry in self._waiting if entry[0] > now]
        for _, name, value in due:
            signal = self._inputs[name]
            goals = signal.joints if value else signal.otherwise
            # Motors may be off.
            driven = {j: float(goal) for j, goal in goals.items() if j in simulation.drives}
            if driven and name not in self._idle:
                simulation.courses.go(driven, signal.travel, simulation.time)
            if signal.grip is not None:
                simulation.grip(signal.grip, value)
        for name, report in self._outputs.items():
            holds = self._holds(report)
            if not holds:
                self._since.pop(name, None)
            elif self._since.setdefault(name, simulation.time) + report.delay > now:
                holds = self.signals[name]
            if holds != self.signals[name]:
                self._note(name, holds)

    def _note(self, name: str, value: bool) -> None:
        self.signals[name] = value
        self.changes.append((self._simulation.time, name, value))

    def _holds(self, report: DeviceOutput) -> bool:
        simulation = self._simulation
        q, tree = simulation.native.q, simulation.tree
        return (
            all(q[tree.coordinate(j)] >= float(p) for j, p in report.above.items())
            and all(q[tree.coordinate(j)] <= float(p) for j, p in report.below.items())
            and all(
                j in simulation.drives
                and abs(simulation.native.effort[simulation.drives[j].motor]) >= least
                for j, least in report.load.items()
            )
            and (report.holds is None or bool(simulation.grips.held[report.holds]))
        )
