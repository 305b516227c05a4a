"""mooring tree: the kinematic tree."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any

import typer

from mooring.cli.manner import manner
from mooring.cli.options import AllowOutside, RobotFile, Search
from mooring.cli.reading import answer_for, read_robot
from mooring.cli.terminal import busy, counted, hint, out, print_json, say, strung, styled
from mooring.errors import InputError

if TYPE_CHECKING:
    from rich.text import Text
    from rich.tree import Tree as RichTree

    from mooring.model import Inertia, Joint, Robot

_DEEPEST = 200
"""Links one behind the other in nested JSON."""


def tree(
    file: RobotFile,
    mass: Annotated[
        bool, typer.Option("--mass", help="Where each link's mass comes from, in a table.")
    ] = False,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """The kinematic tree, with joint types, axes, limits and masses."""
    from mooring.model.robot.patching import as_tree
    from mooring.model.structure import roots

    with busy(f"reading {file.name}"):
        robot, patches = as_tree(read_robot(file, allow_outside, search))
        inertias = {name: robot.inertia(name) for name in robot.links}
    root = roots(robot)[0]
    if manner.as_json:
        _refuse_depths(robot, file.name)
        whole = {"robot": robot.name, "root": _as_dict(robot, root, inertias)}
        print_json(whole | {"patches": patches} if patches else whole)
        answer_for(patches)
        return
    from rich.tree import Tree as RichTree

    from mooring.units import show

    if mass:
        _print_masses(robot, inertias)
        return
    branch = RichTree(_link_text(robot, root, inertias[root]), guide_style="dim")
    _grow(robot, root, inertias, branch)
    console = out()
    console.print(branch)
    moving = sum(joint.moves for joint in robot.joints.values())
    say(
        "\n[bold]{}[/]: {}, {} ({} moving), {}, {}; {}",
        robot.name,
        counted(len(robot.links), "link"),
        counted(len(robot.joints), "joint"),
        moving,
        counted(len(robot.couplings), "coupling"),
        counted(len(robot.closures), "closure"),
        show(robot.mass(), "mass"),
    )
    if robot.couplings or robot.closures:
        from mooring.kinematics import mobility

        say("mobility: {}", mobility(robot))
    if not patches:
        hint("picture", file, "-o", f"{file.stem}.png")
    answer_for(patches)


def _refuse_depths(robot: Robot, file: str) -> None:
    """Refuse what would be nested deeper than programs read.

    Raises:
        InputError: with another way.
    """
    from mooring.model.structure import depth_first

    depths: dict[str, int] = {}
    for joint in depth_first(robot):
        depths[joint.child] = depths.get(joint.parent, 0) + 1
    deepest = max(depths.values(), default=0)
    if deepest > _DEEPEST:
        raise InputError(
            f"{file}: {deepest:,} links one behind the other; JSON nested deeper than {_DEEPEST} "
            f"is read by few programs: mooring export {file} tree.json writes it flat"
        )


def _print_masses(robot: Robot, inertias: dict[str, Inertia | None]) -> None:
    from rich.table import Table

    from mooring.units import show

    table = Table(box=None, header_style="bold", pad_edge=False)
    table.add_column("link", no_wrap=True)
    table.add_column("mass", justify="right", no_wrap=True)
    table.add_column("centre [mm]", justify="right", no_wrap=True)
    table.add_column("source", no_wrap=True)
    table.add_column("from")
    sums: dict[str, float] = {}
    for name, inertia in inertias.items():
        if inertia is None:
            table.add_row(
                name, "", "", styled("[red]none[/]"), "nobody says what it is made of or weighs"
            )
            continue
        sums[inertia.source] = sums.get(inertia.source, 0.0) + inertia.mass
        centre = ", ".join(f"{round(1000 * float(value), 2) + 0.0:g}" for value in inertia.centre)
        guess = inertia.source == "assumed"
        source = styled("[dark_orange3]{}[/]", inertia.source) if guess else inertia.source
        table.add_row(name, show(inertia.mass, "mass"), centre, source, inertia.detail)
    console = out()
    console.print(table)
    total = sum(sums.values())
    shares = ", ".join(
        f"{show(value, 'mass')} {source} ({100 * value / total:.0f}%)"
        for source, value in sums.items()
    )
    say("\n[bold]{}[/]: {}{}", robot.name, show(total, "mass"), f": {shares}" if sums else "")


def _grow(robot: Robot, link: str, inertias: dict[str, Inertia | None], branch: RichTree) -> None:
    from mooring.model.structure import depth_first

    branches = {link: branch}
    for joint in depth_first(robot):
        below = _link_text(robot, joint.child, inertias[joint.child])
        text = strung("\n", [_joint_text(robot, joint), below])
        branches[joint.child] = branches[joint.parent].add(text)


def _link_text(robot: Robot, name: str, inertia: Inertia | None) -> Text:
    from mooring.units import show

    words = styled("[bold]{}[/]  [dim]no mass[/]", name)
    if inertia is not None:
        mass = show(inertia.mass, "mass")
        words = styled("[bold]{}[/]  {} [dim]{}[/]", name, mass, inertia.source)
    for frame in robot.frames.values():
        if frame.link == name:
            role = "" if frame.role == "plain" else f"{frame.role} "
            words.append_text(styled("  [dark_orange3]{}frame {}[/]", role, frame.name))
    return words


def _joint_text(robot: Robot, joint: Joint) -> Text:
    words: list[Text | str] = [styled("[dark_cyan]{}[/]", joint.name), joint.type]
    if joint.has_axis:
        words.append(
            f"about {_axis(joint)}" if joint.motion == "rotation" else f"along {_axis(joint)}"
        )
        words.extend(_limits(joint))
    coupling = robot.couplings.get(joint.name)
    if coupling is not None:
        words.append(styled("[medium_purple3]follows {}[/]", coupling))
    for closure in robot.closures.values():
        if joint.child in closure.between:
            other = next(name for name in closure.between if name != joint.child)
            words.append(
                styled("[medium_purple3]{} {} to {}[/]", closure.kind, closure.name, other)
            )
    for motor in robot.motors.values():
        if motor.joint == joint.name:
            words.append(styled("[green4]motor {}[/]", motor.name))
    return strung("  ", words)


def _axis(joint: Joint) -> str:
    for value, name in zip(joint.axis, "xyz", strict=True):
        if abs(abs(value) - 1) < 1e-9:
            return name if value > 0 else f"-{name}"
    return "(" + ", ".join(f"{value:.3g}" for value in joint.axis) + ")"


def _limits(joint: Joint) -> list[str]:
    from mooring.units import show

    turns = joint.motion == "rotation"
    limits, words = joint.limits, []
    if not joint.endless:
        kind = "angle" if turns else "length"
        lower, upper = (
            "none" if value is None else show(value, kind) for value in (limits.lower, limits.upper)
        )
        words.append(f"{lower} .. {upper}")
    if limits.velocity is not None:
        words.append(show(limits.velocity, "angular velocity" if turns else "velocity"))
    if limits.effort is not None:
        words.append(show(limits.effort, "torque" if turns else "force"))
    return words


def _as_dict(robot: Robot, link: str, inertias: dict[str, Inertia | None]) -> dict[str, Any]:
    inertia = inertias[link]
    return {
        "link": link,
        "mass_kg": None if inertia is None else inertia.mass,
        "mass_source": None if inertia is None else inertia.source,
        "mass_detail": None if inertia is None else inertia.detail,
        "joints": [
            {
                "joint": joint.name,
                "type": joint.type,
                "axis": list(joint.axis),
                "limits": joint.limits.model_dump(),
                "child": _as_dict(robot, joint.child, inertias),
            }
            for joint in robot.joints.values()
            if joint.parent == link
        ],
    }
