"""An exercise in words and tables, and as plain values."""

from __future__ import annotations

from typing import Any

from mooring.exercising.efforts import HoldingEffort
from mooring.exercising.perform import Exercise
from mooring.kinematics.overlaps import Meeting
from mooring.model.definition.fields import dimension_of
from mooring.units import show


def where(done: Exercise, meeting: Meeting) -> str:
    """Where a pair came nearest, e.g. "while slew moves alone, at 35 deg"."""
    if meeting.lasting and meeting.distance < 0:
        return "always"
    occasion = done.where[0 if meeting in done.meetings else 1][meeting.at]
    if occasion.joint is None:
        return occasion.words
    value = float(meeting.q[done.tree.coordinate(occasion.joint)])
    dimension = dimension_of("position", done.robot.joints[occasion.joint].motion)
    return f"{occasion.words}, at {show(value, dimension, 3)}"


def as_markdown(done: Exercise) -> str:
    """The report, for people."""
    robot = done.robot
    lines = [
        f"# {robot.name}, exercised",
        "",
        f"{done.mobility}. Moved mass {show(done.mass, 'mass')}.",
        "",
        f"**{summary(done)}**",
        "",
        "## Joints",
        "",
        "| joint | from | to | moves | mass | to hold it, at worst | its limit | share |",
        "| --- | ---: | ---: | --- | ---: | ---: | ---: | ---: |",
    ]
    efforts = {effort.joint: effort for effort in done.efforts}
    for sweep in done.sweeps:
        position = dimension_of("position", sweep.motion)
        effort = efforts.get(sweep.joint)
        cells = [sweep.joint, show(sweep.lower, position, 3), show(sweep.upper, position, 3)]
        cells += [_listed(sweep.moving), show(sweep.mass, "mass", 3)]
        held, limit, share = effort_cells(effort)
        weak = effort is not None and effort.too_weak
        cells += [held, limit, f"{share} too weak" if weak else share]
        lines.append("| " + " | ".join(cells) + " |")
    lines += _section("Not judged", list(done.unjudged))
    lines += _section("Did not come to the end of its range", list(done.stops))
    doubts = [
        f"{sweep.joint}: at {show(at, dimension_of('position', sweep.motion), 3)} it may go on in "
        "another branch; it was taken straight on"
        for sweep in done.sweeps
        for at in sweep.doubts
    ]
    lines += _section("Where a branch is in doubt", doubts)
    lines += _section("Postures that cannot be taken", list(done.unreachable))
    lines += ["", "## Overlaps", ""]
    if not done.overlaps:
        lines.append("None while one joint moves alone, nor in a named posture.")
    for meeting in done.overlaps:
        lines.append(
            f"- {meeting.first} and {meeting.second}: {show(-meeting.distance, 'length', 3)} deep, "
            f"{where(done, meeting)}; {meeting.proposal()}"
        )
    near = done.nearest
    if near is not None:
        lines += [
            "",
            f"Smallest clearance: {near.first} and {near.second}, "
            f"{show(near.distance, 'length', 3)}, {where(done, near)}.",
        ]
    if done.possible_overlaps:
        lines += ["", "With several joints away from home these can hit each other:", ""]
        lines += [
            f"- {m.first} and {m.second}: up to {show(-m.distance, 'length', 3)} deep, "
            f"in {100 * m.share:.2g}% of the positions tried"
            for m in done.possible_overlaps
        ]
    if done.hulled:
        lines += ["", f"Meshes count as their convex hulls: {', '.join(done.hulled)}."]
    if done.changes:
        lines += ["", "## Between postures", "", "| from | to | at full speed | slowest joint |"]
        lines += ["| --- | --- | ---: | --- |"]
        for change in done.changes:
            seconds = "no limit" if change.seconds is None else f"{change.seconds:.3g} s"
            lines.append(f"| {change.start} | {change.end} | {seconds} | {change.slowest} |")
    return "\n".join(lines) + "\n"


def summary(done: Exercise) -> str:
    """One line."""
    words = []
    if done.overlaps:
        words.append(_many(len(done.overlaps), "overlap"))
    if done.weak:
        names = ", ".join(effort.joint for effort in done.weak)
        words.append(f"too weak to hold the machine everywhere: {names}")
    if done.unreachable:
        words.append(_many(len(done.unreachable), "posture") + " out of reach")
    if words:
        return "; ".join(words)
    clear = []
    if any(link.collisions for link in done.robot.links.values()):
        clear.append("nothing overlaps")
    if any(effort.limit < float("inf") for effort in done.efforts):
        clear.append("the machine is held everywhere within its effort limits")
    return " and ".join(clear) or "nothing could be judged"


def as_dict(done: Exercise) -> dict[str, Any]:
    """Plain values in SI, for programs."""
    return {
        "robot": done.robot.name,
        "ok": done.ok,
        "mobility": {
            "freedoms": done.mobility.freedoms,
            "equations": done.mobility.equations,
            "actual": done.mobility.actual,
            "repeated": done.mobility.repeated,
        },
        "moved_mass_kg": done.mass,
        "joints": [
            {
                "joint": sweep.joint,
                "lower": sweep.lower,
                "upper": sweep.upper,
                "moves": list(sweep.moving),
                "mass_kg": sweep.mass,
                "stops": list(sweep.stops),
                "doubts": list(sweep.doubts),
            }
            for sweep in done.sweeps
        ],
        "efforts": [
            {
                "joint": effort.joint,
                "effort": effort.effort,
                "limit": effort.limit if effort.limit < float("inf") else None,
                "driven": effort.driven,
                "too_weak": effort.too_weak,
                "at": dict(zip(done.tree.coordinates, effort.q.tolist(), strict=True)),
            }
            for effort in done.efforts
        ],
        "overlaps": [_meeting(done, m) for m in done.overlaps],
        "possible_overlaps": [_meeting(done, m) for m in done.possible_overlaps],
        "smallest_clearance": None if done.nearest is None else _meeting(done, done.nearest),
        "changes": [vars(change) for change in done.changes],
        "unreachable": list(done.unreachable),
        "not_judged": list(done.unjudged),
    }


def _meeting(done: Exercise, meeting: Meeting) -> dict[str, Any]:
    return {
        "links": [meeting.first, meeting.second],
        "distance_m": meeting.distance,
        "where": where(done, meeting),
        "share": meeting.share,
        "proposal": meeting.proposal(),
        "at": dict(zip(done.tree.coordinates, meeting.q.tolist(), strict=True)),
    }


def effort_cells(effort: HoldingEffort | None) -> tuple[str, str, str]:
    """What holding takes, the limit, and the share of it; empty where nothing is known."""
    if effort is None:
        return "", "", ""
    dimension = dimension_of("effort", effort.motion)
    small = abs(effort.effort) < 1e-9
    said = "0" if small else show(abs(effort.effort), dimension, 3)
    if effort.limit == float("inf"):
        return said, "not stated", ""
    return said, show(effort.limit, dimension, 3), f"{100 * effort.share:.0f}%"


def _section(title: str, items: list[str]) -> list[str]:
    if not items:
        return []
    return ["", f"## {title}", "", *(f"- {item}" for item in items)]


def _listed(names: tuple[str, ...]) -> str:
    if len(names) <= 4:
        return ", ".join(names)
    return f"{', '.join(names[:3])} and {len(names) - 3} more"


def _many(count: int, word: str) -> str:
    return f"{count} {word}{'' if count == 1 else 's'}"
