"""Which parts hold together, and what relations remain between the groups."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np

from mooring.cad.assembly import Assembly
from mooring.cad.part import Part
from mooring.cad.touching.relations import (
    Relation,
    Turning,
    is_axle,
    is_round_about,
    relation_of,
    slide_direction,
)
from mooring.geometry import Array

_STICKING_OUT = 0.25
"""Share of a shank's length that leads into something which is not there."""


class Unions:
    """Sets of names that only ever grow together."""

    def __init__(self, names: Iterable[str]) -> None:
        self._above = {name: name for name in names}
        self.why: dict[str, list[str]] = {}

    def of(self, name: str) -> str:
        while self._above[name] != name:
            self._above[name] = self._above[self._above[name]]
            name = self._above[name]
        return name

    def join(self, one: str, other: str, why: str) -> bool:
        a, b = self.of(one), self.of(other)
        if a == b:
            return False
        self._above[b] = a
        self.why.setdefault(a, []).extend([why, *self.why.pop(b, [])])
        return True


@dataclass(eq=False)
class Between:
    """All that is known between two groups.

    Attributes:
        turnings: with the two parts each was found in.
        normals: of the faces that lie against each other.
        parts: a pair of parts that touch.
    """

    turnings: list[tuple[Turning, str, str]] = field(default_factory=list)
    normals: list[Array] = field(default_factory=list)
    parts: tuple[str, str] = ("", "")

    @property
    def direction(self) -> Array | None:
        """In which the faces can slide, if they can at all."""
        return slide_direction(np.concatenate(self.normals)) if self.normals else None


@dataclass(eq=False)
class Groups:
    """The result.

    Attributes:
        unions: of the names of parts that hold together.
        axles: pins that join other parts.
        between: what is between two groups, by a pair of their roots.
        mounts: how many bolts go through a group into nothing that is there, by its root.
    """

    unions: Unions
    axles: set[str]
    between: dict[tuple[str, str], Between]
    mounts: dict[str, int]


def group_parts(assembly: Assembly, tolerance: float) -> Groups:
    """Group the parts of an assembly by what holds them together."""
    by_name = {part.name: part for part in assembly.parts}
    hardware = {part.name for kind in assembly.hardware() for part in kind.parts}
    contacts = [(c.first, c.second) for c in assembly.touching(tolerance)]
    unions = Unions(by_name)
    relations = {
        (a, b): relation_of(by_name[a], by_name[b], tolerance)
        for a, b in contacts
        if a not in hardware and b not in hardware
    }
    free_bolts = _fasten(unions, contacts, hardware)
    _hold_round_parts(unions, by_name, relations)
    axles = _fix_axles(unions, by_name, relations)
    for (a, b), relation in relations.items():
        if relation.kind == "rigid":
            unions.join(a, b, f"{a} and {b} run into each other")
    if len({_folder(part) for part in assembly.parts}) > 1:
        for (a, b), relation in relations.items():
            if relation.kind == "flat" and _folder(by_name[a]) == _folder(by_name[b]):
                unions.join(a, b, f"{a} lies on {b}, and the CAD keeps them together")
    else:
        _put_on_larger(unions, by_name, relations)
    joined = True
    while joined:
        joined = False
        # Every pair is looked at in each round: a round rebuilds all that is between groups.
        for gap in _between(unions, relations).values():
            joined |= _hold_if_stuck(unions, gap)
    _attach_hardware(unions, contacts, hardware)
    mounts: dict[str, int] = {}
    for bolt, part in free_bolts:
        if _sticks_out(by_name[bolt], by_name[part]):
            mounts[unions.of(part)] = mounts.get(unions.of(part), 0) + 1
    return Groups(unions, axles, _between(unions, relations), mounts)


def _folder(part: Part) -> str:
    return part.path.rpartition("/")[0]


def _sticks_out(bolt: Part, part: Part) -> bool:
    """Whether a bolt's shank goes on where the only part it goes through has ended."""
    shanks = [face for face in bolt.cylinders if face.kind == "pin"]
    if not shanks:
        return False
    shank = max(shanks, key=lambda face: face.length)
    low, high = part.vertices.min(axis=0), part.vertices.max(axis=0)
    ends = [shank.centre + sign * shank.direction * shank.length / 2 for sign in (-1, 1)]
    beyond = max(float(np.maximum(low - end, end - high).max()) for end in ends)
    return beyond > _STICKING_OUT * shank.length


def _fasten(
    unions: Unions, contacts: list[tuple[str, str]], hardware: set[str]
) -> list[tuple[str, str]]:
    """Two parts that two or more bolts go through are one.

    Returns:
        Every bolt that goes through one part only, with that part.
    """
    bolts = Unions(hardware)
    for a, b in contacts:
        if a in hardware and b in hardware:
            bolts.join(a, b, "")
    held: dict[str, set[str]] = {}
    for a, b in contacts:
        for bolt, part in ((a, b), (b, a)):
            if bolt in hardware and part not in hardware:
                held.setdefault(bolts.of(bolt), set()).add(part)
    shared: dict[tuple[str, str], int] = {}
    for parts in held.values():
        for a in parts:
            for b in parts:
                if a < b:
                    shared[a, b] = shared.get((a, b), 0) + 1
    for (a, b), count in sorted(shared.items()):
        if count >= 2:
            unions.join(a, b, f"{count} screws hold {a} to {b}")
    return [(bolt, next(iter(parts))) for bolt, parts in held.items() if len(parts) == 1]


