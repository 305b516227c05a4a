"""`Desk`: one model, and what is being done with it."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import ArrayLike

from mooring.bridge.following.follower import Follower, posture_of
from mooring.checks import Report, check
from mooring.errors import InputError, ModelError, MooringError, RunError
from mooring.files import noting_files
from mooring.geometry import Array
from mooring.kinematics import configuration
from mooring.kinematics.overlaps import Surroundings
from mooring.model import Robot
from mooring.page.desk.documents import Documents
from mooring.page.desk.editing import Edits, ProposedEdit
from mooring.page.desk.history import History
from mooring.page.desk.instruments import Instruments
from mooring.page.desk.jogging import Moved, as_place
from mooring.page.desk.listening import Listening
from mooring.page.desk.opened import ModelSource, Opened
from mooring.page.desk.replay import Replay
from mooring.page.desk.runs import KeptRun, Runs
from mooring.page.desk.standing import Standing
from mooring.page.desk.traces import Traces
from mooring.page.desk.watching import FileWatch
from mooring.simulation import Recording, Simulation
from mooring.simulation.playing import KEPT, Player
from mooring.simulation.standing import ground_of
from mooring.tree import Tree


class Desk:
    """What all windows look at.

    Nothing here waits for anything: what takes long (`read`, `judge`, `new_player`) is called in a
    thread by whoever serves the windows, and its result is put on the desk afterwards.

    Attributes:
        source: where the model comes from.
        robot, tree, scene, ground: the model; the last one that could be read.
        standing: how it stands.
        problem: why the file cannot be read as it is now; empty while it can.
        report: the findings; None before they are there.
        follower: the machine that is shown, or None.
        listening: what lets controllers outside connect, or None.
        unheard: what of it does not fit, in words.
        player: the simulation, or None.
        replay: the run that is looked through, or None.
        instruments: what is told of whatever moves it.
        traces: of the simulation.
        opened: what was read for it.
        documents: that are shown, as far as they can be changed.
        history: what can be taken back, and done again.
        runs: that were made, until they are let go of.
        followed: the motion that the simulation follows, and whether it follows none.
        model_number: grows with every new model.
    """

    def __init__(self, source: ModelSource) -> None:
        """Read the model; where it is no tree, or cannot be read, what can be shown is.

        Raises:
            InputError: there is no such file.
        """
        self.source = source
        self.watch = FileWatch()
        self.problem = ""
        self.model_number = 0
        self.player: Player | None = None
        self.follower: Follower | None = None
        self.listening: Listening | None = None
        self.history, self.runs = History(), Runs()
        self.followed: tuple[str | None, bool] = (None, True)
        self.instruments = Instruments(self)
        try:
            opened = self.read()
        except InputError as error:
            if source.editable is None or not source.file.is_file():
                raise
            opened = source.stand_in(error)
        self.documents = Documents(opened.editable, source.allow_outside)
        self.put(opened)
        if opened.refused is not None:
            self.problem = str(opened.refused)

    # The model.

    def read(self) -> Opened:
        """Read the files anew, and watch them, also when that fails."""
        with noting_files() as seen:
            try:
                opened = self.source.read()
                opened.scene.robot.tree()
                return opened
            finally:
                self.watch.follow({*seen, *self.watch.files})

    def put(self, opened: Opened) -> None:
        """Take a model that was read; what was moved by hand stays where it is."""
        before = self.standing.moved() if self.model_number and not self._stands_in else {}
        robot, tree = opened.scene.robot, opened.scene.robot.tree()
        surroundings = Surroundings(robot, tree)
        neutral = self._start(robot, tree, None)
        start = self._start(robot, tree, opened.scene.start)
        ground = ground_of(opened.scene, tree, neutral)
        # From here on nothing can fail, so that nothing is half of one model and half of another.
        self.close_player("ended as the model was read anew")
        self.opened = opened
        self.scene = opened.scene
        self.robot: Robot = robot
        self.tree: Tree = tree
        self.surroundings = surroundings
        number = 0
        if self.model_number:
            self.standing.halt()
            number = self.standing.number
        self.standing: Standing = Standing(robot, tree, neutral, start, self.history)
        self.standing.number = number
        self.ground = ground
        self.report: Report | None = None
        self.replay: Replay | None = None
        self._heard = 0
        self.unheard: tuple[str, ...] = ()
        self.traces = Traces(self.tree.coordinates)
        self.problem = ""
        self.model_number += 1
        if opened.recording is not None:
            self.look_through(opened.recording)
        else:
            as_before = self.standing.of(before) if before else Moved(start)
            self.standing.move_to(as_before.q)
            self.runs.news += [as_before.refused] if as_before.refused else []

    @property
    def _stands_in(self) -> bool:
        return self.opened.refused is not None

    @staticmethod
    def _start(robot: Robot, tree: Tree, posture: Mapping[str, float | str] | None) -> Array:
        try:
            return configuration(robot, posture, tree)
        except RunError:
            return tree.neutral()

    def judge(self) -> Report:
        """The findings, which takes a moment."""
        if self.opened.refused is not None:
            return Report.refused(self.source.file, self.opened.refused)
        return check(self.opened.judged or self.robot)

    # How it stands.

    @property
    def q(self) -> Array:
        """How it stands, (n,)."""
        return self.standing.q

    def jog(self, joint: str, value: float) -> Moved:
        """Bring a joint to a position; while a simulation runs, tell its motor to.

        Raises:
            ModelError: no moving joint has that name, or the value is no number.
        """
        self.tree.coordinate(joint)
        standing = self.standing
        if self.follower is not None:
            return standing.met(Moved(self.q, f"it stands as {self.follower.source} says", joint))
        if self.player is not None and math.isfinite(value):
            why = "" if self.player.command(joint, value) else f"no motor drives {joint}"
            return standing.met(Moved(self.q, why, joint if why else ""))
        self.leave_recording()
        return standing.jog(joint, value)

    def pull(
        self, link: str, point: ArrayLike, target: ArrayLike | None, *, turned: bool = False
    ) -> Moved:
        """Draw a point of a link towards a place: by its joints, or by force in a simulation.

        By its joints it stays turned as it is with `turned`.

        Raises:
            ModelError: no link has that name, or nothing moves it.
        """
        spot = as_place(point)
        goal = None if target is None else as_place(target)
        if self.player is not None:
            self.tree.link(link)
            self.player.pull(link, spot, goal)
            return self.standing.met(Moved(self.q))
        if goal is None:
            return self.standing.met(Moved(self.q))
        self.leave_recording()
        return self.standing.pull(link, spot, goal, turned=turned)

    def take_posture(self, name: str | None) -> None:
        """Go to a posture, or with None back to neutral; raises as `Standing.posture`."""
        said = name or "neutral"
        self.stand_at(self.standing.posture(name), f"posture {said}", f"the posture {said}")

    def stand_at(self, q: Array, what: str, why: str) -> None:
        """Go to a posture by somebody's will.

        Args:
            q: (n,).
            what: is done, in words.
            why: a run is left for it, in words.
        """
        self._stand_still(f"was left for {why}")
        self.standing.go(q.copy(), what)

    def _stand_still(self, why: str) -> None:
        """Nothing moves by itself any more."""
        self.close_player(why)
        self.leave_recording()
        self.standing.halt()

    def undo(self) -> str:
        """Take the last step back; in words what it was. What takes long is done by the caller.

        Raises:
            InputError: there is none, or somebody else changed the document since.
        """
        step = self.history.past[-1] if self.history.past else None
        if not isinstance(step, ProposedEdit):
            self._stand_still("was left to take a move back")
            return self.standing.undo()
        try:
            self.documents.of(step).take_back(step)
        except InputError:
            # What was before it must not be out of reach for ever.
            self.history.past.pop()
            raise
        self.history.taken_back()
        return step.what

    def redo(self) -> str:
        """Do again what was taken back last; raises as `undo`."""
        step = self.history.future[-1] if self.history.future else None
        if not isinstance(step, ProposedEdit):
            self._stand_still("was left to do a move again")
            return self.standing.redo()
        try:
            self.documents.of(step).make(step)
        except InputError:
            self.history.future.pop()
            raise
        self.history.done_again()
        return step.what

    def start_swing(self, joint: str | None) -> None:
        """Let a joint run to and fro; None stops it.

        Raises:
            ModelError: no moving joint has that name.
        """
        if joint is not None:
            self.tree.coordinate(joint)
        self._stand_still("was left to run a joint to and fro")
        self.standing.start_swing(joint)

    def pass_time(self, seconds: float) -> None:
        """Move what moves by itself."""
        if self.follower is not None:
            self._follow()
        elif self.player is not None:
            moment = self.player.moment()
            self.traces.add(moment)
            if not np.array_equal(moment.q, self.q):
                self.standing.move_to(moment.q)
        elif self.replay is not None:
            before = self.replay.instant
            self.replay.pass_time(seconds)
            if self.replay.instant != before:
                self.standing.move_to(self.replay.q)
        else:
            self.standing.pass_time(seconds)

    def follow(self, follower: Follower) -> None:
        """Show a machine, or a file of joint states, as it moves."""
        self.close_player("was left to follow a machine")
        self.follower = follower
        follower.start()

    def stop_following(self) -> None:
        """Show the model itself again, as it stands."""
        if self.follower is not None:
            self.follower.close()
            self.follower = None

    def listen(self) -> None:
        """Let controllers outside connect to the simulation that is shown.

        Raises:
            InputError: nothing can be served.
        """
        if self.player is not None and self.listening is None:
            self.listening = Listening(self.player)

    def stop_listening(self) -> None:
        """Let nobody connect any more."""
        if self.listening is not None:
            self.listening.close()
            self.listening = None

    def _follow(self) -> None:
        follower = self.follower
        assert follower is not None
        if follower.number == self._heard:
            return
        self._heard = follower.number
        q, words = posture_of(self.robot, self.tree, self.q, follower.positions)
        self.unheard = tuple(words)
        if not np.array_equal(q, self.q):
            self.standing.move_to(q)

    # The document.

    @property
    def edits(self) -> Edits | None:
        """What changes the document that is shown; None where that cannot be changed."""
        return self.documents.own

    def edits_or_refuse(self) -> Edits:
        """What changes the document.

        Raises:
            InputError: there is none that could be changed.
        """
        if self.edits is None:
            raise InputError(
                f"{self.source.file.name} is neither a document nor a URDF file, so it cannot be "
                "changed here"
            )
        return self.edits

    # The simulation.

    def new_player(self, motion: str | None, speed: float, *, hold: bool = False) -> Player:
        """A simulation, paused at its beginning.

        Args:
            motion: the name of the motion that motors follow; that of the scene if not given.
            speed: times real time.
            hold: follow none, and hold how everything stands.

        Raises:
            MooringError: it cannot be simulated.
        """
        if self.opened.patches or self._stands_in:
            raise ModelError(
                "what is shown is patched up to be looked at; mend the document, then simulate it"
            )
        follows = not hold and (motion is not None or self.scene.motion is not None)
        start = None if follows else self._whole_posture()
        simulation = Simulation(
            self.scene, motion=motion if follows else [], posture=start, keep=KEPT
        )
        return Player(simulation, speed)

    def _whole_posture(self) -> dict[str, float]:
        said = self.standing.by_name()
        floating = {name: value for name, value in said.items() if name not in self.robot.joints}
        return floating | self.standing.positions()

    def player_from(self, run: KeptRun, at: float, speed: float) -> Player:
        """A simulation that goes on from an instant of a run [s]; it takes a moment.

        Raises:
            MooringError: nothing was recorded then, or it was of another model.
        """
        player = self.new_player(run.motion, speed, hold=run.hold)
        try:
            player.reset(run.recorded(), at)
        except MooringError:
            player.close()
            raise
        return player

    def put_player(self, player: Player, motion: str | None = None, *, hold: bool = False) -> None:
        """Show a simulation from now on; the other arguments as those of `new_player`."""
        self.close_player("was left for another")
        self.followed = (motion, hold)
        self.stop_following()
        self.standing.halt()
        self.replay = None
        self.player = player
        self.traces = Traces(self.tree.coordinates)
        self.standing.move_to(player.moment().q)

    def close_player(self, why: str = "") -> KeptRun | None:
        """Leave the simulation; how it stands stays, and the run is kept if there is a reason."""
        self.stop_listening()
        player, self.player = self.player, None
        if player is None:
            return None
        player.close(wait=False)
        return self.runs.keep(player, *self.followed, why) if why else None

    @property
    def recording(self) -> Recording | None:
        """The run that is looked through."""
        return None if self.replay is None else self.replay.recording

    def look_through(self, recording: Recording) -> None:
        """Leave the simulation, and show the beginning of a recording.

        Raises:
            ModelError: it is of another model.
        """
        if recording.coordinates != list(self.tree.coordinates):
            raise ModelError("this run was of a model with other joints; it can still be saved")
        self.close_player("was left to look at another")
        if len(recording.table):
            self.replay = Replay(recording)
            self.standing.move_to(self.replay.q)

    def show_instant(self, number: int) -> None:
        """Show an instant of the recording; the nearest there is."""
        if self.replay is not None:
            self.replay.show(number)
            self.standing.move_to(self.replay.q)

    def leave_recording(self) -> None:
        """Show the model itself again, as it stands; a recording on disk stays open."""
        if not self.source.is_recording:
            self.replay = None


def overlapping(surroundings: Surroundings, q: Array) -> list[tuple[str, str, float]]:
    """Which links overlap in a posture (n,), and by how much [m]; it takes a moment."""
    pairs = surroundings.pairs.judged
    distances, _ = surroundings.distances(q, pairs, 1e-3)
    return [
        (first, second, -float(d))
        for (first, second), d in zip(pairs, distances, strict=True)
        if d < -1e-6
    ]
