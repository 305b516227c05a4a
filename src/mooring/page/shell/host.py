"""`Host`: keeps the desk going, and tells every window what has changed."""

from __future__ import annotations

import asyncio
import base64
import time
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np

from mooring.errors import MooringError
from mooring.kinematics import link_poses
from mooring.model.sensor import RangeScanner
from mooring.page.desk import Desk
from mooring.page.desk.editing import ProposedEdit
from mooring.page.facts.geometry import geometry
from mooring.page.facts.poses import frame, pack_poses
from mooring.page.facts.structure import structure
from mooring.simulation.sensing.build import place_of
from mooring.simulation.sensing.scanning import Scenery, rays_of, scans

if TYPE_CHECKING:
    from mooring.page.shell.shell import Told

Result = TypeVar("Result")
RATE = 30
"""Frames a second that windows are told, at most."""
_LOOKS = 0.3
"""Between two looks at the files [s]."""
_SLOWER = 0.2
"""Between two updates of what is read and not watched moving [s]."""


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
        self._slow_sent: tuple[Any, ...] = ()
        self._scenery: tuple[int, Scenery] | None = None
        self._prepare()

    def _prepare(self) -> None:
        desk = self.desk
        self.glb = geometry(desk.robot, desk.ground)
        self.structure = structure(desk.robot, desk.tree, desk.ground)

    # What windows are told.

    def model_news(self) -> dict[str, Any]:
        """The model as a window needs it at first."""
        desk = self.desk
        neutral = np.asarray(link_poses(desk.tree, desk.neutral_q))
        return {
            "url": f"/model/{desk.model_number}.glb",
            "structure": self.structure,
            "neutral": pack_poses(neutral),
            "frame": frame(desk.tree, desk.q),
        }

    def frame_news(self) -> dict[str, Any]:
        """Where everything is now: one message."""
        desk = self.desk
        return {**frame(desk.tree, desk.q), "forces": np.round(desk.forces(), 4).tolist()}

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
        why, joint = self.desk.refused
        self.tell("refused", {"joint": joint, "why": why})

    # What goes on.

    async def live(self) -> None:
        """Let time pass, for as long as the server lives."""
        before = slow = time.perf_counter()
        while True:
            await asyncio.sleep(1 / RATE)
            now = time.perf_counter()
            passed, before = now - before, now
            try:
                self.desk.pass_time(min(passed, 0.1))
                self._frame()
                if now - slow > _SLOWER:
                    slow = now
                    self._slowly()
            except MooringError as error:
                self.complain(str(error))

    async def follow_files(self) -> None:
        """Follow the files as they change on disk, for as long as the server lives."""
        while True:
            await asyncio.sleep(_LOOKS)
            if not self._reading.locked() and self.desk.watch.changed():
                await self.reload()

    def _frame(self) -> None:
        state = (self.desk.model_number, self.desk.pose_number)
        if state == self._sent:
            return
        self._sent = state
        if self.windows:
            self.tell("frame", self.frame_news())

    def _slowly(self) -> None:
        """What takes longer, or changes text: overlaps, scans, status."""
        desk = self.desk
        self._say_status()
        wanted = {window.scanner for window in self.windows if window.scanner}
        overlaps = any(window.wants_overlaps for window in self.windows)
        state = (*self._sent, overlaps, tuple(sorted(wanted)))
        if state == self._slow_sent:
            return
        self._slow_sent = state
        pairs = desk.overlaps() if overlaps else []
        for window in self.each():
            window.show_overlaps(pairs)
            window.tell("scan", self._scan(window.scanner) if window.scanner else None)

    def _scan(self, name: str) -> str | None:
        desk = self.desk
        sensor = desk.robot.sensors.get(name)
        if not isinstance(sensor, RangeScanner):
            return None
        if self._scenery is None or self._scenery[0] != desk.model_number:
            self._scenery = desk.model_number, Scenery(desk.robot, desk.tree, desk.ground)
        far = scans(sensor, self._scenery[1], desk.q[None])[0]
        body, place = place_of(desk.tree, sensor)
        pose = np.asarray(link_poses(desk.tree, desk.q))[body] @ place
        met = np.isfinite(far)
        points = (rays_of(sensor)[met] * far[met, None]) @ pose[:3, :3].T + pose[:3, 3]
        return base64.b64encode(points.astype("<f4").tobytes()).decode("ascii")

    async def reload(self) -> None:
        """Read the model anew; while it cannot be read the last good one stays."""
        async with self._reading:
            try:
                opened = await self.waiting("reading", self.desk.read)
            except MooringError as error:
                self.desk.problem = str(error)
            else:
                self.desk.put(opened)
                await self.waiting("reading", self._prepare)
                self.tell("model", self.model_news())
        for window in self.each():
            window.refresh_all()
        if not self.desk.problem:
            self._judging = asyncio.create_task(self.judge())

    async def judge(self) -> None:
        """Find the findings; they count if the model is still the same then."""
        number = self.desk.model_number
        report = await self.waiting("checking", self.desk.judge)
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

    def complain(self, text: str) -> None:
        """Tell everybody of something that failed."""
        for window in self.each():
            window.notify(text)

    async def change(self, proposal: ProposedEdit) -> None:
        """Write a change into the document and follow it.

        Raises:
            InputError: somebody else changed the document meanwhile.
        """
        self.desk.edits_or_refuse().make(proposal)
        await self.reload()

    async def undo(self) -> str:
        """Take the last change back.

        Raises:
            InputError: that is not possible.
        """
        what = self.desk.edits_or_refuse().undo()
        await self.reload()
        return what
