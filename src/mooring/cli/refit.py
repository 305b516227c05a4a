"""mooring refit: somebody else's robot made good."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from mooring.cli.manner import manner
from mooring.cli.options import AllowOutside, CopyMeshes, RobotFile, Search
from mooring.cli.outputs import to_write
from mooring.cli.reading import read_robot
from mooring.cli.terminal import busy, hint, print_json, say, wrote
from mooring.errors import ModelError

if TYPE_CHECKING:
    from mooring.model import Robot

_PATTERN = "As PATTERN=VALUE, by names of links; may be given again."


def refit(
    file: RobotFile,
    output: Annotated[
        Path,
        typer.Argument(
            metavar="OUT", callback=to_write, help="A file: .urdf, .yaml or .json, as for export."
        ),
    ],
    mesh_unit: Annotated[
        list[str] | None,
        typer.Option(metavar="PATTERN=UNIT", help=f"Unit of meshes, e.g. '*=mm'. {_PATTERN}"),
    ] = None,
    branch: Annotated[
        str | None, typer.Option(metavar="LINK", help="Only this link and what hangs on it.")
    ] = None,
    root: Annotated[
        str | None, typer.Option(metavar="LINK", help="Hold the robot at this link.")
    ] = None,
    merge_fixed: Annotated[
        str | None,
        typer.Option(metavar="PATTERN", help="Make one of links that fixed joints hold, e.g. '*'."),
    ] = None,
    simplify: Annotated[
        list[str] | None,
        typer.Option(
            metavar="PATTERN=N",
            help=f"Fewer triangles in each mesh, e.g. '*=2000' or '*=0.5 mm'. {_PATTERN}",
        ),
    ] = None,
    collide: Annotated[
        list[str] | None,
        typer.Option(
            metavar="PATTERN=RULE",
            help=f"Collision shapes by rule, e.g. '*=auto', box, hull, pieces. {_PATTERN}",
        ),
    ] = None,
    weigh: Annotated[
        list[str] | None,
        typer.Option(
            metavar="PATTERN[=MASS]",
            help="Inertias anew from the shapes: by the mass there is ('*'), a mass ('arm=7 kg'), "
            f"a density ('*=2700 kg/m^3') or a material ('*=steel'). {_PATTERN}",
        ),
    ] = None,
    copy_meshes: CopyMeshes = False,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """Make a robot good that comes from elsewhere, in the order of these options: units of meshes,
    a branch of it, another root, fixed joints merged, fewer triangles, collision shapes, masses."""
    from mooring.formats.suffixes import write

    told: list[str] = []
    with busy(f"refitting {file.name}"):
        robot = read_robot(file, allow_outside, search)
        for pattern, unit in _pairs(mesh_unit, "*=mm"):
            told += robot.set_mesh_unit(pattern, unit)
        robot = _reshaped(robot, branch, root, merge_fixed, told)
        for pattern, value in _pairs(simplify, "*=2000"):
            number = int(value) if value.isdigit() else None
            told += robot.simplify(
                pattern, triangles=number, tolerance=None if number is not None else value
            )
        for pattern, rule in _pairs(collide, "*=auto"):
            robot.set_collision(pattern, rule, anew=True)
        told += _fits(robot, collide)
        for pattern, value in _pairs(weigh, None):
            told += robot.weigh(pattern, **_said_of_mass(value))
        losses = write(robot, output, copy_meshes=copy_meshes)
    if manner.as_json:
        print_json({"file": str(output), "done": told, "not_carried": losses})
        return
    for words in told:
        say("[green4]done:[/] {}", words)
    if not told:
        say("nothing was asked for but to write it anew")
    wrote(output)
    for loss in losses:
        say("[dark_orange3]not carried:[/] {}", loss)
    hint("check", output)


def _reshaped(
    robot: Robot, branch: str | None, root: str | None, fixed: str | None, told: list[str]
) -> Robot:
    """A branch of it, with another root, and what is held together merged."""
    steps: list[tuple[str | None, Callable[[Robot, str], Robot]]] = [
        (branch, lambda r, name: r.branch(name)),
        (root, lambda r, name: r.rerooted(name)),
        (fixed, lambda r, pattern: r.merged(pattern)),
    ]
    for value, step in steps:
        if value is None:
            continue
        before = set(robot.links), list(robot.notes)
        robot = step(robot, value)
        told += [str(note) for note in robot.notes if note not in before[1]]
        gone = sorted(before[0] - set(robot.links))
        if gone:
            more = f" and {len(gone) - 8} more" if len(gone) > 8 else ""
            told.append(f"links that are no more: {', '.join(gone[:8])}{more}")
    return robot


def _fits(robot: Robot, collide: list[str] | None) -> list[str]:
    """How well the collision shapes fit that were asked for."""
    from mooring.units import show

    if not collide:
        return []
    said = []
    for row in robot.collision_table.to_dict("records"):
        shapes = "1 shape" if row["shapes"] == 1 else f"{row['shapes']} shapes"
        out = row["overhang"]
        how = f"standing out by up to {show(out, 'length', 3)}" if out > 1e-6 else "fitting exactly"
        said.append(f"link {row['link']!r} collides as {shapes} ({row['rule']}), {how}")
    return said


def _pairs(said: list[str] | None, example: str | None) -> list[tuple[str, str]]:
    """Patterns and values; without an example a value may be left out."""
    found = []
    for one in said or []:
        pattern, equals, value = one.rpartition("=")
        if not equals and example is None:
            pattern, value = one, ""
        elif not pattern.strip() or not value.strip():
            raise ModelError(f"cannot read {one!r}; write it as {example or '*=steel'}")
        found.append((pattern.strip(), value.strip()))
    return found


def _said_of_mass(value: str) -> dict[str, str]:
    """A mass, a density or a material by how it is written."""
    if not value:
        return {}
    if not re.match(r"[\d.]", value):
        return {"material": value}
    return {"density" if "^3" in value else "mass": value}
