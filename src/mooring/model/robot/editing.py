"""Changing what is there: renaming and removing, with everything that refers to it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, cast

from mooring.errors import ModelError, did_you_mean
from mooring.model.motion import named_in
from mooring.model.robot.changed import KINDS, renamed
from mooring.model.robot.contents import Contents

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot

Item = tuple[str, str]
"""A kind and a name."""


class Editing(Contents):
    """Renaming and removing; see `Robot`."""

    def rename(self, kind: str, old: str, new: str) -> None:
        """Give an item another name; every reference follows.

        Args:
            kind: `"link"`, `"joint"`, `"closure"`, `"spring"`, `"motor"`, `"sensor"`, `"frame"`,
                `"posture"`, `"motion"` or `"material"`.
            old, new: names.

        Raises:
            ModelError: there is no such item, or the new name is taken.

        Example:
            `robot.rename("link", "boom", "arm")`
        """
        items = self._items(kind)
        if old not in items:
            raise ModelError(f"no {kind} is called {old!r}{did_you_mean(old, list(items))}")
        if new == old:
            return
        self._free(kind, new, items)
        changed = renamed(cast("Robot", self), {kind: lambda name: new if name == old else name})
        self.__dict__.update(changed.__dict__)

    def remove(self, kind: str, name: str, *, with_dependents: bool = False) -> list[Item]:
        """Take an item away.

        Args:
            kind: as for `rename`.
            name: of the item.
            with_dependents: take away what refers to it as well: with a joint the link it carries,
                with a link its joints, with a joint its motor and its place in postures.

        Returns:
            What was taken away, as kinds and names.

        Raises:
            ModelError: there is no such item, or something refers to it; the message lists what.

        Example:
            `robot.remove("link", "jib", with_dependents=True)`
        """
        items = self._items(kind)
        if name not in items:
            raise ModelError(f"no {kind} is called {name!r}{did_you_mean(name, list(items))}")
        gone: list[Item] = [(kind, name)]
        for item in gone:
            gone += [other for other in self._dependents(*item) if other not in gone]
        if len(gone) > 1 and not with_dependents:
            listed = ", ".join(f"{k} {n!r}" for k, n in gone[1:9])
            more = f" and {len(gone) - 9} more" if len(gone) > 9 else ""
            raise ModelError(
                f"{kind} {name!r} is needed by {listed}{more}; remove them too with "
                "with_dependents=True"
            )
        for what, which in gone:
            del self._items(what)[which]
        for what, which in gone:
            if what == "joint":
                for positions in self.postures.values():
                    positions.pop(which, None)
            elif what == "link":
                for pair in [pair for pair in self.allowances if which in pair]:
                    del self.allowances[pair]
        return gone

    def _items(self, kind: str) -> dict[str, object]:
        if kind == "coupling":
            return cast("dict[str, object]", self.couplings)
        if kind not in KINDS:
            raise ModelError(f"unknown kind {kind!r}{did_you_mean(kind, KINDS)}")
        return cast("dict[str, object]", getattr(self, f"{kind}s"))

    def _dependents(self, kind: str, name: str) -> Iterator[Item]:
        """What cannot be without an item."""
        if kind == "link":
            for joint in self.joints.values():
                if name in (joint.parent, joint.child):
                    yield "joint", joint.name
            for closure in self.closures.values():
                if name in closure.between:
                    yield "closure", closure.name
            for frame in self.frames.values():
                if frame.link == name:
                    yield "frame", frame.name
            for sensor in self.sensors.values():
                if name in sensor.links():
                    yield "sensor", sensor.name
        elif kind == "frame":
            for spring in self.springs.values():
                if name in spring.between:
                    yield "spring", spring.name
            for sensor in self.sensors.values():
                if name in sensor.frames():
                    yield "sensor", sensor.name
        elif kind == "joint":
            child = self.joints[name].child
            if child in self.links:
                yield "link", child
            for coupling in self.couplings.values():
                if name in (coupling.joint, coupling.follows):
                    yield "coupling", coupling.joint
            for motor in self.motors.values():
                if motor.joint == name:
                    yield "motor", motor.name
            for sensor in self.sensors.values():
                if name in sensor.joints():
                    yield "sensor", sensor.name
        elif kind == "posture":
            for motion, steps in self.motions.items():
                if ("posture", name) in named_in(steps):
                    yield "motion", motion
        elif kind == "material":
            for link in self.links.values():
                if name in (
                    link.material,
                    link.surface,
                    *(other for _, other in link.part_materials),
                ):
                    yield "link", link.name
