"""`connect`: what `Simulation` gives a controller, from a simulation or machine elsewhere."""

from __future__ import annotations

import json
import math
import tempfile
from collections.abc import Callable, Mapping, Sequence
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import ArrayLike

from mooring.access import with_token
from mooring.arguments import proven
from mooring.bridge.wire import Client, LostError, Message, RefusedError
from mooring.errors import ModelError, RunError
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.simulation.simulation import Instant
from mooring.units import to_si

if TYPE_CHECKING:
    from mooring.bridge.messages.incoming import Safe
    from mooring.model import Robot
    from mooring.model.scene import Scene
    from mooring.tree import Tree

_RATE = 100.0
"""Of states where time goes on by itself [Hz]."""


class Connection:
    """A simulation or machine elsewhere, told and asked as a `Simulation`.

    In lock-step time waits for `step`, and orders to motors travel with it. Where time goes on by
    itself orders are said without waiting, and `step` waits for time. Either way what cannot be
    done is said by the next `step`.

    Attributes:
        client: what speaks with the other side.
        welcome: what there is on the other side.
        lockstep: whether time waits.
        period: between two turns [s].
        events: what happened since it was looked at last; to be emptied by whoever reads it.

    Example:
        >>> def lift(machine):  # runs inside the process, here and elsewhere
        ...     machine.command(positions={"luff": 0.5})
        >>> with connect("ws://127.0.0.1:8640", rate=100) as machine:  # doctest: +SKIP
        ...     machine.run(lift, seconds=5)
    """

    def __init__(
        self,
        url: str,
        *,
        name: str = "controller",
        rate: float | str | None = None,
        lockstep: bool | None = None,
        lost: Safe | None = None,
        watch: bool = False,
        patience: float = 10.0,
    ) -> None:
        """Connect, and take the say.

        Args:
            url: ws://... as `mooring run --listen` prints it, or mqtt://host/base.
            name: who this is.
            rate: of the controller [Hz]; in lock-step each time step if not given, elsewhere it
                speaks when it likes.
            lockstep: whether time waits for it; as the other side has it if not given.
            lost: what follows when it is lost; as the other side has it if not given.
            watch: only look, and leave the say to others.
            patience: how long to wait for answers [s].

        Raises:
            RunError: nobody answers there.
            ModelError: this is not let in, or somebody else has the say.
        """
        self.client = self._tried(lambda: Client(with_token(url), name, patience=patience))
        self.welcome: Message = self.client.welcome
        self.events: list[Message] = []
        self._measured: dict[str, dict[str, float]] = {}
        self._pictures: dict[tuple[str, str], Message] = {}
        self._orders: list[Message] = []
        self.client.told = self._hear
        self.lockstep = bool(self.welcome["lockstep"]) if lockstep is None else lockstep
        hertz = None if rate is None else to_si(rate, "frequency")
        self._watches = watch
        if watch:
            self.lockstep = False
        else:
            asked = hertz or (1 / self.welcome["step"] if self.lockstep else 0.0)
            self._ask("take", rate=asked, lockstep=self.lockstep, lost=lost)
        h = self.welcome["step"]
        speaks = hertz or (1 / h if self.lockstep else _RATE)
        self.period = max(1, round(1 / (speaks * h))) * h
        self._renew(hertz)

    def _renew(self, hertz: float | None) -> None:
        """Find out how everything is for the first time."""
        if self.lockstep:
            self.client.welcome["lockstep"] = True
            # Time stands until somebody lets it go on.
            self._ask("play")
            self._state = self._tried(self.client.turn)
            return
        self._ask("watch", state=hertz or _RATE)
        while self.client.state is None:
            self._tried(lambda: self.client.hear(self.client.patience))
        self._state = self.client.state

    def __enter__(self) -> Connection:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Say goodbye."""
        self.client.close()

    # What there is.

    @cached_property
    def scene(self) -> Scene:
        """What is on the other side, without shapes that are meshes."""
        from mooring.formats import read_scene

        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "robot.json"
            file.write_text(json.dumps(self.welcome["document"]), encoding="utf-8")
            return read_scene(file)

    @property
    def robot(self) -> Robot:
        """Everything in the scene."""
        return self.scene.robot

    @cached_property
    def tree(self) -> Tree:
        """Of the robot."""
        return self.robot.tree()

    @property
    def driven(self) -> list[str]:
        """Names of the joints that have a motor that is on."""
        return [name for name, joint in self.welcome["joints"].items() if joint["driven"]]

    # How it is.

    @property
    def state(self) -> Instant:
        """How everything is now, as far as is known here."""
        said = self._state
        return Instant(said["time"], said["positions"], said["velocities"], said["efforts"])

    @property
    def time(self) -> float:
        """[s]"""
        return float(self._state["time"])

    @property
    def signals(self) -> dict[str, bool]:
        """All signals of devices, by whole name."""
        return dict(self._state["signals"])

    @property
    def held(self) -> dict[str, str]:
        """The link that each suction cup or magnet holds, by its name; empty for none."""
        return dict(self._state["held"])

    @property
    def fault(self) -> str:
        """What holds a machine up; empty if nothing does."""
        return str(self._state["fault"])

    def pose(self, link: str) -> Array:
        """Where a link is now, (4, 4).

        Raises:
            ModelError: no link has that name.
        """
        number = self.tree.link(link)
        positions = self._state["positions"]
        q = np.array([positions[name] for name in self.tree.coordinates])
        return np.asarray(link_poses(self.tree, q)[number])

    def read(self, sensor: str) -> dict[str, float] | None:
        """The latest measurement of a sensor that has arrived by now, by name; None before any.

        Raises:
            ModelError: no sensor has that name.
        """
        if sensor not in self._measured and sensor not in self._watched:
            self._ask("watch", sensors=[*self._watched, sensor])
            self._watched.append(sensor)
            self._ask("read", sensor=sensor)
        return self._measured.get(sensor)

    def look(self, sensor: str, channel: str = "color") -> Message | None:
        """The latest picture of a camera: a message with its file in `data`; None before any.

        Raises:
            ModelError: no sensor has that name.
        """
        self.read(sensor)
        return self._pictures.get((sensor, channel))

    @cached_property
    def _watched(self) -> list[str]:
        return []

    # What it is told.

    def command(
        self,
        positions: Mapping[str, float | str] | None = None,
        velocities: Mapping[str, float | str] | None = None,
        efforts: Mapping[str, float | str] | None = None,
    ) -> None:
        """Tell motors what to do, by joint; see `Simulation.command`."""
        self._order("command", positions=_plain(positions), velocities=_plain(velocities),
                    efforts=_plain(efforts))  # fmt: skip

    def push(
        self,
        link: str,
        force: ArrayLike = (0.0, 0.0, 0.0),
        *,
        at: ArrayLike | None = None,
        moment: ArrayLike = (0.0, 0.0, 0.0),
    ) -> None:
        """Push a link until told otherwise; see `Simulation.push`."""
        self._order("push", link=link, force=_triple(force), moment=_triple(moment),
                    at=None if at is None else _triple(at))  # fmt: skip

    def follow(self, courses: Mapping[str, Sequence[tuple[float | str, float | str]]]) -> None:
        """Let motors pass through positions at times; see `Simulation.follow`."""
        rows = {joint: [list(row) for row in course] for joint, course in courses.items()}
        self._do("follow", courses=rows)

    def go(self, goal: str | Mapping[str, float | str], over: float | str | None = None) -> None:
        """Bring joints to a posture, or to positions; see `Simulation.go`."""
        what: Message = {"posture": goal} if isinstance(goal, str) else {"positions": _plain(goal)}
        self._do("go", over=over, **what)

    def roll(self, wheels: Sequence[str], forward: float | str, turn: float | str = 0.0) -> None:
        """Go on wheels; see `Simulation.roll`."""
        self._do("roll", wheels=list(wheels), forward=forward, turn=turn)

    def hold(self, *joints: str) -> None:
        """Let motors keep joints where they are; see `Simulation.hold`."""
        self._do("hold", joints=joints)

    def relax(self, *joints: str) -> None:
        """Let motors give nothing; see `Simulation.relax`."""
        self._do("relax", joints=joints)

    def follow_motion(self, *joints: str) -> None:
        """Let motors follow the motion again; see `Simulation.follow_motion`."""
        self._do("rejoin", joints=joints)

    def grip(self, name: str, on: bool = True) -> None:
        """Switch a suction cup or magnet; see `Simulation.grip`."""
        self._do("grip", name=name, on=on)

    def convey(self, name: str, speed: float | str) -> None:
        """Let a conveyor run; see `Simulation.convey`."""
        self._do("convey", name=name, speed=speed)

    def attach(self, first: str, second: str) -> None:
        """Hold two links together; see `Simulation.attach`."""
        self._do("attach", first=first, second=second)

    def release(self, first: str, second: str) -> None:
        """Let two links go; see `Simulation.release`."""
        self._do("release", first=first, second=second)

    def signal(self, name: str, value: bool) -> None:
        """Set an input of a device; see `Simulation.signal`."""
        self._do("signal", values={name: value})
        self._state["signals"][name] = value

    # Time.

    def step(self, count: int = 1, *, seconds: float | str | None = None) -> bool:
        """Go on by some time steps, or by a time: whole periods of this controller.

        Returns:
            False when the simulation ended.

        Raises:
            ModelError: an order given before cannot be done; time stands then, in lock-step.
            RunError: the other side is gone.
        """
        h = self.welcome["step"]
        span = count * h if seconds is None else to_si(seconds, "time")
        if not self.lockstep:
            # States come at times of their own, a period apart.
            return self._wait_until(self.time + span - 0.5 * min(span, self.period))
        periods = max(1, math.ceil(span / self.period - 1e-6))
        orders, self._orders = self._orders, []
        try:
            self._state = self._tried(lambda: self.client.advance(*orders, periods=periods))
        except RunError:
            if self._ended():
                return False
            raise
        return True

    def reset(self) -> None:
        """Go back to the start, and let time go on from there.

        Raises:
            ModelError: this is a machine, or somebody else has the say.
            RunError: the other side is gone.
        """
        self._refuse_watching()
        self._orders, self.events = [], []
        self._measured.clear()
        self._pictures.clear()
        self._ask("reset")
        if self.lockstep:
            self._state = self._tried(lambda: self.client.turn(self.client.patience))
            while self._state["time"] > 0.0:
                self._state = self._tried(lambda: self.client.turn(self.client.patience))
        else:
            self._wait_until(-1.0)

    def run(self, controller: Callable[[Any], None], seconds: float | str = math.inf) -> bool:
        """Call a controller each period, for a time.

        Returns:
            False when the simulation ended before.

        Raises:
            ModelError: it gave an order that cannot be done.
            RunError: the other side is gone.
        """
        ends = self.time + (seconds if isinstance(seconds, float) else to_si(seconds, "time"))
        while self.time < ends - 1e-9:
            controller(self)
            if not self.step(seconds=self.period):
                return False
        return True

    def _wait_until(self, time: float) -> bool:
        # What came meanwhile is heard first: the newest state counts, and what was refused.
        refused = ""
        while (self._state["time"] < time - 1e-9 and not refused) or self.client.pending():
            message = self._tried(lambda: self.client.hear(self.client.patience))
            if message["kind"] == "state":
                self._state = message
            elif message["kind"] == "answer" and not message["ok"]:
                refused = refused or message["words"]
            if self._ended():
                return False
        if refused:
            raise ModelError(refused)
        return True

    def _ended(self) -> bool:
        return any(event["what"] == "ended" for event in self.events)

    def _order(self, kind: str, **fields: Any) -> None:
        """What may wait for the next period; where time goes on, no order waits for an answer."""
        self._refuse_watching()
        if self.lockstep:
            self._orders.append({"kind": kind, **fields})
        else:
            self._tried(lambda: self.client.say(kind, **fields))

    def _refuse_watching(self) -> None:
        if self._watches:
            raise ModelError("this connection only watches; connect without watch=True")

    def _do(self, kind: str, **fields: Any) -> None:
        """What shows at once in lock-step."""
        self._refuse_watching()
        if self.lockstep:
            self._ask(kind, **fields)
        else:
            self._order(kind, **fields)

    def _ask(self, kind: str, **fields: Any) -> Message:
        answer: Message = self._tried(lambda: self.client.ask(kind, **fields))
        return answer

    def _tried(self, call: Callable[[], Any]) -> Any:
        try:
            return call()
        except RefusedError as error:
            raise ModelError(str(error)) from None
        except LostError as error:
            raise RunError(str(error)) from None

    def _hear(self, message: Message) -> None:
        kind = message["kind"]
        if kind == "measurement":
            self._measured[message["sensor"]] = {"time": message["time"], **message["values"]}
        elif kind == "scan":
            self._measured[message["sensor"]] = {"time": message["time"]} | {
                f"{layer}.{ray}": math.inf if far is None else far
                for layer, ranges in enumerate(message["ranges"])
                for ray, far in enumerate(ranges)
            }
        elif kind == "image":
            self._measured[message["sensor"]] = {"time": message["time"]}
            self._pictures[message["sensor"], message["channel"]] = message
        elif kind == "event":
            self.events.append(message)


@proven
def connect(url: str, **options: Any) -> Connection:
    """Connect to a simulation or machine that speaks Mooring's messages, and take the say.

    Args:
        url: ws://... as `mooring run --listen` prints it, or mqtt://host/base.
        options: as for `Connection`: name, rate, lockstep, lost, watch, patience.

    Returns:
        What a controller uses as it would use a `Simulation`.

    Raises:
        RunError: nobody answers there.
        ModelError: this is not let in, or somebody else has the say.

    Example:
        `with mooring.connect("ws://127.0.0.1:8640", rate=100) as machine: machine.run(gait)`
    """
    return Connection(url, **options)


def _plain(values: Mapping[str, float | str] | None) -> dict[str, float | str]:
    return {
        joint: value if isinstance(value, str) else float(value)
        for joint, value in (values or {}).items()
    }


def _triple(values: ArrayLike) -> list[float]:
    return [float(value) for value in np.asarray(values, dtype=float)]
