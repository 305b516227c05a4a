"""What a simulation or machine says."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from mooring.bridge.messages.base import Message, Name, Text

Time = Annotated[float, Field(description="Simulated time, or that of the machine's clock [s].")]
Pose = Annotated[
    tuple[float, float, float, float, float, float, float],
    Field(description="Place [m], and orientation as quaternion x, y, z, w; in the world."),
]


class JointFacts(Message):
    """What is known of a joint.

    Attributes:
        type: of the joint.
        unit: of its position: rad or m.
        lower, upper: limits of the position; null where there is none.
        velocity, effort: limits; null where there is none.
        driven: how its motor is driven: position, velocity, effort or motion; null without one.
    """

    type: Text
    unit: Literal["rad", "m"]
    lower: float | None
    upper: float | None
    velocity: float | None
    effort: float | None
    driven: Literal["position", "velocity", "effort", "motion"] | None


class SensorFacts(Message):
    """What is known of a sensor.

    Attributes:
        type: of the sensor, as a document says it.
        rate: measurements a second [Hz].
        values: what a measurement holds, by name; empty for pictures and scans.
        frame: where it sits; its link if it sits there; null if it is in a joint.
        settings: the rest of what the document says.
    """

    type: Text
    rate: float
    values: tuple[Text, ...]
    frame: Text | None
    settings: dict[str, Any]


class Welcome(Message):
    """What there is, told to whoever connects.

    Attributes:
        version: of the messages.
        name: of the robot or scene.
        source: what speaks: a simulation, a machine, or a replay.
        time: now.
        step: the time step [s].
        document: the robot or scene as a resolved document, without meshes.
        left_out: what the document lacks.
        joints: by name.
        sensors: by name.
        frames, links: names of what has a pose.
        postures: by name, positions by joint.
        inputs, outputs: whole names of signals.
        grips, conveyors: by name.
        controller: who has the say; null for nobody.
        lockstep: whether time waits for the controller.
        lost: the safe behaviour.
    """

    version: Text
    name: Text
    source: Literal["simulation", "machine", "replay"]
    time: Time
    step: float
    document: dict[str, Any]
    left_out: tuple[Text, ...]
    joints: dict[Name, JointFacts]
    sensors: dict[Name, SensorFacts]
    frames: tuple[Name, ...]
    links: tuple[Name, ...]
    postures: dict[Name, dict[Name, float]]
    inputs: tuple[Name, ...]
    outputs: tuple[Name, ...]
    grips: tuple[Name, ...]
    conveyors: tuple[Name, ...]
    controller: Text | None
    lockstep: bool
    lost: Literal["hold", "relax", "stop"]


class State(Message):
    """How everything is.

    Attributes:
        time: when.
        positions: of joints [rad or m], and coordinates of what floats, such as `base.z` [m] and
            `base.qw`.
        velocities: of joints [rad/s or m/s], and of what floats, in its own axes, such as `base.vx`
            [m/s] and `base.wz` [rad/s].
        efforts: of motors in the last step, by joint [N m or N].
        signals: of devices, by whole name.
        held: the link that each suction cup or magnet holds; empty for none.
        turn: whether time waits for the receiver's `Advance`.
        fault: what holds a machine up; empty if nothing does.
        number: of the states that were made for the receiver, from 1 on.
        left_out: how many of them were left out since the last that it got, as newer ones came.
        sent: when it was sent, by the clock of the sender, in seconds since 1970 (UTC).
    """

    time: Time
    positions: dict[Name, float]
    velocities: dict[Name, float]
    efforts: dict[Name, float]
    signals: dict[Name, bool] = Field(default_factory=dict)
    held: dict[Name, Text] = Field(default_factory=dict)
    turn: bool = False
    fault: Text = ""
    number: int = 0
    left_out: int = 0
    sent: float = 0.0


class Poses(Message):
    """Where frames and links are.

    Attributes:
        time: when.
        poses: by name.
    """

    time: Time
    poses: dict[Name, Pose]


class Measurement(Message):
    """What a sensor measured.

    Attributes:
        time: when it was taken.
        sensor: which.
        values: by name, in SI.
    """

    time: Time
    sensor: Name
    values: dict[Name, float]


class Scan(Message):
    """What a range scanner measured.

    Attributes:
        time: when it was taken.
        sensor: which.
        ranges: distances of each layer, from right to left [m]; null where a ray meets nothing.
    """

    time: Time
    sensor: Name
    ranges: tuple[tuple[float | None, ...], ...]


class Image(Message):
    """What a camera saw.

    Attributes:
        time: when it was taken.
        sensor: which.
        channel: color or depth.
        format: png or jpeg; depth is PNG of 16 bits.
        unit: of a depth [m]: a pixel times this; 0 where there is nothing.
        data: the file: bytes in CBOR, base64 in JSON.
        left_out: pictures since the last one that were not drawn, for want of time.
    """

    time: Time
    sensor: Name
    channel: Literal["color", "depth"]
    format: Literal["png", "jpeg"]
    unit: float | None
    data: bytes
    left_out: int = 0


class Event(Message):
    """Something happened.

    Attributes:
        time: when.
        what: a word for programs.
        words: for people.
        who: the program it is about; null if it is about none.
    """

    time: Time
    what: Literal[
        "joined", "left", "controls", "controls-no-more", "lost", "safe", "playing", "paused",
        "reset", "ended", "signal", "dropped", "slow-reader", "fault", "fault-cleared",
        "interrupted", "behind",
    ]  # fmt: skip
    words: Text
    who: Text | None = None


class Finding(Message):
    """One finding of a diagnosis.

    Attributes:
        code: of the kind of finding.
        item: what it is about.
        since: when it began [s].
        message, remedy: in words.
    """

    code: Text
    item: Text
    since: Time
    message: str
    remedy: str


class Findings(Message):
    """What went wrong, the likely cause of the rest first.

    Attributes:
        id: of the question.
        findings: none if nothing was found.
        notes: what the run has to say besides.
    """

    id: int | str | None = None
    findings: tuple[Finding, ...]
    notes: tuple[str, ...]


class Answer(Message):
    """What became of a message.

    Attributes:
        id: of the message; null if it had none.
        to: its kind; empty if it could not be read.
        ok: whether it was done.
        code: why not, for programs.
        words: why not, for people.
    """

    id: int | str | None
    to: Text
    ok: bool
    code: Literal[
        "", "malformed", "too-large", "too-often", "unknown-kind", "invalid", "version",
        "not-yours", "taken", "stale", "limits", "refused", "fault", "not-here",
    ] = ""  # fmt: skip
    words: str = ""


_KINDS: tuple[type[Message], ...] = (
    Welcome, State, Poses, Measurement, Scan, Image, Event, Findings, Answer,
)  # fmt: skip
OUTGOING: dict[str, type[Message]] = {message.kind: message for message in _KINDS}
