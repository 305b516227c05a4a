"""From a motion's steps to the targets of every joint over time."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction
from typing import Literal

import numpy as np

from mooring.errors import ModelError, RunError, did_you_mean
from mooring.geometry import Array
from mooring.kinematics import configuration
from mooring.model import MotionStep, Robot
from mooring.simulation.timeline.arrays import CUBIC, QUINTIC, TRAPEZOID, Timeline
from mooring.simulation.timeline.reaching import straight_way
from mooring.simulation.timeline.wheels import wheel_speeds
from mooring.tree import Tree
from mooring.units import show

# The largest speed of a quintic way of length 1 that takes 1 s, and of a trapezoid.
_PEAK = {"quintic": 15 / 8, "trapezoid": 4 / 3}
_RAMP = 0.25
# And the largest acceleration.
_BEND = {"quintic": 10 / 3**0.5, "trapezoid": 1 / (_RAMP * (1 - _RAMP))}
_A_PERIOD = 64
_MOST_WAYS = 50_000
_SHORTEST = 0.05
"""[s]"""


@dataclass(frozen=True)
class Event:
    """Something that is otherwise from a time on.

    Attributes:
        time: [s].
        what: `"attach"`: two links that hold each other, or no more; `"grip"`: a grip that is on or
            off; `"conveyor"`: how fast a conveyor runs; `"signal"`: an input of a device.
        names: of the links, the grip, the conveyor, or the signal.
        value: 1 or 0; of a conveyor its speed [m/s].
    """

    time: float
    what: Literal["attach", "grip", "conveyor", "signal"]
    names: tuple[str, ...]
    value: float


@dataclass
class Plan:
    """A motion, planned.

    Attributes:
        timeline: for the compiled core.
        seconds: how long it takes with its last wait; inf for one without end.
        events: in the order of their times; those of an endless cycle once.
        notes: what there is to say about it.
    """

    timeline: Timeline
    seconds: float
    events: list[Event] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    def due(self, since: float, until: float) -> list[Event]:
        """The events from a time to just before another, in order, repeated with their cycle."""
        found = []
        again, period = self.timeline.again, self.timeline.period
        for event in self.events:
            time = event.time
            if period > 0 and time >= again:
                time += period * max(0.0, np.ceil((since - 1e-9 - time) / period))
            while since - 1e-9 <= time < until - 1e-9:
                found.append(replace(event, time=time))
                if period <= 0 or event.time < again:
                    break
                time += period
        return sorted(found, key=lambda event: event.time)


def resting(tree: Tree, q: Array) -> Timeline:
    """Targets that stay where they are."""
    return _Builder(tree, q).timeline()


def plan(robot: Robot, tree: Tree, steps: Sequence[MotionStep], start: Array) -> Plan:
    """The targets of a motion that begins at a configuration.

    Args:
        robot, tree: whose motion.
        steps: the motion.
        start: positions at time 0, (n,).

    Raises:
        ModelError: a step gives no duration and no moving joint has a velocity limit; a place is
            out of reach; something comes after a cycle without end.
        RunError: the loops do not close in a posture.
    """
    builder = _Builder(tree, start, robot)
    builder.add(steps)
    builder.come_to_rest()
    seconds = np.inf if builder.period > 0 else builder.clock
    return Plan(builder.timeline(), float(seconds), builder.events, builder.notes)


class _Builder:
    def __init__(self, tree: Tree, start: Array, robot: Robot | None = None) -> None:
        self.tree = tree
        self.robot = robot
        self.q = start.copy()
        self.clock = 0.0
        self.starts: list[float] = []
        self.ends: list[float] = []
        self.kinds: list[int] = []
        self.points = [_targets(tree, start)]
        self.speeds: list[Array] = []
        self.rolling = np.zeros(len(tree.freedoms))
        self._last_ramp = 0.5
        self.named: dict[str, float] = {}
        self.again = np.inf
        self.period = 0.0
        self.advance = np.zeros(len(tree.freedoms))
        self.events: list[Event] = []
        self.notes: list[str] = []

    def timeline(self) -> Timeline:
        count, freedoms = len(self.starts), len(self.tree.freedoms)
        return Timeline(
            np.array(self.starts, dtype=float),
            np.array(self.ends, dtype=float),
            np.array(self.kinds, dtype=np.int64),
            np.full(count, _RAMP),
            np.array(self.points, dtype=float),
            np.array(self.speeds, dtype=float).reshape(count, 2, freedoms),
            float(self.again),
            float(self.period),
            self.advance,
        )

    def add(self, steps: Sequence[MotionStep]) -> None:
        for step in steps:
            if self.period > 0:
                raise ModelError("what comes after a cycle without end never comes; give it times")
            if step.drive is None and not step.speeds and not step.cycle:
                self.come_to_rest()
            for links, holds in ((step.attach, 1.0), (step.release, 0.0)):
                if links is not None:
                    self.events.append(Event(self.clock, "attach", links, holds))
            for grip, holds in ((step.grip, 1.0), (step.let_go, 0.0)):
                if grip is not None:
                    self.events.append(Event(self.clock, "grip", (grip,), holds))
            for conveyor, speed in step.conveyors.items():
                self.events.append(Event(self.clock, "conveyor", (conveyor,), speed))
            for device, values in step.signals.items():
                for name, value in values.items():
                    self._refuse_signal(device, name)
                    event = Event(self.clock, "signal", (f"{device}.{name}",), float(value))
                    self.events.append(event)
            if step.cycle:
                self._cycle(step)
            elif step.drive is not None:
                self._drive(step)
            elif step.reach:
                self._reach(step)
            elif step.speeds:
                self._run(step)
            elif step.waves:
                self._wave(step)
            elif step.course:
                self._follow(step)
            elif step.to is not None or step.joints:
                self._go(step)
            elif step.over:
                self.clock += step.over
            self.clock += step.hold

    def come_to_rest(self) -> None:
        """Let wheels that were driven run out."""
        if self.rolling.any():
            still = np.zeros_like(self.rolling)
            self._roll(still, self._last_ramp)

    def _way(self, span: float, kind: int, goal: Array, before: Array, after: Array) -> None:
        self.starts.append(self.clock)
        self.clock += span
        self.ends.append(self.clock)
        self.kinds.append(kind)
        self.points.append(goal)
        self.speeds.append(np.stack([before, after]))

    def _cycle(self, step: MotionStep) -> None:
        if step.times is not None:
            for _ in range(step.times):
                self.add(step.cycle)
            return
        # Gone through once to come from where it began, and once more to go over and over.
        self.add(step.cycle)
        began, before = self.clock, self.points[-1]
        self.events = [event for event in self.events if event.time < began - 1e-9]
        self.add(step.cycle)
        if self.clock <= began:
            raise ModelError("a cycle without end takes no time")
        self.again, self.period = began, self.clock - began
        self.advance = self.points[-1] - before
        # At the end of a cycle wheels roll on into the next.
        self.rolling[:] = 0.0

    def _refuse_signal(self, device: str, name: str) -> None:
        assert self.robot is not None
        known = list(self.robot.devices[device].inputs)
        if name not in known:
            raise ModelError(f"device {device!r} has no input {name!r}{did_you_mean(name, known)}")

    def _go(self, step: MotionStep) -> None:
        assert self.robot is not None
        if step.to is not None:
            self.named = dict(self.robot.posture(step.to))
        self.named |= {name: float(value) for name, value in step.joints.items()}
        try:
            reached = configuration(self.robot, self.named, self.tree)
        except RunError as error:
            where = step.to or ", ".join(step.joints)
            raise RunError(f"the step to {where!r}, at {self.clock:.3g} s: {error}") from None
        goal = _targets(self.tree, reached)
        # Nothing is asked of wheels that a posture does not name: they stay where they are.
        free = [k for k, name in enumerate(self.tree.freedoms) if self._rolls(name)]
        goal[free] = self.points[-1][free]
        self.q = reached
        way = np.abs(goal - self.points[-1])
        where = step.to or ", ".join(step.joints)
        if way.max(initial=0.0) <= 1e-12:
            self.clock += step.over or 0.0
            return
        bends = _BEND[step.profile] * way
        span = step.over or self._shortest(_PEAK[step.profile] * way, where, bends)
        self._note_speeds(_PEAK[step.profile] * way / span, where, span)
        self._note_accelerations(bends / span**2, where, span)
        kind = TRAPEZOID if step.profile == "trapezoid" else QUINTIC
        still = np.zeros_like(goal)
        self._way(span, kind, goal, still, still)

    def _rolls(self, name: str) -> bool:
        assert self.robot is not None
        joint = self.robot.joints.get(name)
        driven = any(abs(p[self.tree.freedom(name)]) > 2 * np.pi for p in self.points)
        return joint is not None and joint.endless and driven and name not in self.named

    def _reach(self, step: MotionStep) -> None:
        assert self.robot is not None
        where = ", ".join(step.reach)
        shares, states = straight_way(self.robot, self.tree, step.reach, self.q)
        targets = np.array([_targets(self.tree, state) for state in states])
        # By the quintic's course, so that points lie evenly in time.
        slopes = np.gradient(targets, shares, axis=0)
        slopes[[0, -1]] = 0.0
        span = step.over or self._shortest(np.abs(slopes).max(axis=0), where)
        self._note_speeds(np.abs(slopes).max(axis=0) / span, where, span)
        for k in range(len(shares) - 1):
            part = span * (shares[k + 1] - shares[k])
            self._way(part, CUBIC, targets[k + 1], slopes[k] / span, slopes[k + 1] / span)
        self.q = states[-1]
        moved = np.flatnonzero(np.ptp(targets, axis=0) > 1e-12)
        self.named |= {
            self.tree.freedoms[k]: float(targets[-1, k])
            for k in moved
            if self.tree.freedoms[k] in self.robot.joints
        }

    def _drive(self, step: MotionStep) -> None:
        assert self.robot is not None
        assert step.drive is not None
        assert step.over is not None
        speeds = wheel_speeds(self.robot, self.tree, step.drive)
        self._note_speeds(np.abs(speeds), "the wheels", step.over)
        ramp = min(step.drive.ramp, step.over)
        if not np.allclose(speeds, self.rolling):
            self._roll(speeds, ramp)
        else:
            ramp = 0.0
        if step.over > ramp:
            span = step.over - ramp
            self._way(span, CUBIC, self.points[-1] + span * speeds, speeds, speeds)
        self._last_ramp = step.drive.ramp

    def _run(self, step: MotionStep) -> None:
        """Some joints at constant speed; others that ran come to rest."""
        speeds = np.zeros_like(self.rolling)
        for joint, speed in step.speeds.items():
            speeds[self.tree.freedom(joint)] = speed
        self._note_speeds(np.abs(speeds), ", ".join(step.speeds), step.over or np.inf)
        if not np.allclose(speeds, self.rolling):
            self._roll(speeds, step.ramp if step.over is None else min(step.ramp, step.over))
            left = None if step.over is None else step.over - min(step.ramp, step.over)
        else:
            left = step.over
        self._last_ramp = step.ramp
        if left is None:
            self._for_ever(1.0, self.points[-1] + speeds, speeds)
        elif left > 0:
            self._way(left, CUBIC, self.points[-1] + left * speeds, speeds, speeds)

    def _for_ever(self, period: float, goal: Array, speeds: Array) -> None:
        before = self.points[-1]
        self.again = self.clock
        self._way(period, CUBIC, goal, speeds, speeds)
        self.period, self.advance = period, self.points[-1] - before
        self.rolling[:] = 0.0

    def _wave(self, step: MotionStep) -> None:
        """By cubics between so many points of a period that nobody sees it."""
        middle = self.points[-1].copy()
        rows = [(self.tree.freedom(joint), wave) for joint, wave in step.waves.items()]
        fastest = max(wave.frequency for _, wave in rows)

        def at(time: float) -> tuple[Array, Array]:
            place, speed = middle.copy(), np.zeros_like(middle)
            for k, wave in rows:
                angle = 2 * np.pi * wave.frequency * time + wave.phase
                place[k] += float(wave.amplitude) * (np.sin(angle) - np.sin(wave.phase))
                speed[k] = 2 * np.pi * wave.frequency * float(wave.amplitude) * np.cos(angle)
            return place, speed

        span = step.over
        if span is None:
            # As long as it takes until all have gone round a whole number of times.
            rates = [Fraction(wave.frequency).limit_denominator(1000) for _, wave in rows]
            common = Fraction(
                math.gcd(*(r.numerator * math.lcm(*(s.denominator for s in rates))
                           // r.denominator for r in rates)),
                math.lcm(*(s.denominator for s in rates)),
            )  # fmt: skip
            span = float(1 / common)
            self.again = self.clock
        count = math.ceil(span * fastest * _A_PERIOD)
        if count > _MOST_WAYS:
            raise ModelError(
                f"waves of {', '.join(step.waves)} take too many points to come round again; "
                "choose frequencies that are multiples of one, or say over: how long"
            )
        peaks = np.zeros_like(middle)
        for k, wave in rows:
            peaks[k] = 2 * np.pi * wave.frequency * abs(float(wave.amplitude))
        self._note_speeds(peaks, ", ".join(step.waves), span)
        began = self.clock
        for k in range(count):
            first, last = at(span * k / count), at(span * (k + 1) / count)
            self._way(
                began + span * (k + 1) / count - self.clock, CUBIC, last[0], first[1], last[1]
            )
        if step.over is None:
            self.period = self.clock - began
        else:
            still = np.zeros_like(middle)
            self._way(_SHORTEST, CUBIC, self.points[-1], still, still)

    def _follow(self, step: MotionStep) -> None:
        """Through given places at given times, without overshooting (Fritsch and Butland 1984)."""
        from scipy.interpolate import PchipInterpolator

        times = sorted({0.0, *(time for course in step.course.values() for time, _ in course)})
        places = np.tile(self.points[-1], (len(times), 1))
        slopes = np.zeros_like(places)
        for joint, course in step.course.items():
            k = self.tree.freedom(joint)
            rows = [(time, float(place)) for time, place in course]
            if rows[0][0] > 0:
                rows.insert(0, (0.0, float(self.points[-1][k])))
            if len(rows) == 1:
                places[:, k] = rows[0][1]
                continue
            curve = PchipInterpolator(*np.array(rows).T)
            within = np.clip(times, rows[0][0], rows[-1][0])
            places[:, k] = curve(within)
            slopes[:, k] = np.where(within == times, curve(within, 1), 0.0)
        slopes[[0, -1]] = 0.0
        names = ", ".join(step.course)
        if np.abs(places[0] - self.points[-1]).max() > 1e-9:
            self._way(_SHORTEST, QUINTIC, places[0], slopes[0], slopes[0])
        self._note_speeds(np.abs(slopes).max(axis=0), names, times[-1])
        for k in range(len(times) - 1):
            self._way(times[k + 1] - times[k], CUBIC, places[k + 1], slopes[k], slopes[k + 1])

    def _roll(self, speeds: Array, ramp: float) -> None:
        goal = self.points[-1] + 0.5 * ramp * (self.rolling + speeds)
        self._way(ramp, CUBIC, goal, self.rolling, speeds)
        self.rolling = speeds.copy()

    def _shortest(self, peaks: Array, where: str, bends: Array | None = None) -> float:
        """The shortest time for a way whose largest speeds, and accelerations, are these if it
        takes 1 s."""
        limits, most = self.tree.joints.velocity, self.tree.joints.acceleration
        slowest = 0.0
        if bends is not None and (np.isfinite(most) & (bends > 0)).any():
            held = np.isfinite(most)
            slowest = float(np.sqrt((bends[held] / most[held]).max()))
        limited = np.isfinite(limits) & (limits > 0)
        if not (limited & (peaks > 0)).any():
            if slowest > 0:
                return max(_SHORTEST, slowest)
            raise ModelError(
                f"the step to {where!r} gives no duration, and no joint it moves has a velocity "
                "limit to take one from; add over: ..."
            )
        return max(_SHORTEST, slowest, float((peaks[limited] / limits[limited]).max()))

    def _note_accelerations(self, bends: Array, where: str, span: float) -> None:
        for k, name in enumerate(self.tree.freedoms):
            limit = self.tree.joints.acceleration[k]
            if bends[k] > limit * 1.001:
                turns = self.tree.motions[k] == "rotation"
                kind = "angular acceleration" if turns else "acceleration"
                self.notes.append(
                    f"the step to {where!r} in {span:.3g} s asks {name} for "
                    f"{show(bends[k], kind)}, above its limit of {show(limit, kind)}"
                )

    def _note_speeds(self, peaks: Array, where: str, span: float) -> None:
        for k, name in enumerate(self.tree.freedoms):
            limit = self.tree.joints.velocity[k]
            if peaks[k] > limit * 1.001:
                kind = "angular velocity" if self.tree.motions[k] == "rotation" else "velocity"
                text = (
                    f"the step to {where!r} in {span:.3g} s asks {name} for "
                    f"{show(peaks[k], kind)}, above its limit of {show(limit, kind)}"
                )
                if text not in self.notes:
                    self.notes.append(text)


def _targets(tree: Tree, q: Array) -> Array:
    """The position of each freedom, (m,); zero for what floats, which nothing drives."""
    positions = tree.arrays.position
    return np.where(positions < 0, 0.0, q[positions])