def _hold_round_parts(
    unions: Unions, by_name: dict[str, Part], relations: dict[tuple[str, str], Relation]
) -> None:
    """A tyre on its rim: round about the axis, touching nothing else, kept together by the CAD.

    It could turn, but nobody would see it.
    """
    partners: dict[str, list[str]] = {}
    for a, b in relations:
        partners.setdefault(a, []).append(b)
        partners.setdefault(b, []).append(a)
    for (a, b), relation in relations.items():
        if relation.turning is None or _folder(by_name[a]) != _folder(by_name[b]):
            continue
        for name, other in ((a, b), (b, a)):
            part = by_name[name]
            alone = len(partners[name]) == 1 and not is_axle(part)
            if alone and is_round_about(part, relation.turning):
                unions.join(other, name, f"{name} is round and sits on {other} alone")
                break


def _fix_axles(
    unions: Unions, by_name: dict[str, Part], relations: dict[tuple[str, str], Relation]
) -> set[str]:
    """A pin goes with one of the parts it joins: its neighbour in the CAD's tree, or the larger.

    Returns the names of such pins.
    """
    axles = set()
    for name, part in by_name.items():
        if not is_axle(part):
            continue
        others = [
            b if a == name else a
            for (a, b), relation in relations.items()
            if name in (a, b) and relation.kind == "turning"
        ]
        if len(others) >= 2:
            axles.add(name)
            owner = max(
                others,
                key=lambda o: (_folder(by_name[o]) == _folder(part), by_name[o].volume),
            )
            unions.join(owner, name, f"the pin {name} is taken to be fixed in {owner}")
    return axles


def _put_on_larger(
    unions: Unions, by_name: dict[str, Part], relations: dict[tuple[str, str], Relation]
) -> None:
    """In a file without sub-assemblies: each part goes with the larger one it lies on most.

    But for parts that something holds already, and those that turn; and what guides a part, so
    that it can slide there, does not hold it.
    """
    turning = {name for pair, r in relations.items() if r.turning is not None for name in pair}
    for name in sorted(by_name, key=lambda n: by_name[n].volume):
        if name in turning or unions.of(name) != name or unions.why.get(name):
            continue
        larger = [
            (relation.area, other)
            for (a, b), relation in relations.items()
            if relation.kind == "flat"
            and name in (a, b)
            and slide_direction(relation.normals) is None
            for other in (b if a == name else a,)
            if by_name[other].volume >= by_name[name].volume
        ]
        if larger:
            _, other = max(larger, key=lambda found: (found[0], by_name[found[1]].volume))
            unions.join(other, name, f"{name} lies on {other} more than on any other part")


def _between(
    unions: Unions, relations: dict[tuple[str, str], Relation]
) -> dict[tuple[str, str], Between]:
    found: dict[tuple[str, str], Between] = {}
    for (a, b), relation in relations.items():
        one, other = unions.of(a), unions.of(b)
        if one == other:
            continue
        gap = found.setdefault((min(one, other), max(one, other)), Between())
        gap.parts = (a, b)
        if relation.turning is not None:
            gap.turnings.append((relation.turning, a, b))
        if len(relation.normals):
            gap.normals.append(relation.normals)
    return found


def _hold_if_stuck(unions: Unions, gap: Between) -> bool:
    """Join two groups that nothing lets move; whether they were joined."""
    a, b = gap.parts
    if not gap.turnings:
        if gap.direction is not None:
            return False
        return unions.join(a, b, f"{a} lies on {b} and nothing guides it")
    first = gap.turnings[0][0]
    for turning, _, _ in gap.turnings[1:]:
        off = turning.origin - first.origin
        aside = np.linalg.norm(off - first.direction * (off @ first.direction))
        if aside > 1e-3 or abs(turning.direction @ first.direction) < 0.999:
            return unions.join(a, b, f"{a} and {b} are held at two axes")
    if gap.normals and (np.abs(np.concatenate(gap.normals) @ first.direction) < 0.99).any():
        return unions.join(a, b, f"{a} and {b} are keyed together")
    return False


def _attach_hardware(unions: Unions, contacts: list[tuple[str, str]], hardware: set[str]) -> None:
    """Each screw goes with a part that it touches, directly or by way of its washer."""
    for direct in (True, False):
        for a, b in contacts:
            for bolt, part in ((a, b), (b, a)):
                loose = bolt in hardware and unions.of(bolt) == bolt and not unions.why.get(bolt)
                if loose and (part not in hardware) == direct:
                    unions.join(part, bolt, "")
