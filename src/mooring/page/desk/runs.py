"""Runs that were made, kept until they are let go of."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from mooring.errors import ModelError
from mooring.formats import write_scene
from mooring.simulation import Recording
from mooring.simulation.playing import Player
from mooring.simulation.recording.run_folder import MODEL_FILE, whole_folder
from mooring.simulation.recording.stored import write_recording

_MOST = 8


@dataclass(eq=False)
class KeptRun:
    """A run that is over, or was left.

    Attributes:
        name: to tell it by.
        player: what ran it.
        motion: the motion that was followed; None for that of the scene.
        hold: whether it followed none, and held a posture.
        seconds: how long it went [s].
        recording: what was recorded, once somebody wanted it.
        saved: the folder it was written into; None as long as it was not.
    """

    name: str
    player: Player
    motion: str | None
    hold: bool
    seconds: float
    recording: Recording | None = None
    saved: Path | None = None

    def recorded(self) -> Recording:
        """What was recorded, with what went wrong; it takes a moment, once."""
        with self.player.lock:
            if self.recording is None:
                self.recording = self.player.simulation.recording
            return self.recording

    def save(self, folder: Path) -> None:
        """Write it as `mooring run` does, so that `mooring open` and `film` read it.

        Raises:
            InputError: it cannot be written there.
        """
        recording = self.recorded()
        with whole_folder(folder, force=False) as work:
            recording.run = work.run
            write_recording(recording, work.path)
            write_scene(self.player.simulation.scene, work.path / MODEL_FILE)
        self.saved = folder


class Runs:
    """The runs of a session.

    Attributes:
        kept: the latest first.
        news: what is to be told once, of them and of what became of the posture.
        number: grows with every change.
    """

    def __init__(self) -> None:
        self.kept: list[KeptRun] = []
        self.news: list[str] = []
        self.number = 0
        self._count = 0

    def keep(
        self, player: Player, motion: str | None, hold: bool, why: str,
        recording: Recording | None = None,
    ) -> KeptRun | None:  # fmt: skip
        """Keep the run of a player that is left; None where it has not gone a step.

        Args:
            player: that is closed, or whose recording is given.
            motion, hold: what it followed.
            why: it ended, or was left, in words.
            recording: what was recorded until now, of a player that is used again.
        """
        if player.moment().time <= player.began:
            return None
        self._count += 1
        self.number += 1
        run = KeptRun(f"run {self._count}", player, motion, hold, player.moment().time, recording)
        self.kept.insert(0, run)
        words = f"{run.name} ({run.seconds:.2f} s) {why}; it is kept under Run"
        for old in self.kept[_MOST:]:
            if old.saved is None:
                words += f"; {old.name} is let go, as {_MOST} are kept"
        del self.kept[_MOST:]
        self.news.append(words)
        return run

    def of(self, recording: Recording | None) -> KeptRun | None:
        """The run that a recording is of."""
        return next((run for run in self.kept if run.recording is recording), None)

    def called(self, name: str) -> KeptRun:
        """The run of a name.

        Raises:
            ModelError: there is none, or it was let go.
        """
        for run in self.kept:
            if run.name == name:
                return run
        raise ModelError(f"{name} was let go")

    def let_go(self, name: str) -> None:
        """Forget a run."""
        self.kept.remove(self.called(name))
        self.number += 1
