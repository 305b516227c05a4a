"""A robot held against its own table of dimensions."""

from __future__ import annotations

import numpy as np

from mooring.arguments import proven
from mooring.cad import Axis, Frame
from mooring.errors import ModelError
from mooring.kinematics.dimensions.compare import compare_dimensions
from mooring.kinematics.dimensions.report import DimensionReport
from mooring.model import Robot
from mooring.model.dimension_table import DimensionTable
from mooring.model.placement import Placement


@proven
def measure(robot: Robot, table: DimensionTable) -> DimensionReport:
    """Hold a robot, with every joint at zero, against a table of its dimensions.

    Args:
        robot: a tree.
        table: one of `robot.tables`, or another that names its links and joints.

    Raises:
        ModelError: the table has another number of rows than there are joints on the way, or what
            it names is not there.
        UnsoundRobotError: the robot is no tree.

    Example:
        `print(measure(robot, robot.tables["data_sheet"]))`
    """
    frames = robot.link_frames()
    if table.base not in frames:
        raise ModelError(f"table {table.name!r}: no link is called {table.base!r}")
    if table.end is not None and table.end not in robot.frames and table.end not in frames:
        raise ModelError(f"table {table.name!r}: no frame or link is called {table.end!r}")
    names = _joints(robot, table)
    axes = []
    for name in names:
        joint = robot.joints[name]
        frame = frames[joint.child]
        axes.append(Axis(frame[:3, 3], frame[:3, :3] @ np.array(joint.axis), 0.0, name))
    end = None
    if table.end is not None:
        carrier = frames[_last_link(robot, table.end)]
        inside = robot.frames[table.end].at.in_link(carrier) if table.end in robot.frames else None
        end = Frame(carrier if inside is None else carrier @ inside, table.end)
    base = frames[table.base]
    chain = table.as_chain()
    rows = [
        row.model_copy(update={"joint": name}) for row, name in zip(chain.rows, names, strict=True)
    ]
    placed = Placement(base @ table.at.in_link(base), "cad")
    chain = chain.model_copy(update={"rows": tuple(rows), "at": placed})
    within = table.within, table.within_angle
    return compare_dimensions(chain, axes, end, directed=True, within=within)


def _joints(robot: Robot, table: DimensionTable) -> list[str]:
    """The joint of each row: as named, or the moving ones on the way from the base."""
    given = [row.joint for row in table.rows if row.joint is not None]
    for name in given:
        if name not in robot.joints:
            raise ModelError(f"table {table.name!r}: no joint is called {name!r}")
    if len(given) == len(table.rows):
        return given
    if given:
        raise ModelError(f"table {table.name!r}: name the joints of all rows, or of none")
    on_way = _to_end(robot, table)
    if len(on_way) != len(table.rows):
        listed = f": {', '.join(on_way)}" if on_way else ""
        raise ModelError(
            f"table {table.name!r} has {len(table.rows)} rows, and from {table.base} there are "
            f"{len(on_way)} moving joints on the way{listed}; say which with joint: in each row"
        )
    return on_way


def _to_end(robot: Robot, table: DimensionTable) -> list[str]:
    """The moving joints from the base to the end, or as far as nothing branches."""
    if table.end is not None:
        link, back = _last_link(robot, table.end), []
        parents = {joint.child: joint for joint in robot.joints.values()}
        while link != table.base and link in parents:
            back.append(parents[link])
            link = parents[link].parent
        return [joint.name for joint in reversed(back) if joint.has_axis]
    found, link = [], table.base
    while len(below := [j for j in robot.joints.values() if j.parent == link]) == 1:
        found += [joint.name for joint in below if joint.has_axis]
        link = below[0].child
    return found


def _last_link(robot: Robot, end: str) -> str:
    return robot.frames[end].link if end in robot.frames else end
