"""`Follower`: the newest joint states of a machine, or of a file, as they come."""

from __future__ import annotations

import contextlib
import re
import threading
import time
from abc import ABC, abstractmethod
from pathlib import Path
from urllib.parse import urlsplit

import numpy as np

from mooring.access import with_token
from mooring.bridge.wire import Client, LostError, RefusedError, SilentError
from mooring.errors import InputError, RunError
from mooring.files import write_whole
from mooring.geometry import Array
from mooring.kinematics import loop_freedoms
from mooring.kinematics.loops import close_loops
from mooring.model import Robot
from mooring.model.compiling import SPEEDS
from mooring.tree import Tree
from mooring.units import to_si

_RATE = 60.0
_SLACK = 0.01
"""By which a machine may stand beyond its limits without a word."""
_AGAIN = 1.0
"""Before it is tried again to connect [s]."""
_MOST = 1_000_000
"""States that are kept."""
_UNIT = re.compile(r"(?P<name>.*?)\s*\[(?P<unit>[^\]]+)\]")
"""A unit behind the name of a column."""
_QUIET = 1.0
"""An age that is worth a word [s]."""


class Follower(ABC):
    """What is followed.

    Attributes:
        source: where it comes from, in words.
        problem: why nothing comes; empty while it does.
        positions: the newest, by joint and by coordinate of what floats.
        time: its time [s].
        came: when it came, by this computer's clock [s].
        number: grows with each that comes.
    """

    def __init__(self, source: str) -> None:
        """Nothing came yet."""
        self.source = source
        self.problem = "nothing was heard yet"
        self.positions: dict[str, float] = {}
        self.time = 0.0
        self.came = time.monotonic()
        self.number = 0
        self.kept: list[tuple[float, dict[str, float]]] = []
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._run, name="following", daemon=True)

    def start(self) -> None:
        """Begin to listen."""
        self._thread.start()

    def close(self) -> None:
        """End it."""
        self._over.set()
        self._thread.join(2.0)

    @property
    def age(self) -> float:
        """How long ago the newest came [s]."""
        return time.monotonic() - self.came

    def words(self) -> str:
        """How it stands, for people."""
        if self.problem:
            return f"{self.source}: {self.problem}"
        if self.age > _QUIET:
            return f"{self.source}: quiet for {self.age:.0f} s, since {self.time:.2f} s"
        full = f", only the first {_MOST:,} states are kept" if len(self.kept) >= _MOST else ""
        return f"{self.source}: {self.time:.2f} s{full}"

    @abstractmethod
    def _run(self) -> None:
        """Take what comes, until it is over."""

    def _came(self, moment: float, positions: dict[str, float]) -> None:
        self.time, self.positions, self.problem = moment, positions, ""
        self.came = time.monotonic()
        self.number += 1
        if len(self.kept) < _MOST:
            self.kept.append((moment, positions))

    def write(self, file: Path) -> None:
        """Write what came as a table with the index `time`: Parquet, or CSV.

        It can be followed as the machine was.
        """
        import pandas as pd

        times = [moment for moment, _ in self.kept]
        table = pd.DataFrame([p for _, p in self.kept], index=pd.Index(times, name="time"))
        with write_whole(file) as stream:
            if file.suffix.lower() == ".csv":
                table.to_csv(stream, lineterminator="\n")
            else:
                table.to_parquet(stream)


class _Live(Follower):
    def __init__(self, url: str) -> None:
        # Without what lets one in.
        parts = urlsplit(url)
        super().__init__(f"{parts.scheme}://{parts.netloc.rpartition('@')[2]}{parts.path}")
        self._url = url

    def _run(self) -> None:
        while not self._over.is_set():
            try:
                with Client(with_token(self._url), "mooring open") as client:
                    self.problem = "connected, and nothing was said yet"
                    client.ask("watch", state=_RATE)
                    while not self._over.is_set():
                        try:
                            message = client.hear(_AGAIN)
                        except SilentError:
                            continue
                        if message["kind"] == "state":
                            self._came(float(message["time"]), dict(message["positions"]))
            except (LostError, RefusedError) as error:
                self.problem = str(error)
            self._over.wait(_AGAIN)


class _Filed(Follower):
    def __init__(self, file: Path, speed: float) -> None:
        super().__init__(file.name)
        self._times, self._columns, self._values = _read(file)
        self._speed = speed

    def _run(self) -> None:
        began = time.monotonic()
        for moment, row in zip(self._times, self._values, strict=True):
            due = began + (moment - self._times[0]) / self._speed
            if self._over.wait(max(0.0, due - time.monotonic())):
                return
            said = {
                name: float(value)
                for name, value in zip(self._columns, row, strict=True)
                if np.isfinite(value)
            }
            self._came(float(moment), said)


