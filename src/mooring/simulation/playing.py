"""A simulation that runs in a thread of its own, for pages and controllers outside."""

from __future__ import annotations

import math
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from mooring.errors import MooringError
from mooring.geometry import Array, apply
from mooring.simulation.recording.recording import Recording
from mooring.simulation.running import last_step
from mooring.simulation.simulation import Simulation
from mooring.unforeseen import unforeseen

SLICE = 1 / 60
"""[s]"""
_PULL = 40.0
"""Stiffness of a pull by hand per mass of the robot [N/m/kg]; it pulls no harder than 1 m of it."""
Change = Literal["playing", "paused", "reset", "ended"]
KEPT = "10 min"
"""How much of the recording is kept of what may run for ever."""
_LATEST = 0.1
"""How far time may fall behind and still be caught up with [s]."""
_SEEN = 1 / 40
"""Between two looks at a simulation while it computes, at least [s]."""


@dataclass(frozen=True, eq=False)
class Moment:
    """How a simulation stands.

    Attributes:
        time: [s].
        q: (n,).
        values: of the motors' efforts, and of the energies, by the names of a recording's columns.
        forces: of contacts, (k, 6): where [m], and which way [N].
        running: whether time goes on.
        ended: why it cannot go on; empty while it can.
        pull: how hard a link is pulled by hand [N].
        pace: how many times real time it goes.
    """

    time: float
    q: Array
    values: dict[str, float]
    forces: Array
    running: bool
    ended: str
    pull: float
    pace: float


class Halt(Exception):  # noqa: N818
    """Raised between two steps by a controller that is waited for: time stands until `wake`."""


