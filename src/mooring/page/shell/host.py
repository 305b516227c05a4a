"""`Host`: keeps the desk going, and tells every window what has changed."""

from __future__ import annotations

import asyncio
import base64
import sys
import time
from collections.abc import Awaitable, Callable, Iterator
from typing import TYPE_CHECKING, Any, TypeVar
from weakref import WeakKeyDictionary

import numpy as np

from mooring.checks import Report
from mooring.errors import InputError, MooringError
from mooring.geometry import Array
from mooring.kinematics import link_poses
from mooring.model import Robot
from mooring.model.sensors import Sensor
from mooring.page.desk import Desk
from mooring.page.desk.desk import overlapping
from mooring.page.desk.editing import Edits, ProposedEdit
from mooring.page.desk.history import Step
from mooring.page.facts.geometry import geometry
from mooring.page.facts.poses import frame, pack_poses
from mooring.page.facts.structure import structure
from mooring.simulation.sensing.scanning import Scenery
from mooring.tree import Tree
from mooring.unforeseen import unforeseen

if TYPE_CHECKING:
    from mooring.page.shell.shell import Told

Result = TypeVar("Result")
RATE = 30
"""Frames a second that windows are told, at most."""
_LOOKS = 0.3
"""Between two looks at the files [s]."""
_SLOWER = 0.2
"""Between two updates of what is read and not watched moving [s]."""


def words_of(error: Exception, what: str) -> str:
    """What to say of something that failed."""
    return str(error) if isinstance(error, MooringError) else unforeseen(error, what)


