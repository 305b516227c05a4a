"""Adding couplings, closures and springs, and what may overlap."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fnmatch import fnmatchcase
from typing import Any

from mooring.cad import Axis
from mooring.errors import ModelError, did_you_mean
from mooring.model.placement import Where
from mooring.model.robot.contents import Contents
from mooring.model.robot.values import axis_on
from mooring.model.ties import Closure, Coupling, Spring
from mooring.model.validation import EntryError, define


class Ties(Contents):
    """What ties joints and links together besides the tree; see `Robot`."""

    def add_coupling(
        self, joint: str, *, follows: str, ratio: float = 1.0, offset: float | str = 0.0
    ) -> None:
        """Make a joint follow another: position = ratio * followed position + offset.

        Raises:
            ModelError: a joint is unknown, follows two others, or a value is wrong.
        """
        self.describe_coupling(joint, {"follows": follows, "ratio": ratio, "offset": offset})

    def describe_coupling(self, joint: str, entry: Mapping[str, Any]) -> None:
        """Add a coupling from a mapping with the keys of `Coupling`, as in a document."""
        what = f"coupling of {joint!r}"
        if joint in self.couplings:
            raise ModelError(f"{what}: the joint already follows {self.couplings[joint].follows!r}")
        motion = self._motion_of(joint, what, ())
        coupling = define(Coupling, what, entry, joint=joint, motion=motion)
        self._motion_of(coupling.follows, what, ("follows",))
        leader = coupling.follows
        while leader in self.couplings:
            leader = self.couplings[leader].follows
        if leader == joint:
            raise EntryError(what, [(("follows",), f"{joint!r} would follow itself")])
        self.couplings[joint] = coupling

    def add_closure(
        self,
        name: str,
        kind: str,
        *,
        between: tuple[str, str],
        at: Where = None,
        axis: str | Sequence[float] | None = None,
    ) -> None:
        """Close a loop between two links that meet at a place in the neutral posture.

        Args:
            name: a new name.
            kind: `"ball"`, `"hinge"`, `"slide"` or `"weld"`.
            between: the two links.
            at: an axis from the CAD, or a placement on the first link (or in the CAD).
            axis: of the hinge or slide, in the frame of `at`.

        Raises:
            ModelError: the name is taken, a link is unknown or a value is wrong.
        """
        entry = {"kind": kind, "between": between, "at": at, "axis": axis}
        self.describe_closure(
            name, {key: value for key, value in entry.items() if value is not None}
        )

    def describe_closure(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a closure from a mapping with the keys of `Closure`, as in a document."""
        self._free("closure", name, self.closures)
        what = f"closure {name!r}"
        entry = dict(entry)
        if isinstance(entry.get("at"), Axis):
            entry["axis"] = axis_on(what, entry["at"], entry.get("axis"))
        closure = define(Closure, what, entry, name=name)
        for link in closure.between:
            if link not in self.links:
                hint = did_you_mean(link, list(self.links))
                raise EntryError(what, [(("between",), f"no link is called {link!r}{hint}")])
        self.closures[name] = closure

    def add_spring(
        self,
        name: str,
        *,
        between: tuple[str, str],
        stiffness: float | str = 0.0,
        damping: float | str = 0.0,
        rest_length: float | str | None = None,
    ) -> None:
        """Put a spring and damper between two frames.

        Args:
            name: a new name.
            between: names of frames on different links.
            stiffness: force per length, e.g. `"4 kN/m"`.
            damping: force per speed, e.g. `"200 N*s/m"`.
            rest_length: where it neither pulls nor pushes; its length at the neutral posture if
                not given.

        Raises:
            ModelError: the name is taken, a frame is unknown or a value is wrong.
        """
        entry = {
            "between": between, "stiffness": stiffness, "damping": damping,
            "rest_length": rest_length,
        }  # fmt: skip
        self.describe_spring(name, entry)

    def describe_spring(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a spring from a mapping with the keys of `Spring`, as in a document."""
        self._free("spring", name, self.springs)
        what = f"spring {name!r}"
        spring = define(Spring, what, entry, name=name)
        for frame in spring.between:
            if frame not in self.frames:
                hint = did_you_mean(frame, list(self.frames))
                raise EntryError(what, [(("between",), f"no frame is called {frame!r}{hint}")])
        first, second = (self.frames[frame].link for frame in spring.between)
        if first == second:
            raise EntryError(what, [(("between",), f"both frames are on the link {first!r}")])
        self.springs[name] = spring

    def allow_overlap(self, first: str, second: str, because: str = "") -> None:
        """Say that links may overlap; nothing then looks for contact between them.

        Args:
            first, second: name patterns of links, as in the shell.
            because: why, for those who read the findings.

        Raises:
            ModelError: no two links match.

        Example:
            `robot.allow_overlap("*_jaw", "clamp_body", "the jaws sit in the body")`
        """
        found = [
            [name for name in self.links if fnmatchcase(name, pattern)]
            for pattern in (first, second)
        ]
        for pattern, names in zip((first, second), found, strict=True):
            if not names:
                hint = did_you_mean(pattern, list(self.links))
                raise ModelError(f"no link matches {pattern!r}{hint}")
        pairs = [(a, b) for a in found[0] for b in found[1] if a != b]
        if not pairs:
            raise ModelError(f"{first!r} and {second!r} match no two different links")
        for a, b in pairs:
            self.allowances[min(a, b), max(a, b)] = because
