"""Making an assembly fit for a robot: what is left out, split, joined, mended and simplified.

Each of these returns another assembly; the one it is asked of stays as it was.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import TYPE_CHECKING, Self

from mooring import announcing
from mooring.arguments import proven_methods
from mooring.cad.assembly.contents import Contents
from mooring.cad.part import Geometry, Part
from mooring.cad.tidying.join import joined_part
from mooring.cad.tidying.split import split_part
from mooring.errors import ModelError
from mooring.units import show, to_si

if TYPE_CHECKING:
    from mooring.cad.tidying.cutting.cutters import Cut


@proven_methods
class Tidying(Contents):
    """Making an assembly fit for a robot; see `Assembly`."""

    def keep(self, *patterns: str) -> Self:
        """The assembly with some parts marked to be kept as they are.

        Whatever else is asked, they are neither dropped nor simplified.

        Raises:
            ModelError: a pattern matches nothing.
        """
        names = {part.name for part in self.pick(*patterns)}
        return replace(self, kept=self.kept | names)

    def split(self, name: str) -> Self:
        """The assembly with a part split into its bodies, `name_1`, `name_2`, ...; told in notes.

        Bodies are the exact solids of the file, or what is connected by triangles.

        Raises:
            ModelError: no or several parts match, or the part is one body.
        """
        part = self.part(name)
        bodies = split_part(part)
        kind = "solids" if part.geometry.solids else "bodies"
        note = f"{part.name} was split into its {len(bodies)} {kind}: {_sizes(bodies)}"
        return self._with(part, bodies, note)

    def cut(self, name: str, *cuts: Cut) -> Self:
        """The assembly with a part cut into pieces, `name_1`, `name_2`, ...; told in the notes.

        Each cut goes through all pieces that those before it left. What they open is closed.

        Args:
            name: of the part.
            cuts: `PlaneCut`, `BoxCut`, `CylinderCut`, `NeckCut`, `CreaseCut`.

        Raises:
            ModelError: no or several parts match, the part is not closed, or a cut misses it.

        Example:
            `assembly.cut("gripper", CreaseCut(0.5)).rename({"gripper_2": "left_finger"})`
        """
        from mooring.cad.tidying.cutting.cut import cut_part

        part = self.part(name)
        pieces = cut_part(part, cuts)
        note = f"{part.name} was cut into {len(pieces)}: {_sizes(pieces)}"
        if part.geometry.source == "exact solid":
            off = 100 * (sum(piece.volume for piece in pieces) / part.volume - 1)
            note += f"; these are volumes of triangles, together {off:+.2g}% of the exact one"
        return self._with(part, pieces, note)

    def rename(self, names: Mapping[str, str]) -> Self:
        """The assembly with other names for some parts.

        Args:
            names: for the name, path or pattern of one part its new name.

        Raises:
            ModelError: no or several parts match, or two parts would have one name.
        """
        new = {self.part(old).name: name for old, name in names.items()}
        parts = tuple(replace(p, name=new.get(p.name, p.name)) for p in self.parts)
        doubles = [name for name, k in Counter(p.name for p in parts).items() if k > 1]
        if doubles:
            raise ModelError(f"two parts would be called {doubles[0]!r}")
        return replace(self, parts=parts, kept=frozenset(new.get(k, k) for k in self.kept))

    def join(self, name: str, *patterns: str) -> Self:
        """The assembly with the parts that match as one part of a new name.

        Raises:
            ModelError: a pattern matches nothing, fewer than two parts match, they are of
                different materials, or the name is taken.
        """
        parts = self.pick(*patterns)
        whole = joined_part(name, parts)
        rest = replace(self, parts=tuple(p for p in self.parts if p not in parts[1:]))
        return rest._with(parts[0], [whole])

    def _with(self, old: Part, new: Sequence[Part], *notes: str) -> Self:
        """The assembly with others in the place of a part."""
        taken = {part.name for part in self.parts if part is not old}
        for part in new:
            if part.name in taken:
                raise ModelError(f"there is already a part called {part.name!r}; rename that first")
        parts: list[Part] = []
        for part in self.parts:
            parts.extend(new if part is old else [part])
        kept = self.kept | {part.name for part in new} if old.name in self.kept else self.kept
        return replace(self, parts=tuple(parts), kept=kept, notes=(*self.notes, *notes))

    def only(
        self,
        *patterns: str,
        smaller_than: float | str | None = None,
        larger_than: float | str | None = None,
        color: str | Sequence[str] | None = None,
    ) -> Self:
        """The assembly with just the parts for which everything given holds, and those to keep.

        The names of the others are kept in `dropped`. Arguments are as for `select`.

        Raises:
            ModelError: a pattern matches nothing, or nothing is left.
        """
        chosen = self.select(
            *patterns, smaller_than=smaller_than, larger_than=larger_than, color=color
        )
        wanted = {id(part) for part in chosen}
        return self._without([part for part in self.parts if id(part) not in wanted])

    def drop(
        self,
        *patterns: str,
        smaller_than: float | str | None = None,
        larger_than: float | str | None = None,
        color: str | Sequence[str] | None = None,
        hardware: bool = False,
        hidden: bool = False,
    ) -> Self:
        """The assembly without some parts; their names go to `dropped`. Parts to keep stay.

        Args:
            patterns: parts whose name or path matches any of these.
            smaller_than: parts whose longest side is less than this, e.g. `"15 mm"`.
            larger_than: parts whose longest side is more than this.
            color: parts of this color, "#rrggbb", or of several.
            hardware: what `hardware()` finds.
            hidden: what `hidden()` finds.

        Raises:
            ModelError: a pattern matches nothing, or nothing would be left.
        """
        chosen = self.pick(*patterns)
        if smaller_than is not None:
            chosen += self.select(smaller_than=smaller_than)
        if larger_than is not None:
            chosen += self.select(larger_than=larger_than)
        if color is not None:
            chosen += self.select(color=color)
        if hardware:
            chosen += [part for kind in self.hardware() for part in kind.parts]
        if hidden:
            chosen += self.hidden()
        return self._without(chosen)

    def repair(self, *patterns: str) -> Self:
        """The assembly with triangles turned so that all face outwards; told in the notes.

        Gaps are not filled: `table` counts the open edges.

        Args:
            patterns: parts whose name or path matches any of these; all if not given.

        Raises:
            ModelError: a pattern matches nothing.
        """
        from mooring.cad.tidying.repair import repaired

        chosen = self.pick(*patterns) if patterns else list(self.parts)
        notes: list[str] = []
        results: dict[int, Geometry] = {}
        for part in chosen:
            key = id(part.geometry)
            if key not in results:
                results[key], count = repaired(part.geometry)
                if count:
                    name = part.geometry.name or part.name
                    notes.append(f"{name}: {count:,} triangles were turned to face outwards")
        return self._with_geometries(chosen, results, notes)

    def simplify(
        self,
        *patterns: str,
        triangles: int | None = None,
        tolerance: float | str | None = None,
    ) -> Self:
        """The assembly with fewer triangles; what each kind of part lost is told in the notes.

        Masses, bores and faces stay those of the parts as they were read.

        Args:
            patterns: parts whose name or path matches any of these; all if not given.
            triangles: for all these parts together, copies counted; all are then off by about
                as much.
            tolerance: instead, as few as stay within this distance of the surface as it was read,
                e.g. `"0.5 mm"`.

        Raises:
            ModelError: a pattern matches nothing, not one of the two is given, or one is not
                greater than zero.

        Example:
            `assembly.keep("jaw_pad*").simplify(tolerance="0.5 mm").notes`
        """
        from mooring.cad.tidying.simplify import Ladder, tolerance_for

        if (triangles is None) == (tolerance is None):
            raise ModelError("simplify takes either triangles= or tolerance=")
        within = None if tolerance is None else to_si(tolerance, "length")
        if (triangles is not None and triangles <= 0) or (within is not None and within <= 0):
            raise ModelError("what a part is simplified to must be greater than zero")
        chosen = self.pick(*patterns) if patterns else list(self.parts)
        kinds: dict[int, list[Part]] = {}
        for part in chosen:
            if part.name not in self.kept:
                kinds.setdefault(id(part.geometry), []).append(part)
        ladders = []
        for number, parts in enumerate(kinds.values()):
            announcing.progress(number, len(kinds))
            ladders.append(Ladder(parts[0].geometry))
        copies = [len(parts) for parts in kinds.values()]
        if within is None:
            within = tolerance_for(ladders, copies, triangles or 0)
        results = [ladder.simplified(within) for ladder in ladders]
        before = sum(done.before * k for (_, done), k in zip(results, copies, strict=True))
        after = sum(done.after * k for (_, done), k in zip(results, copies, strict=True))
        summary = f"simplified: {before:,} -> {after:,} triangles"
        if triangles is not None and after > triangles:
            summary += f"; {triangles:,} cannot be reached without ruining shapes"
        return self._with_geometries(
            [part for parts in kinds.values() for part in parts],
            {key: geometry for key, (geometry, _) in zip(kinds, results, strict=True)},
            [summary, *(str(done) for _, done in results)],
        )

    def _with_geometries(
        self, chosen: Sequence[Part], geometries: dict[int, Geometry], notes: Sequence[str]
    ) -> Self:
        """The assembly in which some parts have other geometries, by the id of their own."""
        changed = {id(part) for part in chosen}
        parts = tuple(
            replace(part, geometry=geometries[id(part.geometry)]) if id(part) in changed else part
            for part in self.parts
        )
        return replace(self, parts=parts, notes=(*self.notes, *notes))

    def _without(self, parts: Sequence[Part]) -> Self:
        gone = {id(part) for part in parts if part.name not in self.kept}
        names = tuple(part.name for part in self.parts if id(part) in gone)
        left = tuple(part for part in self.parts if id(part) not in gone)
        if not left:
            raise ModelError(f"nothing of {self.file.name} would be left")
        return replace(self, parts=left, dropped=self.dropped + names)


def _sizes(parts: Sequence[Part]) -> str:
    listed = ", ".join(f"{p.name} {show(p.volume, 'volume')}" for p in parts[:6])
    return listed + (f" and {len(parts) - 6} more" if len(parts) > 6 else "")