class Player:
    """Plays, pauses, steps and resets a simulation.

    Attributes:
        simulation: what is played; looked at and told with `lock` held.
        speed: times real time; inf for as fast as it goes.
        lock: held while steps are taken; whoever waits for it lets go of it. `moment`, `command`,
            `pull` and `hold` do not wait for it, so that a page is quick beside a slow simulation.
        slice: the longest time that it computes at once [s of simulated time]; in paced time it
            then waits until that time is due, so what is sent each slice is sent on time.
        last: when it ends [s]; inf for never.
        began: the time from which it went on [s].
        lost_time: by how much time fell behind what was asked for, and was not caught up [s].
        told: called with the lock held when time begins to go on (`playing`), stands (`paused`), is
            at the start again (`reset`), or can go on no more (`ended`), whoever caused it.
    """

    def __init__(self, simulation: Simulation, speed: float = 1.0) -> None:
        """Paused where the simulation is."""
        self.simulation = simulation
        self.speed = speed
        self.lock = threading.Condition(threading.RLock())
        self.slice = SLICE
        self.last = math.inf
        self.began = simulation.time
        self.lost_time = 0.0
        self.told: Callable[[Change], None] = lambda _: None
        self._going = threading.Event()
        self._over = self._asleep = self._held = False
        self._until = 0
        self._pull: tuple[str, Array, Array] | None = None
        self._let_go: list[str] = []
        self._goals: dict[str, float] = {}
        self._pace = self._hard = 0.0
        self._problem = ""
        self._mass = float(self.simulation.tree.arrays.mass.sum())
        self._publish()
        self._thread = threading.Thread(target=self._run, name="simulation", daemon=True)
        self._thread.start()

    @property
    def running(self) -> bool:
        return self._going.is_set()

    def play(self) -> None:
        """Let time go on, for as long as nobody stops it."""
        with self.lock:
            if not (self.simulation.ended or self.running):
                self._held = False
                self._going.set()
                self.told("playing")

    def hold(self) -> None:
        """Stop time after the slice that is being computed, without waiting for that.

        Nobody is told; `pause` tells.
        """
        self._held = self._held or self.running
        self._until = 0
        self._going.clear()

    def pause(self) -> None:
        """Stop time, after the slice that is being computed, or while somebody is waited for."""
        self.hold()
        with self.lock:
            went, self._held = self._held, False
            self._stand()
            if went:
                self.told("paused")

    def _stand(self) -> None:
        """Time stands; whoever waits for that goes on."""
        self._until = 0
        self._going.clear()
        self._pace = 0.0
        self._publish()
        self.lock.notify_all()

    def wake(self) -> None:
        """Let time go on that stands for a controller."""
        with self.lock:
            self._asleep = False
            self.lock.notify_all()

    def go_on_here(self) -> None:
        """As `wake`, but compute in the thread that calls for a while, unless time is paced.

        No thread has to wait for another then, which takes longer than a step.
        """
        with self.lock:
            self._asleep = False
            ends = time.perf_counter() + SLICE
            while math.isinf(self.speed) and self.running and not self._asleep:
                self._advance()
                if time.perf_counter() > ends:
                    break
            if not self._asleep:
                self.lock.notify_all()

    def step(self, count: int = 1, *, wait: bool = True) -> None:
        """Go on by single steps, and stop; with `wait` until they are done."""
        self.pause()
        with self.lock:
            if self.simulation.ended:
                return
            self._until = self.simulation.native.steps + count
            self._going.set()
            if wait:
                self.lock.wait_for(lambda: not self._until or self._over)

    def reset(self, recording: Recording | None = None, at: float | None = None) -> None:
        """Go back to the start, or to an instant of what was recorded; time stands then."""
        self.pause()
        with self.lock:
            self._pull, self._problem = None, ""
            self._goals.clear()
            self._asleep = False
            self.simulation.reset(recording, at)
            self.began = self.simulation.time
            self._publish()
            self.told("reset")

    def close(self, *, wait: bool = True) -> None:
        """End the thread; without `wait` it ends after the slice that it computes."""
        self._over = True
        self._going.set()
        if wait:
            with self.lock:
                self.lock.notify_all()
            self._thread.join()

    def command(self, joint: str, position: float) -> bool:
        """Tell a motor where to go, no faster than the joint may; False where none drives it."""
        if joint not in self.simulation.driven:
            return False
        self._goals[joint] = position
        return True

    def pull(self, link: str, point: Array, target: Array | None) -> None:
        """Pull a point of a link, (3,) in its coordinates, towards a place; None lets go."""
        before = self._pull
        self._pull = None if target is None else (link, point, target)
        if before is not None and (target is None or before[0] != link):
            self._let_go.append(before[0])

    def signal(self, name: str, value: bool) -> None:
        """Set an input of a device."""
        with self.lock:
            self.simulation.signal(name, value)

    def signals(self) -> dict[str, bool]:
        """All signals of devices, by whole name."""
        return dict(self.simulation.devices.signals)

    def moment(self) -> Moment:
        """How everything stood a moment ago, at most a slice and 25 ms; waits for nothing."""
        return replace(self._latest, running=self.running, pace=self._pace)

    def _publish(self) -> None:
        """Say how everything stands; the lock is held."""
        simulation = self.simulation
        state = simulation.native
        efforts = zip(simulation.driven, state.effort.tolist(), strict=True)
        values = {f"{joint}.effort": value for joint, value in efforts}
        self._latest = Moment(
            simulation.time, state.q.copy(), values, simulation.recorder.forces(),
            self.running, self._problem or simulation.ended, self._hard, self._pace,
        )  # fmt: skip
        self._published = time.perf_counter()

    def recording(self) -> Recording:
        """All that was recorded, with its findings."""
        with self.lock:
            return self.simulation.recording

    def _run(self) -> None:
        due, went_on = 0.0, False
        while True:
            went_on = went_on and self._going.is_set()
            self._going.wait()
            if self._over:
                return
            began = time.perf_counter()
            with self.lock:
                if self._asleep:
                    went_on = False
                    self.lock.wait_for(lambda: not self._asleep or not self.running or self._over)
                if not self.running or self._asleep:
                    continue
                first = self.simulation.time
                self._advance()
                passed = self.simulation.time - first
            # What was late is caught up with, but not what was late for long.
            if 0.0 < due < began - _LATEST and went_on:
                self.lost_time += began - _LATEST - due
            due = max(due, began - _LATEST)
            went_on = True
            due += passed / self.speed if math.isfinite(self.speed) else 0.0
            time.sleep(max(0.0, due - time.perf_counter()))
            spent = max(time.perf_counter() - began, 1e-9)
            self._pace += 0.1 * (passed / spent - self._pace)

    def _wanted(self) -> int:
        """Steps of a slice."""
        step = self.simulation.settings.step
        wanted = (
            min(2 * SLICE, 2 * self.slice)
            if math.isinf(self.speed)
            else min(self.speed * SLICE, self.slice)
        )
        count = max(1, round(wanted / step))
        if math.isfinite(self.last):
            count = min(count, math.ceil((self.last - self.simulation.time) / step - 1e-6))
        if self._until:
            count = min(count, self._until - self.simulation.native.steps)
        return count

    def _advance(self) -> None:
        """Take the steps of a slice."""
        count = self._wanted()
        ends = count <= 0
        try:
            self._apply_pull()
            self._apply_goals(count)
            if ends:
                last_step(self.simulation)
            else:
                self.simulation.step(count)
        except Halt:
            self._asleep = True
        except MooringError as error:
            self._problem = str(error)
        except Exception as error:
            # Time stands, and whoever looks is told whose it is.
            words = "; ".join(getattr(error, "__notes__", ()))
            self._problem = (
                f"{type(error).__name__}: {error}; {words}"
                if words
                else unforeseen(error, "stepping the simulation")
            )
        ends = ends and not self._asleep
        if self._until and self.simulation.native.steps >= self._until:
            self._stand()
            self.told("paused")
        if self._problem or self.simulation.ended or ends:
            self._stand()
            self.told("ended")
        if not self.running or time.perf_counter() - self._published > _SEEN:
            self._publish()

    def _apply_goals(self, count: int) -> None:
        """Let targets go to where sliders are, as fast as the joints may."""
        simulation = self.simulation
        for joint, goal in list(self._goals.items()):
            motor = simulation.driven.index(joint)
            held = simulation.commands.held[motor]
            state = simulation.native.q[simulation.tree.coordinate(joint)]
            now = float(simulation.commands.position[motor] if held else state)
            fastest = float(simulation.tree.joints.velocity[simulation.tree.freedom(joint)])
            reach = fastest * count * simulation.settings.step
            if abs(goal - now) > reach:
                goal = now + math.copysign(reach, goal - now)
            elif self._goals[joint] == goal:
                # Nobody has asked for another meanwhile.
                self._goals.pop(joint)
            simulation.command(positions={joint: goal})

    def _apply_pull(self) -> None:
        while self._let_go:
            self.simulation.push(self._let_go.pop())
        pulled = self._pull
        self._hard = 0.0
        if pulled is None:
            return
        link, point, target = pulled
        way = target - apply(self.simulation.pose(link), point[None])[0]
        length = float(np.linalg.norm(way))
        if length > 0:
            way = way / max(1.0, length)
        self._hard = float(np.linalg.norm(_PULL * self._mass * way))
        self.simulation.push(link, _PULL * self._mass * way, at=point)
