"""The report on a robot: how it looks, its tree, links, joints, masses and findings."""

from __future__ import annotations

from pathlib import Path

from mooring.checks import Report
from mooring.drawing.report.sheet import Branch, Sheet
from mooring.drawing.robot_picture import picture
from mooring.errors import ModelError
from mooring.formats.graph.words import joint_words, link_words
from mooring.kinematics import measure
from mooring.model import Robot
from mooring.model.definition.fields import dimension_of
from mooring.model.joint import Joint
from mooring.model.structure import depth_first, roots
from mooring.units import show

_BIG, _SMALL = (1280, 800), (900, 640)


def report_robot(robot: Robot, report: Report, file: Path) -> None:
    """Write a report on a robot.

    Args:
        robot: which.
        report: what `mooring.check` says of it.
        file: .html.

    Raises:
        ModelError: another suffix.
        UnsoundRobotError: the robot is no tree.
    """
    place = robot.place(())
    source = "" if place is None else f"from {place.file.name}, "
    sheet = Sheet(robot.name, f"{source}{report.summary()}")
    describe(sheet, robot)
    sheet.heading("Findings")
    if not report.findings:
        sheet.finding("good", "Sound.", report.summary(), "")
    for finding in report.findings:
        kind = finding.severity if finding.accepted is None else "accepted"
        remedy = finding.remedy if finding.accepted is None else f"Accepted: {finding.accepted}"
        where = f" ({finding.place.file.name}, line {finding.place.line})" if finding.place else ""
        title = f"{kind.capitalize()}, {'.'.join(finding.item)}:"
        sheet.finding(kind, title, f"{finding.message}{where}", remedy)
    sheet.save(file)


def describe(sheet: Sheet, robot: Robot) -> None:
    """Pictures, tree and tables of a robot."""
    _pictures(sheet, robot)
    sheet.heading("Kinematic tree")
    sheet.tree(_branch(robot, roots(robot)[0]))
    sheet.heading("Links and masses")
    links(sheet, robot)
    sheet.heading("Joints")
    joints(sheet, robot)
    if robot.tables:
        sheet.heading("Tables of dimensions")
        _tables(sheet, robot)
    if robot.postures:
        sheet.heading("Postures")
        _postures(sheet, robot)


def _pictures(sheet: Sheet, robot: Robot) -> None:
    try:
        whole = picture(robot, layers=("visual", "dimensions"), size=_BIG).image
    except ModelError:
        sheet.words("Its links have no shapes that could be drawn.")
        return
    sheet.pictures([(whole, "Every joint at zero.")])
    axes = picture(robot, layers=("visual", "axes"), view="left", size=_SMALL).image
    centres = picture(robot, layers=("visual", "centres"), view="front", size=_SMALL).image
    sheet.pictures(
        [(axes, "From the left, with joint axes."), (centres, "From the front, with masses.")]
    )
    apart = picture(robot, explode=0.5, ground=False, size=_SMALL).image
    collision = picture(robot, layers=("visual", "collision"), size=_SMALL).image
    sheet.pictures([(apart, "Links drawn apart."), (collision, "With collision shapes.")])


def _branch(robot: Robot, link: str, joint: Joint | None = None) -> Branch:
    """A link and the joint it hangs on, with all that hangs on it, as the sheet draws it."""
    below = [
        _branch(robot, other.child, other)
        for other in robot.joints.values()
        if other.parent == link
    ]
    said = "" if joint is None else f"{joint.name}, {joint_words(joint)}"
    return Branch(link, link_words(robot, link), said, tuple(below))


def links(sheet: Sheet, robot: Robot) -> None:
    """Masses, where they come from, and what links collide as."""
    rows = []
    total = 0.0
    for name, link in robot.links.items():
        found = robot.inertia(name)
        kinds = ", ".join(sorted({type(s.shape).__name__.lower() for s in link.collisions}))
        if found is None:
            rows.append((name, "not known", "", "", link.material or "", kinds or "none"))
            continue
        total += found.mass
        centre = ", ".join(f"{round(1000 * v, 1) + 0.0:.1f}" for v in found.centre)
        rows.append(
            (name, show(found.mass, "mass"), found.source, centre, link.material or "", kinds or
             "none")
        )  # fmt: skip
    rows.append(("together", show(total, "mass"), "", "", "", ""))
    columns = ("link", "mass", "source", "centre of mass [mm]", "material", "collides as")
    sheet.table(columns, rows, " r r")


def joints(sheet: Sheet, robot: Robot) -> None:
    """Axes, limits, and what moves them."""
    rows = []
    for joint in depth_first(robot):
        axis, travel, speed, effort = _limits(joint)
        motors = [m.name for m in robot.motors.values() if m.joint == joint.name]
        coupling = robot.couplings.get(joint.name)
        told = [f"follows {' and '.join(coupling.ratios)}"] if coupling else []
        rows.append(
            (joint.name, joint.type, f"{joint.parent} to {joint.child}", axis, travel, speed,
             effort, ", ".join([*motors, *told]))
        )  # fmt: skip
    columns = ("joint", "type", "between", "axis", "travel", "speed", "effort", "moved by")
    sheet.table(columns, rows, "    rrr")
    for closure in robot.closures.values():
        sheet.words(f"A {closure.kind} {closure.name} closes {' and '.join(closure.between)}.")


def _limits(joint: Joint) -> tuple[str, str, str, str]:
    if not joint.has_axis:
        return "", "", "", ""
    motion, limits = joint.motion, joint.limits
    axis = ", ".join(f"{v + 0.0:.3g}" for v in joint.axis)
    ends = [limits.lower, limits.upper]
    position = dimension_of("position", motion)
    travel = " to ".join("free" if end is None else show(end, position) for end in ends)
    speed, effort = (
        "" if value is None else show(value, dimension_of(quantity, motion))
        for quantity, value in (("velocity", limits.velocity), ("effort", limits.effort))
    )
    return axis, "free" if ends == [None, None] else travel, speed, effort


def _tables(sheet: Sheet, robot: Robot) -> None:
    rows = []
    for name, table in robot.tables.items():
        try:
            found = measure(robot, table)
        except ModelError as error:
            rows.append((name, "", "", str(error), ""))
            continue
        verdict = "agrees" if found.agrees else "disagrees"
        worst = f"{found.worst.of}: {found.worst}"
        wants = "" if found.agrees else "; ".join(map(str, found.corrections))
        rows.append((name, verdict, worst, wants, "; ".join(found.undetermined)))
    columns = ("table", "", "farthest off", "the robot would want", "not seen")
    sheet.table(columns, rows, "     ")


def _postures(sheet: Sheet, robot: Robot) -> None:
    rows = []
    for name, positions in robot.postures.items():
        said = [
            f"{joint} {show(value, dimension_of('position', robot.joints[joint].motion))}"
            for joint, value in positions.items()
            if joint in robot.joints
        ]
        rows.append((name, ", ".join(said) or "every joint at zero"))
    sheet.table(("posture", "positions"), rows)
