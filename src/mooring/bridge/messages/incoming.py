"""What a program may say to a simulation or machine."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from mooring.bridge.messages.base import Message, Name, Quantity, Text, Triple

Safe = Literal["hold", "relax", "stop"]
"""What follows when a controller is lost or says what cannot be done: motors keep joints where they
are; motors give nothing; motors hold, and time stops."""
Values = dict[Name, Quantity]
Rate = Annotated[float, Field(ge=0, le=10_000)]


class Said(Message):
    """What every message from a program has.

    Attributes:
        id: comes back in the answer; without it only what is wrong is answered.
    """

    moves: ClassVar[bool] = False
    """Whether only the program that has the say may say it, and a wrong one is a reason to go to
    the safe behaviour."""
    rules: ClassVar[bool] = False
    """Whether only the program that has the say may say it, if there is one."""

    id: int | Annotated[str, Field(max_length=100)] | None = None


class Order(Said):
    """What makes something move.

    Attributes:
        seen: the time of the state it was made from [s]; if that is older than two periods, it is
            refused as stale.
    """

    moves: ClassVar[bool] = True

    seen: Annotated[float, Field(ge=0)] | None = None


class Hello(Said):
    """The first message: who it is. The answer is a welcome.

    Attributes:
        name: of the program.
        version: of the messages that it speaks.
    """

    name: Name
    version: Text = "1"


class Watch(Said):
    """What it wants to hear from now on; what is not named stays as it is.

    Attributes:
        state: states a second of simulated time [Hz]; 0 for none.
        poses: poses a second [Hz]; 0 for none.
        frames: frames and links whose poses it wants; all frames if not given.
        sensors: whose measurements it wants.
        pictures: whether pictures of cameras among them are color, depth, or both, as they have.
        format: of color pictures.
    """

    state: Rate | None = None
    poses: Rate | None = None
    frames: tuple[Name, ...] | None = None
    sensors: tuple[Name, ...] | None = None
    pictures: tuple[Literal["color", "depth"], ...] | None = None
    format: Literal["png", "jpeg"] | None = None


class Take(Said):
    """Ask for the say: from then on this program controls.

    Attributes:
        rate: how often it will say something [Hz]; when two periods pass without a word it is lost.
            0 for a program that speaks when it likes.
        lockstep: whether time waits for its `Advance` each period; as the server does if not given.
        lost: the safe behaviour; the server's if not given.
    """

    rate: Rate = 0.0
    lockstep: bool | None = None
    lost: Safe | None = None


class Leave(Said):
    """Give the say back; motors do what they were told last."""


class Command(Order):
    """Tell motors what to do, by joint, until told otherwise; as `Simulation.command`.

    Attributes:
        positions: [rad or m].
        velocities: [rad/s or m/s].
        efforts: [N m or N].
    """

    positions: Values = Field(default_factory=dict)
    velocities: Values = Field(default_factory=dict)
    efforts: Values = Field(default_factory=dict)


class Go(Order):
    """Bring joints to a posture, or to positions by joint, smoothly.

    Attributes:
        posture: the name of one.
        positions: instead [rad or m].
        over: how long it takes [s]; as fast as velocity limits allow if not given.
    """

    posture: Name | None = None
    positions: Values = Field(default_factory=dict)
    over: Quantity | None = None


class Follow(Order):
    """Let joints pass through positions at times from now on.

    Attributes:
        courses: by joint, a list of times from now [s] and positions [rad or m].
    """

    courses: dict[Name, Annotated[list[tuple[Quantity, Quantity]], Field(max_length=10_000)]]


class Roll(Order):
    """Go on wheels until told otherwise: a planar twist.

    Attributes:
        wheels: joints that turn them.
        forward: along x of what they carry [m/s].
        turn: about its z, positive to the left [rad/s].
    """

    wheels: tuple[Name, ...]
    forward: Quantity = 0.0
    turn: Quantity = 0.0


class Push(Order):
    """Push a link until told otherwise.

    Attributes:
        link: which.
        force: [N], world axes.
        moment: [N m], world axes.
        at: where, in the link [m]; its centre of mass if not given.
    """

    link: Name
    force: Triple = (0.0, 0.0, 0.0)
    moment: Triple = (0.0, 0.0, 0.0)
    at: Triple | None = None


class Attach(Order):
    """Hold two links together as they are.

    Attributes:
        first, second: which.
    """

    first: Name
    second: Name


class Release(Order):
    """Let two links go that were attached.

    Attributes:
        first, second: which.
    """

    first: Name
    second: Name


class Grip(Order):
    """Switch a suction cup or magnet.

    Attributes:
        name: which.
        on: or off.
    """

    name: Name
    on: bool = True


class Convey(Order):
    """Let a conveyor run at a speed from now on.

    Attributes:
        name: which.
        speed: [m/s].
    """

    name: Name
    speed: Quantity


class Signal(Order):
    """Set inputs of devices.

    Attributes:
        values: by whole name, such as `clamp.open`.
    """

    values: dict[Name, bool]


class Hold(Order):
    """Let motors keep joints where they are.

    Attributes:
        joints: which; all if none is named.
    """

    joints: tuple[Name, ...] = ()


class Relax(Order):
    """Let motors give nothing until they are told something.

    Attributes:
        joints: which; all if none is named.
    """

    joints: tuple[Name, ...] = ()


class Rejoin(Order):
    """Let motors follow the motion of the scene again.

    Attributes:
        joints: which; all if none is named.
    """

    joints: tuple[Name, ...] = ()


class Advance(Order):
    """In lock-step: let time go on to the next period. The answer is the next state.

    Attributes:
        orders: done before, one after the other; none is done if one cannot be read.
        periods: how many to go on.
    """

    orders: Annotated[tuple[dict[str, Any], ...], Field(max_length=1000)] = ()
    periods: Annotated[int, Field(ge=1, le=1_000_000)] = 1


class Read(Said):
    """Ask for the latest measurement of a sensor.

    Attributes:
        sensor: which.
    """

    sensor: Name


class Play(Said):
    """Let time go on."""

    rules: ClassVar[bool] = True


class Pause(Said):
    """Let time stand."""

    rules: ClassVar[bool] = True


class Step(Said):
    """Go on by so many time steps, and stand.

    Attributes:
        count: of steps.
    """

    rules: ClassVar[bool] = True

    count: Annotated[int, Field(ge=1, le=1_000_000)] = 1


class Reset(Said):
    """Go back to the start.

    Attributes:
        play: whether time goes on at once.
    """

    rules: ClassVar[bool] = True

    play: bool = True


class Pace(Said):
    """How fast time goes.

    Attributes:
        speed: times real time; 0 for as fast as it goes.
    """

    rules: ClassVar[bool] = True

    speed: Annotated[float, Field(ge=0, le=1000)]


class Clear(Said):
    """Reset the fault of a machine, so that it can be commanded again."""

    rules: ClassVar[bool] = True


class Diagnose(Said):
    """Ask what went wrong so far; the answer is `Findings`."""


class Bye(Said):
    """The last message."""


_KINDS: tuple[type[Said], ...] = (
    Hello, Watch, Take, Leave, Command, Go, Follow, Roll, Push, Attach, Release, Grip, Convey,
    Signal, Hold, Relax, Rejoin, Advance, Read, Play, Pause, Step, Reset, Pace, Clear, Diagnose,
    Bye,
)  # fmt: skip
INCOMING: dict[str, type[Said]] = {message.kind: message for message in _KINDS}
