"""What an assembly holds, and how parts of it are chosen."""

from __future__ import annotations

import glob
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fnmatch import fnmatchcase
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

from mooring import outlet
from mooring.arguments import proven_methods
from mooring.cad.part import Part
from mooring.cad.places.frame import Frame
from mooring.cad.tidying.hardware import Hardware, find_hardware
from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.units import to_si

if TYPE_CHECKING:
    import pandas as pd

NOT = "not "


@proven_methods
@dataclass(frozen=True, eq=False, repr=False)
class Contents(outlet.Shown):
    """The placed parts of a CAD file; see `Assembly`."""

    name: str
    file: Path
    parts: tuple[Part, ...]
    notes: tuple[str, ...] = ()
    dropped: tuple[str, ...] = ()
    frames: Mapping[str, Frame] = field(default_factory=dict)
    kept: frozenset[str] = frozenset()
    sources: tuple[tuple[Path, str | None], ...] = ()

    def __repr__(self) -> str:
        kinds = len({id(part.geometry) for part in self.parts})
        return f"<Assembly {self.name!r}: {len(self.parts)} parts of {kinds} kinds>"

    def pick(self, *patterns: str) -> list[Part]:
        """The parts whose name or path matches any of the patterns, in the file's order.

        Patterns are as in the shell: `*` stands for anything, `?` for one character. One that
        begins with `not ` takes away again what it matches; if it is the first, from all parts.

        Raises:
            ModelError: a pattern matches nothing.

        Example:
            `assembly.pick("base_plate", "gusset_*", "not gusset_4")`
        """
        chosen: set[int] = set()
        for number, pattern in enumerate(patterns):
            found = self._matching(pattern)
            if not found and pattern.startswith(NOT):
                excluded = self._matching(pattern.removeprefix(NOT).strip())
                if excluded:
                    chosen = (chosen if number else set(range(len(self.parts)))) - excluded
                    continue
            if not found:
                wanted = pattern.removeprefix(NOT).strip()
                hint = did_you_mean(wanted, [part.name for part in self.parts])
                dropped = any(fnmatchcase(name, wanted) for name in self.dropped)
                why = " (it was dropped)" if dropped else ""
                raise ModelError(f"no part of {self.file.name} matches {wanted!r}{why}{hint}")
            chosen |= found
        return [self.parts[k] for k in sorted(chosen)]

    def _matching(self, pattern: str) -> set[int]:
        """The numbers of the parts a pattern matches.

        A part's own name means that part, even where it is the path of another, too.
        """
        return {
            k for k, part in enumerate(self.parts) if pattern in (part.name, glob.escape(part.name))
        } or {k for k, part in enumerate(self.parts) if part.matches(pattern)}

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
        color: str | Sequence[str] | None = None,
    ) -> list[Part]:
        """The parts for which everything given holds.

        Args:
            patterns: any of these matches the name or path; all parts when there are none.
            smaller_than, larger_than: their longest side, e.g. `"15 mm"`.
            color: "#rrggbb", or several.

        Raises:
            ModelError: a pattern matches nothing, or no part has a color.
        """
        chosen = self.pick(*patterns) if patterns else list(self.parts)
        if smaller_than is not None:
            most = to_si(smaller_than, "length")
            chosen = [part for part in chosen if part.size.max() < most]
        if larger_than is not None:
            least = to_si(larger_than, "length")
            chosen = [part for part in chosen if part.size.max() > least]
        if color is not None:
            wanted = {c.lower() for c in ([color] if isinstance(color, str) else color)}
            missing = wanted - {part.color for part in self.parts}
            if missing:
                there = ", ".join(sorted({part.color for part in self.parts if part.color}))
                raise ModelError(
                    f"no part of {self.file.name} has the color {sorted(missing)[0]}; "
                    f"there are {there or 'none'}"
                )
            chosen = [part for part in chosen if part.color in wanted]
        return chosen

    def hardware(self) -> list[Hardware]:
        """The kinds of parts that look like screws, nuts and washers, each with the reasons."""
        low, high = self.bounds
        return find_hardware(self.kinds(), float(np.linalg.norm(high - low)))

    def hidden(self) -> list[Part]:
        """The parts that nobody can see from outside, by straight lines from their surfaces.

        A part that shows through a narrow gap only may be taken for hidden.
        """
        from mooring.cad.tidying.hidden import hidden_parts

        return hidden_parts(self.parts)

    def _group(self, chosen: str | Part | Sequence[Part]) -> Sequence[Part]:
        if isinstance(chosen, str):
            return self.pick(chosen)
        return [chosen] if isinstance(chosen, Part) else chosen

    @property
    def table(self) -> pd.DataFrame:
        """One row a placed part, index "part": path, product, size in x, y, z [m], triangles,
        volume [m^3], whether its surface is closed, open edges, bodies, bores, color, material,
        density.
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
                "open_edges": part.mesh.open_edges,
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
