"""`Desk`: one model, and what is being done with it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import ArrayLike

from mooring.bridge.following.follower import Follower, posture_of
from mooring.checks import Report, check
from mooring.errors import InputError, ModelError, MooringError, RunError
from mooring.files import noting_files
from mooring.geometry import Array
from mooring.kinematics import configuration
from mooring.kinematics.loops import close_loops
from mooring.kinematics.mechanism.drivers import drivers
from mooring.kinematics.overlaps import Surroundings
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.page.desk.documents import Documents
from mooring.page.desk.editing import Edits, ProposedEdit
from mooring.page.desk.history import History, Posed
from mooring.page.desk.jogging import Moved, Swing, jog, pull, reach
from mooring.page.desk.listening import Listening
from mooring.page.desk.opened import ModelSource, Opened
from mooring.page.desk.replay import Replay
from mooring.page.desk.runs import KeptRun, Runs
from mooring.page.desk.traces import Traces, column_of
from mooring.page.desk.watching import FileWatch
from mooring.simulation import Recording, Simulation
from mooring.simulation.playing import KEPT, Player
from mooring.simulation.standing import ground_of
from mooring.tree import Tree
from mooring.units import show


class Desk:
    """What all windows look at.

    Nothing here waits for anything: what takes long (`read`, `judge`, `new_player`) is called in a
    thread by whoever serves the windows, and its result is put on the desk afterwards.

    Attributes:
        source: where the model comes from.
        robot, tree, scene, ground: the model; the last one that could be read.
        q: how it stands, (n,).
        problem: why the file cannot be read as it is now; empty while it can.
        report: the findings; None before they are there.
        refused: what the last move met, and the joint it is about.
        follower: the machine that is shown, or None.
        listening: what lets controllers outside connect, or None.
        unheard: what of it does not fit, in words.
        swing: the joint that runs to and fro, or None.
        player: the simulation, or None.
        replay: the run that is looked through, or None.
        trace_number: grows with whatever plots show.
        opened: what was read for it.
        documents: that are shown, as far as they can be changed.
        history: what can be taken back, and done again.
        runs: that were made, until they are let go of.
        followed: the motion that the simulation follows, and whether it follows none.
        model_number: grows with every new model.
        pose_number: grows with every move.
    """

    def __init__(self, source: ModelSource) -> None:
        """Read the model; where it is no tree, or cannot be read, what can be shown is.

        Raises:
            InputError: there is no such file.
        """
        self.source = source
        self.watch = FileWatch()
        self.problem = ""
        self.model_number = self.pose_number = 0
        self.player: Player | None = None
        self.follower: Follower | None = None
        self.listening: Listening | None = None
        self.history, self.runs = History(), Runs()
        self.followed: tuple[str | None, bool] = (None, True)
        self.q = np.zeros(0)
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
        """Take a model that was read; joints that are still there stay where they are."""
        before = self._by_name() if self.model_number and not self._stands_in else {}
        robot, tree = opened.scene.robot, opened.scene.robot.tree()
        surroundings = Surroundings(robot, tree)
        neutral = self._start(robot, tree, None)
        ground = ground_of(opened.scene, tree, neutral)
        # From here on nothing can fail, so that nothing is half of one model and half of another.
        self.close_player("ended as the model was read anew")
        self.opened = opened
        self.scene = opened.scene
        self.robot: Robot = robot
        self.tree: Tree = tree
        self.surroundings = surroundings
        self.neutral_q, self.ground = neutral, ground
        self.report: Report | None = None
        self.refused: tuple[str, str] = ("", "")
        self.swing: Swing | None = None
        self.replay: Replay | None = None
        self._heard = 0
        self.unheard: tuple[str, ...] = ()
        self.traces = Traces(self.tree.coordinates)
        self.problem = ""
        self.model_number += 1
        if opened.recording is not None:
            self.look_through(opened.recording)
        else:
            self.move_to(
                self._as_before(before) if before else self._start(robot, tree, opened.scene.start)
            )

    @property
    def _stands_in(self) -> bool:
        return self.opened.refused is not None

    def _by_name(self) -> dict[str, float]:
        return dict(zip(self.tree.coordinates, self.q.tolist(), strict=True))

    @staticmethod
    def _start(robot: Robot, tree: Tree, posture: Mapping[str, float | str] | None) -> Array:
        try:
            return configuration(robot, posture, tree)
        except RunError:
            return tree.neutral()

    def _as_before(self, before: Mapping[str, float]) -> Array:
        q = self.neutral_q.copy()
        kept = [name for name in self.tree.coordinates if name in before]
        for name in kept:
            q[self.tree.coordinate(name)] = before[name]
        try:
            return close_loops(self.tree, q, [], "the posture from before")
        except RunError:
            return self.neutral_q

    def judge(self) -> Report:
        """The findings, which takes a moment."""
        if self.opened.refused is not None:
            return Report.refused(self.source.file, self.opened.refused)
        return check(self.opened.judged or self.robot)

    # How it stands.

    def move_to(self, q: Array) -> None:
        """Show a posture."""
        self.q = q
        self.pose_number += 1

    def jog(self, joint: str, value: float) -> Moved:
        """Bring a joint to a position; while a simulation runs, tell its motor to.

        Raises:
            ModelError: no moving joint has that name, or the value is no number.
        """
        if not math.isfinite(value):
            raise ModelError(f"{joint}: the position must be a number")
        self.tree.coordinate(joint)
        if self.follower is not None:
            return self._met(Moved(self.q, f"it stands as {self.follower.source} says", joint))
        if self.player is not None:
            if not self.player.command(joint, value):
                return self._met(Moved(self.q, f"no motor drives {joint}", joint))
            return self._met(Moved(self.q))
        self.leave_recording()
        return self._met(jog(self.robot, self.tree, self.q, joint, value), joint)

    def pull(
        self, link: str, point: ArrayLike, target: ArrayLike | None, *, turned: bool = False
    ) -> Moved:
        """Draw a point of a link towards a place: by its joints, or by force in a simulation.

        By its joints it stays turned as it is with `turned`.

        Raises:
            ModelError: no link has that name, or nothing moves it.
        """
        spot = np.asarray(point, dtype=float)
        goal = None if target is None else np.asarray(target, dtype=float)
        if spot.shape != (3,) or (goal is not None and goal.shape != (3,)):
            raise ModelError("a place is three numbers")
        if self.player is not None:
            self.tree.link(link)
            self.player.pull(link, spot, goal)
            return self._met(Moved(self.q))
        if goal is None:
            return self._met(Moved(self.q))
        self.leave_recording()
        moved = pull(self.robot, self.tree, self.q, link, spot, goal, turned=turned)
        return self._met(moved, f"pull at {link}")

    def _met(self, moved: Moved, what: str = "") -> Moved:
        self.refused = (moved.refused, moved.joint)
        if moved.q is not self.q:
            self._pose(moved.q, what)
        return moved

    def _pose(self, q: Array, what: str) -> None:
        """Go to a posture by somebody's will, which can be taken back."""
        before = self._by_name()
        self.move_to(q)
        self.history.posed(Posed(what, before, self._by_name()))

    def take_posture(self, name: str | None) -> None:
        """Go to a posture, or with None back to neutral.

        Raises:
            ModelError: no posture has that name.
            RunError: the loops cannot be closed in it.
        """
        q = self.neutral_q if name is None else configuration(self.robot, name, self.tree)
        self._stand_still(f"was left for the posture {name or 'neutral'}")
        self._pose(q.copy(), f"posture {name or 'neutral'}")

    def _stand_still(self, why: str) -> None:
        """Nothing moves by itself any more."""
        self.close_player(why)
        self.leave_recording()
        self.swing = None
        self.refused = ("", "")

    def undo(self) -> str:
        """Take the last step back; in words what it was. What takes long is done by the caller.

        Raises:
            InputError: there is none, or somebody else changed the document since.
        """
        if not self.history.past:
            raise InputError("there is nothing to take back")
        step = self.history.past[-1]
        if isinstance(step, ProposedEdit):
            try:
                self.documents.of(step).take_back(step)
            except InputError:
                # What was before it must not be out of reach for ever.
                self.history.past.pop()
                raise
        else:
            self._stand_still("was left to take a move back")
            self.move_to(self._as_before(step.before))
        self.history.taken_back()
        return step.what

    def redo(self) -> str:
        """Do again what was taken back last; raises as `undo`."""
        if not self.history.future:
            raise InputError("there is nothing to do again")
        step = self.history.future[-1]
        if isinstance(step, ProposedEdit):
            try:
                self.documents.of(step).make(step)
            except InputError:
                self.history.future.pop()
                raise
        else:
            self._stand_still("was left to do a move again")
            self.move_to(self._as_before(step.after))
        self.history.done_again()
        return step.what

    def start_swing(self, joint: str | None) -> None:
        """Let a joint run to and fro; None stops it.

        Raises:
            ModelError: no moving joint has that name.
        """
        swing = None if joint is None else Swing.of(self.robot, self.tree, joint)
        self._stand_still("was left to run a joint to and fro")
        self.swing = swing

    def pass_time(self, seconds: float) -> None:
        """Move what moves by itself."""
        if self.follower is not None:
            self._follow()
        elif self.player is not None:
            moment = self.player.moment()
            self.traces.add(moment)
            if not np.array_equal(moment.q, self.q):
                self.move_to(moment.q)
        elif self.replay is not None:
            before = self.replay.instant
            self.replay.pass_time(seconds)
            if self.replay.instant != before:
                self.move_to(self.replay.q)
        elif self.swing is not None:
            swing = self.swing
            now = float(self.q[self.tree.coordinate(swing.joint)])
            asked = swing.next(now, seconds)
            moved = jog(self.robot, self.tree, self.q, swing.joint, asked)
            if not moved.refused:
                swing.blocked = False
            elif swing.stopped(now, asked):
                self.swing = None
                self.refused = (f"{moved.refused}; it can go neither way", swing.joint)
            self.move_to(moved.q)

    def reach(self, name: str, target: Mapping[str, list[float]]) -> Moved:
        """See `jogging.reach`; it takes a moment, and moves nothing."""
        return reach(self.robot, self.tree, self.q.copy(), name, target)

    def reached(self, name: str, moved: Moved) -> None:
        """Show where a frame or link was brought."""
        self._stand_still("was left to reach a place")
        self._pose(moved.q, f"{name} to a place")

    def stand_at(self, q: Array) -> None:
        """Show the posture of one window in all of them."""
        self._stand_still("was left for the posture of a window")
        self._pose(q.copy(), "posture of a window")

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
            self.move_to(q)

    def positions(self) -> dict[str, float]:
        """The joints that tell all others where to be, by name: what a posture is made of."""
        said = self._by_name()
        return {joint: said[joint] for joint in drivers(self.robot, self.tree, self.q)}

    def overlaps(self) -> list[tuple[str, str, float]]:
        """Which links overlap as it stands, and by how much [m]."""
        pairs = self.surroundings.pairs.judged
        distances, _ = self.surroundings.distances(self.q, pairs, 1e-3)
        return [
            (first, second, -float(d))
            for (first, second), d in zip(pairs, distances, strict=True)
            if d < -1e-6
        ]

    # The document.

    def posture_entry(self) -> dict[str, str]:
        """The posture as it stands, as a document says it."""
        joints = self.robot.joints
        return {
            joint: show(value, dimension_of("position", joints[joint].motion), 6)
            for joint, value in self.positions().items()
        }

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
        said = self._by_name()
        floating = {name: value for name, value in said.items() if name not in self.robot.joints}
        return floating | self.positions()

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
        self.swing = None
        self.replay = None
        self.player = player
        self.traces = Traces(self.tree.coordinates)
        self.move_to(player.moment().q)

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
            self.move_to(self.replay.q)

    def show_instant(self, number: int) -> None:
        """Show an instant of the recording; the nearest there is."""
        if self.replay is not None:
            self.replay.show(number)
            self.move_to(self.replay.q)

    def leave_recording(self) -> None:
        """Show the model itself again, as it stands; a recording on disk stays open."""
        if not self.source.is_recording:
            self.replay = None

    def quantities(self) -> list[str]:
        """What can be plotted."""
        if self.recording is not None:
            return [str(name) for name in self.recording.table.columns]
        efforts = [f"{motor.joint}.effort" for motor in self.robot.motors.values()]
        return [*(column_of(name) for name in self.tree.coordinates), *efforts]

    @property
    def trace_number(self) -> int:
        return self.traces.number if self.player is not None else self.pose_number

    def trace(self, quantity: str, most: int) -> list[list[float]]:
        """Times and values of a quantity, so many at most."""
        source = self.traces.of if self.replay is None else self.replay.trace
        return source(quantity, most)

    def forces(self) -> Array:
        """Of contacts in what is shown, (k, 6)."""
        if self.player is not None:
            return self.player.moment().forces
        return np.zeros((0, 6)) if self.replay is None else self.replay.forces()

    def signals(self) -> dict[str, bool] | None:
        """The signals of devices in what is shown, by whole name; None where nobody knows."""
        if self.player is not None:
            return self.player.signals()
        return None if self.replay is None else self.replay.recording.signals_at(self.replay.time)

    def status(self) -> dict[str, Any]:
        """What a window says of the simulation or recording it shows."""
        if self.follower is not None:
            return {
                "mode": "following", "time": self.follower.time, "ended": self.follower.problem,
                "pace": 0.0, "words": "; ".join((self.follower.words(), *self.unheard)),
            }  # fmt: skip
        if self.player is not None:
            moment = self.player.moment()
            return {
                "mode": "running" if moment.running else "paused", "time": moment.time,
                "ended": moment.ended, "pace": moment.pace, "pull": moment.pull,
            }  # fmt: skip
        if self.replay is not None:
            return {
                "mode": "playing" if self.replay.playing else "recording",
                "time": self.replay.time, "ended": "", "length": float(self.replay.times[-1]),
                "pace": 0.0,
            }  # fmt: skip
        return {"mode": "posing", "time": 0.0, "ended": "", "pace": 0.0}