class Host:
    """One for a server.

    Attributes:
        desk: what everybody looks at.
        windows: that are open.
        glb: the model's geometry.
    """

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self.windows: set[Told] = set()
        self._waiting: list[str] = []
        self._reading = asyncio.Lock()
        self._judging: asyncio.Task[None] | None = None
        self._sent = (-1, -1)
        self._looked: WeakKeyDictionary[Told, tuple[Any, ...]] = WeakKeyDictionary()
        self._swung: str | None = None
        self._done: tuple[int | None, ...] = ()
        self._scenery: tuple[Tree, Scenery] | None = None
        self._prepare()

    def _prepare(self) -> None:
        desk = self.desk
        glb = geometry(desk.robot, desk.ground)
        self.structure = structure(desk.robot, desk.tree, desk.ground)
        self.glb = glb
        # What windows ask of it at once must not be computed while they wait.
        desk.robot.mass()
        desk.documents.look(desk.robot)

    # What windows are told.

    def model_news(self) -> dict[str, Any]:
        """The model as a window needs it at first."""
        desk = self.desk
        neutral = np.asarray(link_poses(desk.tree, desk.standing.neutral))
        return {
            "url": f"/model/{desk.model_number}.glb",
            "structure": self.structure,
            "neutral": pack_poses(neutral),
            "frame": frame(desk.tree, desk.q),
        }

    def frame_news(self) -> dict[str, Any]:
        """Where everything is now: one message."""
        desk = self.desk
        return {
            **frame(desk.tree, desk.q),
            "forces": np.round(desk.instruments.forces(), 4).tolist(),
        }

    def each(self) -> Iterator[Told]:
        """All windows, each while it is the place where new elements go."""
        for window in list(self.windows):
            with window.page:
                yield window

    def tell(self, kind: str, news: Any) -> None:
        """Tell all windows something."""
        for window in self.each():
            window.tell(kind, news)

    def tell_refused(self) -> None:
        why, joint = self.desk.standing.refused
        self.tell("refused", {"joint": joint, "why": why})

    # What goes on.

    async def live(self) -> None:
        """Let time pass, for as long as the server lives."""
        before = slow = time.perf_counter()

        async def step() -> None:
            nonlocal before, slow
            now = time.perf_counter()
            passed, before = now - before, now
            self.desk.pass_time(min(passed, 0.1))
            for window in self.windows:
                window.pass_time(min(passed, 0.1))
            self._frame()
            if now - slow > _SLOWER:
                slow = now
                self._slowly()

        await self._for_ever(1 / RATE, "showing what moves", step)

    async def follow_files(self) -> None:
        """Follow the files as they change on disk, for as long as the server lives."""

        async def look() -> None:
            if not self._reading.locked() and self.desk.watch.changed():
                await self.reload()

        await self._for_ever(_LOOKS, "following the files", look)

    async def _for_ever(self, pause: float, what: str, do: Callable[[], Awaitable[None]]) -> None:
        """Do something again and again; what fails is told once, and does not end it."""
        told = ""
        while True:
            await asyncio.sleep(pause)
            try:
                await do()
            except Exception as error:
                failed = repr(error)
                if failed != told:
                    self.failed(error, what)
                told = failed
            else:
                told = ""

    def _frame(self) -> None:
        state = (self.desk.model_number, self.desk.standing.number)
        if state == self._sent:
            return
        self._sent = state
        if any(window.own is None for window in self.windows):
            news = self.frame_news()
            for window in self.each():
                if window.own is None:
                    window.tell("frame", news)

    def _slowly(self) -> None:
        """What changes text."""
        desk = self.desk
        self._say_status()
        while desk.runs.news:
            words = desk.runs.news.pop(0)
            for window in self.each():
                window.notify(words, "info")
        swing = desk.standing.swing
        swung = None if swing is None else swing.joint
        if swung != self._swung:
            self._swung = swung
            self.tell("swing", swung)
            self.tell_refused()
        looked = None if desk.recording is None else id(desk.recording)
        done = (len(desk.history.past), len(desk.history.future), desk.runs.number, looked)
        if done != self._done:
            self._done = done
            for window in self.each():
                window.refresh_steps()

    async def look_closely(self) -> None:
        """Tell windows what overlaps and what scanners meet, for as long as the server lives."""

        async def look() -> None:
            for window in list(self.windows):
                await self._look_for(window)

        await self._for_ever(_SLOWER, "looking for overlaps and at scanners", look)

    async def _look_for(self, window: Told) -> None:
        """What one window wants to know of how the model stands in it."""
        desk, standing = self.desk, window.standing
        state = (desk.model_number, id(standing), standing.number, window.wants_overlaps,
                 window.scanner)  # fmt: skip
        if state == self._looked.get(window) or not (window.wants_overlaps or window.scanner):
            return
        self._looked[window] = state
        q = standing.q.copy()
        if window.wants_overlaps:
            pairs = await asyncio.to_thread(overlapping, desk.surroundings, q)
            if window in self.windows:
                with window.page:
                    window.show_overlaps(pairs)
        if window.scanner:
            sensor = desk.robot.sensors.get(window.scanner)
            points = await asyncio.to_thread(self._scan, sensor, desk.robot, desk.tree, q)
            if window in self.windows:
                window.tell("scan", points)

    def _scan(self, sensor: Sensor | None, robot: Robot, tree: Tree, q: Array) -> str | None:
        """What a scanner meets, as points; it takes a moment."""
        if sensor is None or sensor.fan is None:
            return None
        if self._scenery is None or self._scenery[0] is not tree:
            self._scenery = tree, Scenery(robot, tree, self.desk.ground)
        far = sensor.look(self._scenery[1], q[None])[0]
        pose = self._scenery[1].frame(sensor, q)
        met = np.isfinite(far)
        points = (sensor.directions()[met] * far[met, None]) @ pose[:3, :3].T + pose[:3, 3]
        return base64.b64encode(points.astype("<f4").tobytes()).decode("ascii")

    async def reload(self) -> None:
        """Read the model anew; while it cannot be read the last good one stays."""
        async with self._reading:
            good, number = self.desk.opened, self.desk.model_number
            try:
                opened = await self.waiting("reading", self.desk.read)
                self.desk.put(opened)
                await self.waiting("reading", self._prepare)
            except Exception as error:
                if self.desk.opened is not good:
                    self.desk.put(good)
                self.desk.problem = words_of(error, "reading the file")
                # What was found of the model that is still shown says nothing of the file.
                self.desk.report = (
                    Report.refused(self.desk.source.file, error)
                    if isinstance(error, InputError)
                    else None
                )
            if number != self.desk.model_number:
                self.tell("model", self.model_news())
        for window in self.each():
            window.refresh_all()
        if not self.desk.problem:
            self._judging = asyncio.create_task(self.judge())

    async def judge(self) -> None:
        """Find the findings; they count if the model is still the same then."""
        number = self.desk.model_number
        try:
            report = await self.waiting("checking", self.desk.judge)
        except Exception as error:
            self.failed(error, "checking")
            return
        if number == self.desk.model_number:
            self.desk.report = report
            for window in self.each():
                window.refresh_findings()

    @property
    def busy(self) -> str:
        """What is being waited for; empty if nothing is."""
        return ", ".join(dict.fromkeys(self._waiting))

    async def waiting(self, what: str, work: Callable[..., Result], *args: Any) -> Result:
        """Do what takes long in a thread, and say so."""
        self._waiting.append(what)
        self._say_status()
        try:
            return await asyncio.to_thread(work, *args)
        finally:
            self._waiting.remove(what)
            self._say_status()

    def _say_status(self) -> None:
        for window in self.each():
            window.refresh_status()

    def failed(self, error: Exception, what: str) -> None:
        """Tell everybody of something that failed."""
        words = words_of(error, what)
        # Who serves may look at the terminal, and whoever looks at the page may not.
        if not isinstance(error, MooringError):
            print(f"mooring: {words}", file=sys.stderr)
        for window in self.each():
            window.notify(words)

    async def change(self, proposal: ProposedEdit, edits: Edits) -> None:
        """Write a change into a document and follow it.

        Raises:
            InputError: somebody else changed the document meanwhile.
        """
        edits.make(proposal)
        self.desk.history.did(proposal)
        await self.reload()

    async def step_back(self) -> str:
        """Take the last step back, a move or a change of the document; in words, what it was.

        Raises:
            InputError: that is not possible.
        """
        return await self._stepped(self.desk.history.past, self.desk.undo)

    async def step_on(self) -> str:
        """Do again what was taken back last; raises as `step_back`."""
        return await self._stepped(self.desk.history.future, self.desk.redo)

    async def _stepped(self, steps: list[Step], do: Callable[[], str]) -> str:
        edited = bool(steps) and isinstance(steps[-1], ProposedEdit)
        try:
            return do()
        finally:
            self.tell("swing", None)
            self.tell_refused()
            if edited:
                await self.reload()
            for window in self.each():
                window.refresh_findings()

    def left(self, window: Told) -> None:
        """A window is closed; nothing is computed for nobody."""
        self.windows.discard(window)
        player = self.desk.player
        if not self.windows and player is not None and self.desk.listening is None:
            player.hold()
