"""mooring picture: a robot as an image."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, cast

import typer

from mooring.cli.options import AllowOutside, Posture, RobotFile, Search, Size, ViewFrom
from mooring.cli.outputs import STANDARD, to_write, written
from mooring.cli.reading import answer_for, read_robot
from mooring.cli.terminal import busy, hint, positions_from, print_json, say, wrote
from mooring.errors import ModelError

if TYPE_CHECKING:
    from mooring.drawing.camera import ViewName
    from mooring.model import Robot


def picture(
    file: RobotFile,
    output: Annotated[
        Path,
        typer.Option(
            "--output",
            "-o",
            callback=to_write,
            help="A .png, .jpg or .webp file, or - .",
        ),
    ],
    posture: Posture = None,
    joint: Annotated[
        list[str] | None,
        typer.Option(help="A joint's position, e.g. 'slew=30 deg'; may be given again."),
    ] = None,
    view: ViewFrom = "corner",
    layers: Annotated[
        str,
        typer.Option(
            help="Any of visual, collision, frames, axes, centres, dimensions, with commas."
        ),
    ] = "visual",
    size: Size = "1280x800",
    ground: Annotated[bool, typer.Option(help="Draw the ground.")] = True,
    explode: Annotated[
        float, typer.Option(help="Draw links apart, by this share of their distance.")
    ] = 0.0,
    section: Annotated[
        str | None, typer.Option(help="Cut away what lies beyond, e.g. y, x=200mm, -z=1m.")
    ] = None,
    dark: Annotated[bool, typer.Option("--dark", help="Light on dark.")] = False,
    allow_outside: AllowOutside = False,
    search: Search = None,
) -> None:
    """A picture of a robot: posture, view, layers."""
    from mooring.drawing import picture as draw
    from mooring.drawing import picture_format
    from mooring.model.robot.patching import as_tree

    if output != STANDARD:
        picture_format(output)
    robot, patches = as_tree(read_robot(file, allow_outside, search))
    positions: str | dict[str, float | str] | None = posture
    if joint:
        given = positions_from(joint)
        positions = {**(robot.posture(posture) if posture is not None else {}), **given}
    with busy("drawing"):
        image = draw(
            robot,
            posture=positions,
            view=view_of(view),
            layers=[layer.strip() for layer in layers.split(",") if layer.strip()],
            size=size_of(size),
            ground=ground,
            explode=explode,
            section=section,
            dark=dark,
        )
        with written(output, ".png") as path:
            image.save(path)
    notes = list(told_of_positions(robot, positions))
    for words in notes:
        say("[dark_orange3]note[/] {}", words)
    if output != STANDARD:
        wrote(output)
    print_json({"file": str(output), "notes": notes, "patches": patches})
    if not patches:
        hint("exercise", file, "-o", f"{file.stem}-exercised")
    answer_for(patches)


def told_of_positions(
    robot: Robot, posture: str | Mapping[str, float | str] | None
) -> Iterator[str]:
    """Where a posture is beyond limits, or moves what follows something else."""
    from mooring.model.definition.fields import dimension_of
    from mooring.units import show

    if isinstance(posture, str):
        posture = robot.posture(posture)
    for name, value in robot.read_positions("the posture", posture or {}).items():
        joint = robot.joints[name]
        dimension = dimension_of("position", joint.motion)
        for side, sign in (("lower", -1), ("upper", 1)):
            limit = getattr(joint.limits, side)
            if limit is not None and not joint.endless and sign * (value - limit) > 1e-9:
                yield (
                    f"{name} is at {show(value, dimension, 4)}, beyond its {side} limit of "
                    f"{show(limit, dimension, 4)}"
                )
        if name in robot.couplings:
            yield f"{name} follows {robot.couplings[name]}, which was moved so that it can be there"


def view_of(text: str) -> ViewName | tuple[float, float]:
    """A view by its name, or as azimuth and elevation [deg]."""
    parts = text.split(",")
    if len(parts) == 2:
        try:
            return float(parts[0]), float(parts[1])
        except ValueError:
            raise ModelError(f"cannot read the view {text!r}; write it as -50,20") from None
    # Whoever looks from there knows the names.
    return cast("ViewName", text)


def size_of(text: str) -> tuple[int, int]:
    """Width and height in pixels."""
    match = re.fullmatch(r"(\d{1,5})x(\d{1,5})", text)
    if match is None:
        raise ModelError(f"cannot read the size {text!r}; write it as 1280x800")
    return int(match[1]), int(match[2])
