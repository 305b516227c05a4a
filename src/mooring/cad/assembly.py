"""An assembly: everything that was read from one CAD file."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from fnmatch import fnmatchcase
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mooring.cad.part import NameRegister, Part
from mooring.cad.places.axis import Axis, direction_of
from mooring.cad.places.bores import shared_axis
from mooring.cad.places.flats import flat_face
from mooring.cad.places.frame import Frame
from mooring.cad.solid import sum_of_moments
from mooring.cad.tidying import Hardware, find_hardware, joined_part, split_part
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array, placement
from mooring.units import to_si

if TYPE_CHECKING:
    import pandas as pd

    from mooring.cad.touching import Contact


@dataclass(frozen=True, eq=False)
class Assembly:
    """The placed parts of a CAD file.

    Attributes:
        name: of the assembly in the file, or of the file.
        file: where it was read from.
        parts: every placed part.
        notes: what the reader assumed, changed or left out.
        dropped: names of the parts that were dropped on purpose.
        frames: named places without geometry that the file holds, by name; a joint can be placed on
            one with `at=assembly.frames["tip"]`.
    """

    name: str
    file: Path
    parts: tuple[Part, ...]
    notes: tuple[str, ...] = ()
    dropped: tuple[str, ...] = ()
    frames: Mapping[str, Frame] = field(default_factory=dict)

    def pick(self, *patterns: str) -> list[Part]:
        """The parts whose name or path matches any of the patterns, in the file's order.

        Patterns are as in the shell: `*` stands for anything, `?` for one character.

        Raises:
            ModelError: a pattern matches nothing.

        Example:
            `assembly.pick("base_plate", "column", "gusset_*")`
        """
        chosen: set[int] = set()
        for pattern in patterns:
            found = [k for k, part in enumerate(self.parts) if _matches(part, pattern)]
            if not found:
                hint = did_you_mean(pattern, [part.name for part in self.parts])
                dropped = any(fnmatchcase(name, pattern) for name in self.dropped)
                why = " (it was dropped)" if dropped else ""
                raise ModelError(f"no part of {self.file.name} matches {pattern!r}{why}{hint}")
            chosen.update(found)
        return [self.parts[k] for k in sorted(chosen)]

    def part(self, name: str) -> Part:
        """The one part of a name, path or pattern.

        Raises:
            ModelError: there is none, or more than one.
        """
        found = self.pick(name)
        if len(found) > 1:
            names = ", ".join(part.name for part in found[:6])
            raise ModelError(f"{name!r} matches {len(found)} parts of {self.file.name}: {names}")
        return found[0]

    def select(
        self,
        *patterns: str,
        smaller_than: float | str | None = None,
        larger_than: float | str | None = None,
        color: str | None = None,
    ) -> list[Part]:
        """The parts for which everything given holds.

        Args:
            patterns: any of these matches the name or path; all parts when there are none.
            smaller_than, larger_than: their longest side, e.g. `"15 mm"`.
            color: "#rrggbb".

        Raises:
            ModelError: a pattern matches nothing.
        """
        chosen = self.pick(*patterns) if patterns else list(self.parts)
        if smaller_than is not None:
            most = to_si(smaller_than, "length")
            chosen = [part for part in chosen if part.size.max() < most]
        if larger_than is not None:
            least = to_si(larger_than, "length")
            chosen = [part for part in chosen if part.size.max() > least]
        if color is not None:
            chosen = [part for part in chosen if part.color == color.lower()]
        return chosen

    def hardware(self) -> list[Hardware]:
        """The kinds of parts that look like screws, nuts and washers, each with the reasons."""
        low, high = self.bounds
        return find_hardware(self.kinds(), float(np.linalg.norm(high - low)))

    def touching(self, tolerance: float | str = "0.5 mm") -> list[Contact]:
        """The pairs of parts that touch or overlap within a tolerance.

        Round faces are triangles here: a tolerance finer than theirs misses pins in their bores.
        """
        from mooring.cad.touching import contacts_of

        return contacts_of(self.parts, to_si(tolerance, "length"))

    def groups(self, tolerance: float | str = "0.5 mm") -> list[list[str]]:
        """The names of parts that hang together by touching, largest groups first.

        A group of one is a part that touches nothing.
        """
        from mooring.cad.touching import groups_of

        return groups_of(self.parts, self.touching(tolerance))

    def split(self, name: str) -> Assembly:
        """The assembly with a part split into its bodies, called `name_1`, `name_2`, ...

        Raises:
            ModelError: no or several parts match, or the part is one body.
        """
        part = self.part(name)
        return self._with(part, split_part(part))

    def join(self, name: str, *patterns: str) -> Assembly:
        """The assembly with the parts that match as one part of a new name.

        Raises:
            ModelError: a pattern matches nothing, fewer than two parts match, they are of
                different materials, or the name is taken.
        """
        parts = self.pick(*patterns)
        if any(part.name == name for part in self.parts if part not in parts):
            raise ModelError(f"there is already a part called {name!r}")
        whole = joined_part(name, parts)
        rest = replace(self, parts=tuple(p for p in self.parts if p not in parts[1:]))
        return rest._with(parts[0], [whole])

    def _with(self, old: Part, new: Sequence[Part]) -> Assembly:
        """The assembly with others in the place of a part."""
        parts: list[Part] = []
        for part in self.parts:
            parts.extend(new if part is old else [part])
        return replace(self, parts=tuple(parts))

    def drop(
        self,
        *patterns: str,
        smaller_than: float | str | None = None,
        color: str | None = None,
        hardware: bool = False,
    ) -> Assembly:
        """The assembly without some parts; their names are kept in `dropped`.

        Args:
            patterns: parts whose name or path matches any of these.
            smaller_than: parts whose longest side is less than this, e.g. `"15 mm"`.
            color: parts of this color.
            hardware: what `hardware()` finds.

        Raises:
            ModelError: a pattern matches nothing.
        """
        chosen = self.pick(*patterns)
        if smaller_than is not None:
            chosen += self.select(smaller_than=smaller_than)
        if color is not None:
            chosen += self.select(color=color)
        if hardware:
            chosen += [part for kind in self.hardware() for part in kind.parts]
        gone = {id(part) for part in chosen}
        names = tuple(part.name for part in self.parts if id(part) in gone)
        kept = tuple(part for part in self.parts if id(part) not in gone)
        return replace(self, parts=kept, dropped=self.dropped + names)

    def bore(
        self,
        first: str | Part | Sequence[Part],
        second: str | Part | Sequence[Part],
        *,
        radius: float | str | None = None,
        near: Iterable[float | str] | None = None,
    ) -> Axis:
        """The axis shared by a bore in one part and a bore or pin in another.

        Args:
            first, second: a name or pattern, a part, or several parts.
            radius: to choose among several, e.g. `"30 mm"`.
            near: to choose the one nearest to a point, e.g. `("0.9 m", 0, "2.1 m")`.

        Raises:
            ModelError: none is shared, or several are and nothing chooses; the message lists them.

        Example:
            `assembly.bore("column", "turntable")`
        """
        return shared_axis(
            self._group(first),
            self._group(second),
            None if radius is None else to_si(radius, "length"),
            None if near is None else np.array([to_si(value, "length") for value in near]),
        )

    def slide(
        self,
        first: str | Part | Sequence[Part],
        second: str | Part | Sequence[Part],
        *,
        tolerance: float | str = "0.5 mm",
    ) -> Axis:
        """The direction in which faces of two parts slide along each other.

        Args:
            first, second: a name or pattern, a part, or several parts.
            tolerance: how far apart faces may be and still touch.

        Raises:
            ModelError: no faces touch, or they leave more or less than one way to slide.

        Example:
            `assembly.slide("*_wear_pad_*", "jib_tube")`
        """
        from mooring.cad.proposing.relations import shared_slide

        near = to_si(tolerance, "length")
        return shared_slide(self._group(first), self._group(second), near)

    def face(
        self,
        part: str | Part | Sequence[Part],
        toward: str | Sequence[float],
        *,
        near: Iterable[float | str] | None = None,
    ) -> Axis:
        """The outermost flat face in a direction: its centre, and the normal out of it.

        Args:
            part: a name or pattern, a part, or several parts.
            toward: which way the face looks: `"x"`, `"-z"`, or three numbers.
            near: take the face nearest to a point instead of the outermost.

        Raises:
            ModelError: no flat face looks that way.

        Example:
            `assembly.face("column", "z")`
        """
        point = None if near is None else np.array([to_si(value, "length") for value in near])
        return flat_face(self._group(part), direction_of(toward), point)

    def centre(self, part: str | Part | Sequence[Part]) -> Frame:
        """The centre of volume of some parts, with axes parallel to the CAD's.

        Args:
            part: a name or pattern, a part, or several parts.

        Raises:
            ModelError: a pattern matches nothing.
        """
        parts = self._group(part)
        solids = [p.solid for p in parts]
        _, centre, _ = sum_of_moments(
            [abs(solid.volume) for solid in solids],
            [solid.centroid for solid in solids],
            [solid.inertia for solid in solids],
        )
        return Frame(placement(centre), f"centre of {' + '.join(p.name for p in parts[:3])}")

    def frame(self, name: str) -> Frame:
        """A named place that the file holds.

        Raises:
            ModelError: the file holds none of that name.
        """
        if name not in self.frames:
            known = list(self.frames)
            there = f"; there are {', '.join(known[:8])}" if known else "; it holds none"
            hint = did_you_mean(name, known) or there
            raise ModelError(f"no frame of {self.file.name} is called {name!r}{hint}")
        return self.frames[name]

    def _group(self, chosen: str | Part | Sequence[Part]) -> Sequence[Part]:
        if isinstance(chosen, str):
            return self.pick(chosen)
        return [chosen] if isinstance(chosen, Part) else chosen

    @property
    def table(self) -> pd.DataFrame:
        """One row a placed part, index "part": path, product, size in x, y, z [m], triangles,
        volume [m^3], whether its surface is closed, bodies, bores, color, material, density.
        """
        import pandas as pd

        rows = [
            {
                "part": part.name,
                "path": part.path,
                "product": part.geometry.name,
                **{f"size_{axis}": size for axis, size in zip("xyz", part.size, strict=True)},
                "triangles": len(part.mesh.faces),
                "volume": part.volume,
                "closed": part.geometry.closed,
                "bodies": part.geometry.bodies,
                "bores": len(part.bores),
                "color": part.color,
                "material": None if part.material is None else part.material.name,
                "density": None if part.material is None else part.material.density,
            }
            for part in self.parts
        ]
        return pd.DataFrame(rows).set_index("part")

    def kinds(self) -> list[list[Part]]:
        """The parts grouped by the geometry they share, in the file's order."""
        groups: dict[int, list[Part]] = {}
        for part in self.parts:
            groups.setdefault(id(part.geometry), []).append(part)
        return list(groups.values())

    @property
    def bounds(self) -> Array:
        """Lowest and highest coordinates over all parts, (2, 3) [m]."""
        lows = [part.vertices.min(axis=0) for part in self.parts]
        highs = [part.vertices.max(axis=0) for part in self.parts]
        return np.stack([np.min(lows, axis=0), np.max(highs, axis=0)])


def joined(assemblies: Sequence[Assembly]) -> Assembly:
    """Several assemblies as one; parts whose names are taken get a number."""
    if len(assemblies) == 1:
        return assemblies[0]
    names = NameRegister()
    parts = [replace(p, name=names.unique(p.name)) for a in assemblies for p in a.parts]
    return Assembly(
        " + ".join(a.name for a in assemblies),
        assemblies[0].file,
        tuple(parts),
        tuple(note for a in assemblies for note in a.notes),
        tuple(name for a in assemblies for name in a.dropped),
        {name: place for a in assemblies for name, place in a.frames.items()},
    )


def _matches(part: Part, pattern: str) -> bool:
    return fnmatchcase(part.name, pattern) or fnmatchcase(part.path, pattern)
