"""What is told to whom at each step."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.bridge.session.peer import Peer
from mooring.bridge.session.pictures import Pictures
from mooring.geometry import quaternion
from mooring.kinematics import frame_poses, link_poses

if TYPE_CHECKING:
    from mooring.simulation.simulation import Simulation


class Publisher:
    """Makes messages of how a simulation stands, each once however many want it."""

    def __init__(self, simulation: Simulation) -> None:
        """Nothing was told yet."""
        self.simulation = simulation
        self.pictures = Pictures(simulation)
        self._told: dict[str, float] = {}
        self._changes = self._lost = 0
        self.fault = ""

    def forget(self) -> None:
        """Time went back to the start."""
        self._told.clear()
        self._changes = self._lost = 0

    def close(self) -> None:
        """End what goes on."""
        self.pictures.close()

    def every(self, rate: float) -> int:
        """Steps between two of what comes at a rate."""
        return max(1, round(1 / (rate * self.simulation.settings.step)))

    def room(self, peers: Iterable[Peer]) -> int:
        """The number of steps after each of which there may be something to tell; 0 for none."""
        found = 0
        for peer in peers:
            watching = peer.watching
            sensors = (self.simulation.robot.sensors[name].rate for name in watching.sensors)
            for rate in (watching.state, watching.poses, *sensors):
                if rate:
                    found = math.gcd(found, self.every(rate))
        return found

    def tell(self, peers: list[Peer], holder: Peer | None, waited: bool) -> None:
        """Tell each what it is due.

        Args:
            peers: who wants to hear.
            holder: who has the say; it hears of every measurement.
            waited: whether it is waited for in lock-step, and so waits for pictures and for the
                state at its turn.
        """
        steps = self.simulation.native.steps
        wanted = {name for peer in peers for name in peer.watching.sensors}
        for name in sorted(wanted):
            self._measured(name, [p for p in peers if name in p.watching.sensors], holder, waited)
        state = poses = None
        for peer in peers:
            watching = peer.watching
            if watching.poses and steps % self.every(watching.poses) == 0:
                if watching.frames is None:
                    poses = poses or self.poses()
                    peer.send(poses, "poses")
                else:
                    peer.send(self.poses(watching.frames), "poses")
            if peer is not holder and watching.state and steps % self.every(watching.state) == 0:
                state = state or self.state()
                peer.send(state, "state")

    def state(self, turn: bool = False) -> dict[str, Any]:
        """How everything is."""
        simulation = self.simulation
        native, tree = simulation.native, simulation.tree
        return {
            "kind": "state",
            "time": simulation.time,
            "positions": dict(zip(tree.coordinates, native.q.tolist(), strict=True)),
            "velocities": dict(zip(tree.freedoms, native.v.tolist(), strict=True)),
            "efforts": dict(zip(simulation.driven, native.effort.tolist(), strict=True)),
            "signals": simulation.devices.signals.copy(),
            "held": simulation.held,
            "turn": turn,
            "fault": self.fault,
        }

    def poses(self, names: tuple[str, ...] | None = None) -> dict[str, Any]:
        """Where frames and links are; all frames if none is named."""
        simulation = self.simulation
        tree, q = simulation.tree, simulation.native.q
        frames = frame_poses(tree, q)
        links = np.asarray(link_poses(tree, q))
        found = {}
        for name in frames if names is None else names:
            place = frames[name] if name in frames else links[tree.link(name)]
            found[name] = [*place[:3, 3].tolist(), *quaternion(place[:3, :3]).tolist()]
        return {"kind": "poses", "time": simulation.time, "poses": found}

    def signal_changes(self) -> list[tuple[float, str, bool]]:
        """Signals that changed since this was asked last."""
        changes = self.simulation.devices.changes
        since, self._changes = self._changes, len(changes)
        return changes[since:]

    def losses(self) -> list[tuple[float, str, str]]:
        """What grips lost since this was asked last: when, which grip, and the link."""
        lost = self.simulation.grips.lost
        since, self._lost = self._lost, len(lost)
        return lost[since:]

    def measurement(self, name: str) -> dict[str, Any] | None:
        """The newest measurement of a sensor, without pictures; None before there is one."""
        newest = self.simulation.recorder.newest(name, self.simulation.time)
        return None if newest is None else self._message(name, *newest)

    def _message(self, name: str, time: float, row: Any) -> dict[str, Any]:
        sensor = self.simulation.robot.sensors[name]
        if sensor.fan is not None:
            ranges = [
                [value if math.isfinite(value) else None for value in layer]
                for layer in row.reshape(sensor.fan).tolist()
            ]
            return {"kind": "scan", "time": time, "sensor": name, "ranges": ranges}
        values = dict(zip(sensor.columns({}), row.tolist(), strict=False))
        return {"kind": "measurement", "time": time, "sensor": name, "values": values}

    def _measured(self, name: str, peers: list[Peer], holder: Peer | None, waited: bool) -> None:
        newest = self.simulation.recorder.newest(name, self.simulation.time)
        if newest is None or self._told.get(name) == newest[0]:
            return
        self._told[name] = newest[0]
        if self.simulation.robot.sensors[name].view is not None:
            self.pictures.take(
                name, newest[0], newest[1], peers, waiting=waited and holder in peers
            )
            return
        message = self._message(name, *newest)
        for peer in peers:
            if peer is holder:
                peer.send(message, more=waited)
            else:
                peer.send(message, name)
