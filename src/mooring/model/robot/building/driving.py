"""Adding motors, postures and motions."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from typing import Any

from mooring.errors import did_you_mean
from mooring.model.drive import Motor
from mooring.model.fields import Motion
from mooring.model.motion import MotionStep, all_steps, named_in
from mooring.model.robot.contents import Contents
from mooring.model.validation import EntryError, define


class Driving(Contents):
    """What moves it; see `Robot`."""

    def add_motor(
        self,
        name: str,
        *,
        joint: str,
        p: float | str | None = None,
        d: float | str | None = None,
        i: float | str | None = None,
        mode: str = "position",
        feed_forward: str = "none",
        gear_ratio: float = 1.0,
        rotor_inertia: float | str = 0.0,
        torque: float | str | None = None,
        at_limit: str = "hold",
    ) -> None:
        """Drive a joint towards a target.

        Args:
            name: a new name.
            joint: the joint it drives; its effort limit is where the motor saturates.
            p: effort per position error, e.g. `"9 kN*m/rad"`; for mode position.
            d: effort per velocity error, e.g. `"900 N*m*s/rad"`; for position and velocity.
            i: effort per integral of the position error, per second; for mode position.
            mode: `"position"`, `"velocity"` or `"effort"`: what its target is; or `"motion"`: it
                goes as it is told, whatever effort that takes.
            feed_forward: `"gravity"` adds the effort that holds the machine up.
            gear_ratio: turns of the motor per turn of the joint, or radians per metre.
            rotor_inertia: of what turns with the motor, before the gear, e.g. `"2e-4 kg*m^2"`.
            torque: the largest of the motor itself, before the gear.
            at_limit: `"hold"` its largest effort, or `"trip"` and stay off.

        Raises:
            ModelError: the name is taken, the joint is unknown or driven already, a value is wrong.
        """
        entry = {
            "joint": joint, "p": p, "i": i, "d": d, "mode": mode, "gear_ratio": gear_ratio,
            "feed_forward": feed_forward, "rotor_inertia": rotor_inertia, "torque": torque,
            "at_limit": at_limit,
        }  # fmt: skip
        self.describe_motor(name, entry)

    def describe_motor(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a motor from a mapping with the keys of `Motor`, as in a document."""
        self._free("motor", name, self.motors)
        what = f"motor {name!r}"
        motion: Motion = "rotation"
        if isinstance(entry.get("joint"), str):
            motion = self._motion_of(entry["joint"], what, ("joint",))
        motor = define(Motor, what, entry, name=name, motion=motion)
        for other in self.motors.values():
            if other.joint == motor.joint:
                text = f"joint {motor.joint!r} is already driven by {other.name!r}"
                raise EntryError(what, [(("joint",), text)])
        self.motors[name] = motor

    def add_posture(self, name: str, positions: Mapping[str, float | str]) -> None:
        """Name a posture: positions by joint; joints not named are at zero.

        Joints that follow others or are moved by a loop need not be named.

        Raises:
            ModelError: the name is taken, a joint is unknown, or a value is wrong.
        """
        self._free("posture", name, self.postures)
        self.postures[name] = self.read_positions(f"posture {name!r}", positions)

    def add_motion(self, name: str, steps: Iterable[Mapping[str, Any] | MotionStep]) -> None:
        """Name a motion: a sequence of steps.

        Args:
            name: a new name.
            steps: each a `MotionStep` or its keys, such as `{"to": "stowed", "hold": "1 s"}`.

        Raises:
            ModelError: the name is taken, something it names is unknown, or a value is wrong.
        """
        self._free("motion", name, self.motions)
        self.motions[name] = self.read_motion(f"motion {name!r}", steps)

    def read_motion(
        self, what: str, steps: Iterable[Mapping[str, Any] | MotionStep]
    ) -> tuple[MotionStep, ...]:
        """Steps of a motion, checked.

        Raises:
            ModelError: something a step names is unknown, or a value is wrong.
        """
        made = []
        known: dict[str, Collection[str]] = {
            "posture": self.postures, "joint": self.joints, "frame": [*self.frames, *self.links],
            "link": self.links,
        }  # fmt: skip
        for number, step in enumerate(steps):
            try:
                entry = step.model_dump() if isinstance(step, MotionStep) else step
                read = define(MotionStep, what, entry)
                for inner in all_steps([read]):
                    inner.joints = dict(self.read_positions(what, inner.joints))
            except EntryError as error:
                raise error.inside(number, what=what) from None
            for kind, other in named_in([read]):
                if other not in known[kind]:
                    hint = did_you_mean(other, list(known[kind]))
                    key = "to" if kind == "posture" else kind
                    text = f"no {kind} is called {other!r}{hint}"
                    raise EntryError(what, [((number, key), text)])
            made.append(read)
        if not made:
            raise EntryError(what, [((), "a motion needs at least one step")])
        return tuple(made)