def _read(file: Path) -> tuple[Array, list[str], Array]:
    """Times, names and positions of a table."""
    import pandas as pd

    try:
        is_csv = file.suffix.lower() == ".csv"
        table = pd.read_csv(file) if is_csv else pd.read_parquet(file).reset_index()
    except (OSError, ValueError, ImportError) as error:
        raise InputError(f"{file}: no table of joint states: {error}") from None
    if "time" not in table.columns:
        raise InputError(f"{file}: it has no column time [s]")
    columns = [str(name) for name in table.columns if name != "time"]
    wanted = [name for name in columns if _bare(name).endswith(".position")]
    joints = {_bare(name).removesuffix(".position") for name in wanted}
    wanted += [
        name for name in columns
        if name not in wanted
        and not _is_no_position(name, joints)
        and pd.api.types.is_numeric_dtype(table[name])
    ]  # fmt: skip
    times = table["time"].to_numpy()
    if not np.issubdtype(times.dtype, np.number) or not len(times):
        raise InputError(f"{file}: its times are no seconds")
    if not np.isfinite(times).all() or (np.diff(times) < 0).any():
        raise InputError(f"{file}: its times do not grow")
    values = table[wanted].to_numpy(dtype=float)
    names = []
    for column, name in enumerate(wanted):
        if (unit := _UNIT.fullmatch(name)) is not None:
            name = unit["name"]
            values[:, column] *= _factor(file, unit["unit"])
        names.append(name.removesuffix(".position"))
    return times.astype(float), names, values


def _bare(name: str) -> str:
    """The head of a column without its unit."""
    unit = _UNIT.fullmatch(name)
    return name if unit is None else unit["name"]


def _factor(file: Path, unit: str) -> float:
    """From a unit in the head of a column to SI."""
    for dimension in ("angle", "length"):
        with contextlib.suppress(ValueError):
            return to_si(f"1 {unit}", dimension)
    raise InputError(f"{file}: {unit!r} is no unit of an angle or a length")


def _is_no_position(name: str, joints: set[str]) -> bool:
    """Whether it is what the recording of a run has besides positions."""
    begin, _, end = name.rpartition(".")
    other = begin in joints and end in ("velocity", "target", "effort", "integral")
    return other or begin in ("energy", "loops") or (bool(begin) and end in SPEEDS)


def follow(source: str, *, speed: float = 1.0) -> Follower:
    """Follow a machine or simulation, or a file of joint states.

    Args:
        source: ws://..., mqtt://host/base, or a file: CSV or Parquet with a column `time` [s] and
            one for each joint, by its name or `<joint>.position` [rad or m], or with its unit:
            `slew [deg]`.
        speed: of a file, times that of its times.

    Raises:
        InputError: the file is no such table.
    """
    if urlsplit(source).scheme in ("ws", "wss", "mqtt", "mqtts"):
        return _Live(source)
    return _Filed(Path(source), speed)


def posture_of(
    robot: Robot, tree: Tree, q: Array, positions: dict[str, float]
) -> tuple[Array, list[str]]:
    """How a robot stands, from what is known of its joints.

    What is not told follows from couplings and loops where it can, and stays where it was
    otherwise.

    Args:
        robot, tree: which.
        q: where it stood, (n,).
        positions: what is known.

    Returns:
        (n,); what of it does not fit, in words: names that are not known here, joints that nothing
        is said of and nothing else leads, joints that are told to be beyond their limits.
    """
    known = {name: value for name, value in positions.items() if name in tree.coordinates}
    unknown = [name for name in positions if name not in tree.coordinates]
    stands = q.copy()
    for name, value in known.items():
        stands[tree.coordinate(name)] = value
    missing = [name for name in tree.coordinates if name not in known and name in robot.joints]
    tied = loop_freedoms(tree)
    if any(tied[tree.freedom(name)] for name in missing):
        driven = [name for name in known if name in robot.joints]
        # A machine may stand as its description cannot: it is shown as it says all the same.
        with contextlib.suppress(RunError):
            stands = close_loops(tree, stands, driven, "what was heard")
    silent = [name for name in missing if not tied[tree.freedom(name)]]
    words = []
    if unknown:
        words.append(f"not known here: {', '.join(unknown)}")
    if silent:
        words.append(f"nothing is said of {', '.join(silent)}")
    if beyond := [name for name in known if _is_beyond(robot, name, known[name])]:
        words.append(f"beyond their limits: {', '.join(beyond)}; positions are in rad and m")
    return stands, words


def _is_beyond(robot: Robot, joint: str, position: float) -> bool:
    limits = robot.joints[joint].limits if joint in robot.joints else None
    if limits is None:
        return False
    low, high = limits.lower, limits.upper
    slack = _SLACK * max(1.0, abs(position))
    return (low is not None and position < low - slack) or (
        high is not None and position > high + slack
    )
