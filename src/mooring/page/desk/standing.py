"""How a model stands, by whose will, and what it met: that of all windows, or of one by itself."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import ArrayLike

from mooring.errors import InputError, ModelError, RunError
from mooring.geometry import Array
from mooring.kinematics import configuration
from mooring.kinematics.loops import close_loops
from mooring.kinematics.mechanism.drivers import drivers
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.page.desk.history import History, Posed
from mooring.page.desk.jogging import Moved, Swing, as_place, jog, pull, reach
from mooring.tree import Tree
from mooring.units import show

_DUST = 1e-9
"""Less is no move [m or rad]."""


class Standing:
    """A posture that is moved by hand.

    Attributes:
        robot, tree: whose.
        neutral: where it is when nothing is asked of it, (n,).
        start: where it stands until something moves it, (n,).
        q: how it stands, (n,).
        number: grows with every move.
        refused: what the last move met, and the joint it is about.
        swing: the joint that runs to and fro, or None.
        history: what was done with it, to be taken back.
    """

    def __init__(
        self, robot: Robot, tree: Tree, neutral: Array, start: Array, history: History
    ) -> None:
        self.robot, self.tree, self.neutral, self.start = robot, tree, neutral, start
        self.q = start
        self.number = 0
        self.refused: tuple[str, str] = ("", "")
        self.swing: Swing | None = None
        self.history = history
        self._swung_from: dict[str, float] = {}

    def own(self) -> Standing:
        """The same posture to be moved by itself, with a history of its own."""
        alone = Standing(self.robot, self.tree, self.neutral, self.start, History())
        alone.q = self.q.copy()
        return alone

    def move_to(self, q: Array) -> None:
        """Stand so, by nobody's will."""
        self.q = q
        self.number += 1

    def by_name(self) -> dict[str, float]:
        """Where everything is, by coordinate."""
        return dict(zip(self.tree.coordinates, self.q.tolist(), strict=True))

    def moved(self) -> dict[str, float]:
        """Where what was moved is, by coordinate.

        What was not stands where the model has it, and goes along with a change of that.
        """
        named = self.by_name()
        away = np.abs(self.q - self.start) > _DUST
        # What floats is moved as a whole.
        held = [name.rpartition(".")[0] or name for name in named]
        moved = {one for one, far in zip(held, away, strict=True) if far}
        return {
            name: value
            for one, (name, value) in zip(held, named.items(), strict=True)
            if one in moved
        }

    def of(self, named: Mapping[str, float]) -> Moved:
        """A posture of before, as far as the model still has what it names; refused with neutral
        where its loops do not close so."""
        q = self.start.copy()
        for name in self.tree.coordinates:
            if name in named:
                q[self.tree.coordinate(name)] = named[name]
        try:
            return Moved(close_loops(self.tree, q, [], "the posture from before"))
        except RunError:
            return Moved(self.neutral, "its loops do not close as they stood; it stands neutral")

    def positions(self) -> dict[str, float]:
        """The joints that tell all others where to be, by name: what a posture is made of."""
        said = self.by_name()
        return {joint: said[joint] for joint in drivers(self.robot, self.tree, self.q)}

    def entry(self) -> dict[str, str]:
        """The posture as a document says it."""
        joints = self.robot.joints
        return {
            joint: show(value, dimension_of("position", joints[joint].motion), 6)
            for joint, value in self.positions().items()
        }

    # By somebody's will, which can be taken back.

    def jog(self, joint: str, value: float) -> Moved:
        """Bring a joint to a position, as near as it comes.

        Raises:
            ModelError: no moving joint has that name, or the value is no number.
        """
        if not math.isfinite(value):
            raise ModelError(f"{joint}: the position must be a number")
        return self.met(jog(self.robot, self.tree, self.q, joint, value), joint)

    def pull(self, link: str, point: ArrayLike, target: ArrayLike, *, turned: bool) -> Moved:
        """Draw a point of a link towards a place; with `turned` it stays turned as it is.

        Raises:
            ModelError: no link has that name, or nothing moves it.
        """
        spot, goal = as_place(point), as_place(target)
        moved = pull(self.robot, self.tree, self.q, link, spot, goal, turned=turned)
        return self.met(moved, f"pull at {link}")

    def reach(self, name: str, target: Mapping[str, list[float]]) -> Moved:
        """See `jogging.reach`; it takes a moment, and moves nothing."""
        return reach(self.robot, self.tree, self.q.copy(), name, target)

    def met(self, moved: Moved, what: str = "") -> Moved:
        """Take what came of a move."""
        self.refused = (moved.refused, moved.joint)
        if moved.q is not self.q:
            self.go(moved.q, what)
        return moved

    def go(self, q: Array, what: str) -> None:
        """Go to a posture."""
        before = self.moved()
        self.move_to(q)
        self.history.posed(Posed(what, before, self.moved()))

    def posture(self, name: str | None) -> Array:
        """A named posture, or with None the neutral one, (n,).

        Raises:
            ModelError: no posture has that name.
            RunError: the loops cannot be closed in it.
        """
        return self.neutral if name is None else configuration(self.robot, name, self.tree)

    def undo(self) -> str:
        """Take the last move back; in words what it was.

        Raises:
            InputError: there is none.
        """
        step = self.history.past[-1] if self.history.past else None
        if not isinstance(step, Posed):
            raise InputError("there is nothing to take back")
        words = self._stand_as(step.before)
        self.history.taken_back()
        return f"{step.what}{words}"

    def redo(self) -> str:
        """Do again what was taken back last; raises as `undo`."""
        step = self.history.future[-1] if self.history.future else None
        if not isinstance(step, Posed):
            raise InputError("there is nothing to do again")
        words = self._stand_as(step.after)
        self.history.done_again()
        return f"{step.what}{words}"

    def _stand_as(self, named: Mapping[str, float]) -> str:
        self.halt()
        moved = self.of(named)
        self.move_to(moved.q)
        return f"; {moved.refused}" if moved.refused else ""

    # By itself.

    def start_swing(self, joint: str | None) -> None:
        """Let a joint run to and fro; None stops it.

        Raises:
            ModelError: no moving joint has that name.
        """
        swing = None if joint is None else Swing.of(self.robot, self.tree, joint)
        self.halt()
        self.swing, self._swung_from = swing, self.moved()

    def halt(self) -> None:
        """Nothing runs to and fro any more; where it went to can be taken back."""
        swing, self.swing = self.swing, None
        self.refused = ("", "")
        if swing is not None:
            what = f"{swing.joint} to and fro"
            self.history.posed(Posed(what, self._swung_from, self.moved()))

    def pass_time(self, seconds: float) -> None:
        """Move what runs to and fro."""
        swing = self.swing
        if swing is None:
            return
        now = float(self.q[self.tree.coordinate(swing.joint)])
        asked = swing.next(now, seconds)
        moved = jog(self.robot, self.tree, self.q, swing.joint, asked)
        if not np.array_equal(moved.q, self.q):
            self.move_to(moved.q)
        if not moved.refused:
            swing.blocked = False
        elif swing.stopped(now, asked):
            self.halt()
            self.refused = (f"{moved.refused}; it can go neither way", swing.joint)
