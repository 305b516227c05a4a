"""A cell for each kind of thing: a picture, a table, what was found."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from typing import Any

import matplotlib.pyplot as plt

from mooring.cad import Assembly, Part
from mooring.cad.assembly.contents import Contents
from mooring.checks import Report
from mooring.checks.finding import Finding
from mooring.drawing import picture
from mooring.drawing.parts_picture import contact_sheet
from mooring.drawing.plots.recording import motion
from mooring.drawing.report.robot import joints, links
from mooring.drawing.report.sheet import Sheet
from mooring.drawing.runs import Stage
from mooring.errors import ModelError, MooringError
from mooring.exercising import Exercise
from mooring.exercising.report import summary
from mooring.formats.document.writing import entry_of
from mooring.model import Link, Robot
from mooring.model.definition.described import Described
from mooring.model.scene import Scene
from mooring.simulation import Recording, Simulation
from mooring.tree import Tree
from mooring.units import show

_SIZE = (880, 550)
_MOST_ROWS = 40
_MOST_KINDS = 20
_MOST_NAMES = 12


def cell(thing: object) -> str | None:
    """What a notebook shows of something, as HTML; None where its line must do.

    Args:
        thing: a robot, scene, item, assembly, part, tree, report, recording, exercise, simulation.
    """
    for kind, write in _CELLS:
        if isinstance(thing, kind):
            try:
                return write(thing).fragment()
            except MooringError:
                # Of a robot that is no tree, as an example: what it is made of says its line.
                return None
    return None


def _rows(
    sheet: Sheet, columns: Iterable[str], rows: Sequence[tuple[str, ...]], right: str
) -> None:
    """A table, and how much of it is left out."""
    sheet.table(list(columns), rows[:_MOST_ROWS], right)
    if len(rows) > _MOST_ROWS:
        sheet.words(f"and {len(rows) - _MOST_ROWS:,} more")


def _robot(robot: Robot) -> Sheet:
    moving = sum(joint.moves for joint in robot.joints.values())
    lead = f"{len(robot.links)} links, {len(robot.joints)} joints, {moving} of them moving"
    sheet = Sheet(robot.name, f"{lead}; {show(robot.mass(), 'mass')}")
    _picture(sheet, robot)
    if len(robot.links) <= _MOST_ROWS:
        sheet.heading("Joints")
        joints(sheet, robot)
        sheet.heading("Links")
        links(sheet, robot)
    else:
        sheet.words("Too many for tables here; robot.joints and robot.links hold them.")
    return sheet


def _picture(sheet: Sheet, robot: Robot) -> None:
    try:
        sheet.pictures([(picture(robot, size=_SIZE).image, "")])
    except ModelError:
        sheet.words("Its links have no shapes that could be drawn.")


def _scene(scene: Scene) -> Sheet:
    sheet = Sheet(scene.name, f"a scene of {len(scene.robot.links)} links")
    _picture(sheet, scene.robot)
    return sheet


def _item(item: Described) -> Sheet:
    sheet = Sheet(item.called, "")
    _rows(sheet, ("field", "value"), list(_flat(entry_of(item))), "")
    return sheet


def _flat(entry: Mapping[str, Any], before: str = "") -> Iterator[tuple[str, str]]:
    """The fields of an entry, those inside others by both their names."""
    for key, value in entry.items():
        name = f"{before}{key}".replace("_", " ")
        if isinstance(value, Mapping):
            yield from _flat(value, f"{name} ")
        else:
            several = isinstance(value, list | tuple)
            yield name, ", ".join(map(str, value)) if several else str(value)


def _link(link: Link) -> Sheet:
    names = [part.name for part in link.parts]
    lead = f"{len(names)} parts" if names else f"{len(link.shapes)} shapes of its own"
    sheet = Sheet(link.called, lead)
    shapes = [placed.shape.kind for placed in link.collisions]
    rows = [
        ("parts", ", ".join(names[:_MOST_NAMES]) + (" ..." if len(names) > _MOST_NAMES else "")),
        ("material", link.material or ""),
        ("weighed", "" if link.mass is None else show(link.mass, "mass", 4)),
        ("collides as", ", ".join(dict.fromkeys(shapes)) or "nothing"),
    ]
    sheet.table(("of it", ""), [row for row in rows if row[1]])
    return sheet


def _assembly(assembly: Assembly) -> Sheet:
    kinds = assembly.kinds()
    lead = f"{len(assembly.parts)} parts of {len(kinds)} kinds, from {assembly.file.name}"
    sheet = Sheet(assembly.name, lead)
    if kinds:
        sheet.pictures([(contact_sheet(kinds[:_MOST_KINDS], "").image, "")])
        if len(kinds) > _MOST_KINDS:
            sheet.words(f"and {len(kinds) - _MOST_KINDS} more kinds")
    for note in assembly.notes:
        sheet.finding("note", "", note, "")
    return sheet


def _part(part: Part) -> Sheet:
    shape = part.geometry
    size = " x ".join(show(float(side), "length", 4) for side in shape.bounds[1] - shape.bounds[0])
    sheet = Sheet(part.name, f"{size}, {shape.source}")
    rows = [
        ("volume", show(part.volume, "volume", 4)),
        ("triangles", f"{len(part.mesh.faces):,}"),
        ("surfaces", f"{len(shape.surfaces):,}"),
        ("closed", "yes" if shape.closed else "no"),
        ("material", part.material.name if part.material else "not stated"),
        ("path", part.path),
    ]
    sheet.table(("of it", ""), rows)
    return sheet


def _tree(tree: Tree) -> Sheet:
    sheet = Sheet("Kinematic tree", f"{len(tree.links)} links, {len(tree.freedoms)} freedoms")
    rows = [
        (name, motion, "" if name in tree.coordinates else "velocity only")
        for name, motion in zip(tree.freedoms, tree.motions, strict=True)
    ]
    _rows(sheet, ("freedom", "motion", ""), rows, "")
    return sheet


def _report(report: Report) -> Sheet:
    sheet = Sheet(f"Check of {report.robot}", report.summary())
    for finding in report.findings[:_MOST_ROWS]:
        _finding(sheet, finding)
    if len(report.findings) > _MOST_ROWS:
        sheet.words(f"and {len(report.findings) - _MOST_ROWS:,} more")
    return sheet


def _finding(sheet: Sheet, finding: Finding) -> None:
    place = f" ({finding.place})" if finding.place is not None else ""
    title = f"{finding.severity} {finding.code}:"
    sheet.finding(finding.severity, title, f"{finding.message}{place}", finding.remedy)


def _recording(recording: Recording) -> Sheet:
    rows = len(recording.table)
    end = show(float(recording.table.index[-1]), "time") if rows else "nothing"
    sheet = Sheet(f"Run of {recording.robot}", f"{end}, {rows:,} recorded instants")
    if not recording.findings:
        sheet.finding("good", "Nothing was found.", "", "")
    for finding in recording.findings[:_MOST_ROWS]:
        sheet.finding("warning", "", finding.message, finding.remedy)
    for note in recording.notes:
        sheet.words(f"Note: {note}.")
    if rows > 1 and recording.units:
        figure = motion(recording)
        sheet.plot(figure, "")
        plt.close(figure)
    return sheet


def _exercise(done: Exercise) -> Sheet:
    sheet = Sheet(f"{done.robot.name}, exercised", summary(done))
    rows = []
    for sweep in done.sweeps:
        dimension = "angle" if sweep.motion == "rotation" else "length"
        travel = f"{show(sweep.lower, dimension)} to {show(sweep.upper, dimension)}"
        rows.append((sweep.joint, travel, ", ".join(sweep.stops) or "nothing"))
    _rows(sheet, ("joint", "went", "stopped by"), rows, "")
    return sheet


def _simulation(simulation: Simulation) -> Sheet:
    state = simulation.ended or "it can go on"
    lead = f"at {show(simulation.time, 'time', 4)}; {state}"
    sheet = Sheet(f"Simulation of {simulation.robot.name}", lead)
    q = simulation.native.q.copy()
    if any(link.shown(simulation.robot.materials) for link in simulation.robot.links.values()):
        stage = Stage(simulation.robot, simulation.ground, q[None], "corner", _SIZE)
        sheet.pictures([(stage.draw(q, "", []), "")])
    return sheet


_CELLS: tuple[tuple[type, Callable[[Any], Sheet]], ...] = (
    (Robot, _robot), (Scene, _scene), (Contents, _assembly), (Part, _part), (Tree, _tree),
    (Report, _report), (Recording, _recording), (Exercise, _exercise), (Simulation, _simulation),
    (Link, _link), (Described, _item),
)  # fmt: skip
