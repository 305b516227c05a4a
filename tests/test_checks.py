"""One robot broken for each rule; and healthy ones that nothing is said about."""

import unittest
from collections.abc import Callable
from dataclasses import replace

from mooring import Robot, check, read_cad
from mooring.checks import RULES
from mooring.demo import LINE_TENDER
from mooring.model import Inertia
from tests.support import line_tender

SOLID = {"mass": 2.0, "inertia": (1, 1, 1)}
LIMITS = {"lower": -1.0, "upper": 1.0, "velocity": 1.0, "effort": 10.0}


def healthy() -> Robot:
    robot = Robot("healthy")
    for name in ("base", "arm", "hand"):
        robot.add_link(name, **SOLID)
    robot.add_joint("shoulder", "revolute", parent="base", child="arm", **LIMITS)
    robot.add_joint("wrist", "continuous", parent="arm", child="hand")
    robot.add_motor("drive", joint="shoulder", p=1)
    robot.add_posture("up", {"shoulder": 0.5})
    return robot


def no_links(robot: Robot) -> None:
    robot.links.clear()
    robot.joints.clear()
    robot.motors.clear()
    robot.postures.clear()


def close_loop(robot: Robot) -> None:
    robot.add_closure("pin", "weld", between=("base", "arm"))


def impossible_inertia(robot: Robot) -> None:
    given = robot.links["arm"].given_inertia
    robot.links["arm"].given_inertia = replace(
        given, tensor=given.tensor * [[1, 0, 0], [0, 1, 0], [0, 0, 5]]
    )


def negative_inertia(robot: Robot) -> None:
    given = robot.links["arm"].given_inertia
    robot.links["arm"].given_inertia = replace(given, tensor=given.tensor * -1)


def from_cad(
    *patterns: str, open_mesh: bool = False, bare: bool = False, twice: bool = False
) -> Callable[[Robot], None]:
    def change(robot: Robot) -> None:
        assembly = read_cad(LINE_TENDER.step)
        assembly = replace(assembly, parts=tuple(assembly.pick(*patterns)))
        parts = list(assembly.parts)
        if open_mesh:
            parts = [replace(p, geometry=replace(p.geometry, closed=False)) for p in parts]
        if bare:
            parts = [replace(p, material=None) for p in parts]
        if twice:
            robot.add_link("copy", parts=parts)
            robot.add_joint("mount", "fixed", parent="base", child="copy")
        robot.links["base"].given_inertia = None
        robot.links["base"].parts = tuple(parts if twice or bare or open_mesh else parts[:1])
        robot.assemblies.append(assembly)

    return change


def centre_outside(robot: Robot) -> None:
    from_cad("column")(robot)
    robot.links["base"].given_inertia = Inertia(
        2.0, robot.links["arm"].given_inertia.centre + 40, robot.links["arm"].given_inertia.tensor, "given"
    )  # fmt: skip


def limit(**values: float | None) -> Callable[[Robot], None]:
    def change(robot: Robot) -> None:
        for key, value in values.items():
            setattr(robot.joints["shoulder"].limits, key, value)

    return change


def joint(**fields: str) -> Callable[[Robot], None]:
    def change(robot: Robot) -> None:
        for key, value in fields.items():
            setattr(robot.joints["wrist"], key, value)

    return change


BROKEN: dict[str, tuple[Callable[[Robot], object], str]] = {
    "no-links": (no_links, "has no links"),
    "missing-link": (joint(child="hnad"), "'wrist' has the child 'hnad'"),
    "two-parents": (joint(child="arm"), "'arm' is the child of 2 joints: shoulder, wrist"),
    "cycle": (joint(parent="hand", child="hand"), "hand -> hand"),
    "several-roots": (lambda r: r.add_link("loose"), "'loose' is not connected to 'base'"),
    "names-alike": (lambda r: r.add_link("Hand "), "'hand' and 'Hand '"),
    "name-edges": (lambda r: r.add_link(" pad"), "' pad' begins or ends"),
    "limits-missing": (limit(lower=None), "no lower limit"),
    "limits-inverted": (limit(lower=1.0, upper=-1.0), "57.3 deg is above the upper limit -57.3"),
    "limits-closed": (limit(lower=0.0, upper=0.0), "both limits are 0 deg"),
    "limits-unlikely": (limit(upper=90.0), "90 rad, 14.3 turns"),
    "limits-on-continuous": (joint(type="continuous"), "position limits, which do not apply"),
    "limits-zero": (limit(effort=0.0), "the effort limit is 0"),
    "limits-neutral": (limit(lower=0.2), "the lower limit is 11.46 deg"),
    "limits-unstated": (limit(velocity=None), "a motor and no velocity limit"),
    "mass-missing": (
        lambda r: setattr(r.links["hand"], "given_inertia", None),
        "'hand' moves and has no mass: it has no parts",
    ),
    "mass-unknown": (from_cad("column", bare=True), "no density is known for column"),
    "inertia-not-positive": (negative_inertia, "are not all positive"),
    "inertia-impossible": (impossible_inertia, "more than the sum of the others"),
    "centre-outside": (centre_outside, "m outside its parts"),
    "mass-of-open-mesh": (from_cad("column", open_mesh=True), "surface of column does not close"),
    "part-left-over": (from_cad("gusset_*"), "3 parts belong to no link: gusset_2, gusset_3"),
    "part-twice": (from_cad("column", twice=True), "column belongs to link 'base' and to link"),
    "posture-outside-limits": (
        lambda r: r.add_posture("far", {"shoulder": "80 deg"}),
        "'far' puts shoulder at 80 deg, beyond its upper limit of 57.3 deg",
    ),
    "posture-open-loop": (close_loop, "do not close in posture 'up'"),
}


class Rules(unittest.TestCase):
    def test_the_healthy_are_left_in_peace(self) -> None:
        self.assertEqual(check(healthy()).findings, ())
        self.assertEqual(check(line_tender()).findings, ())

    def test_every_rule_finds_what_it_is_for(self) -> None:
        self.assertEqual(set(BROKEN), set(RULES))
        for code, (change, words) in BROKEN.items():
            with self.subTest(code):
                robot = healthy()
                change(robot)
                if code == "limits-on-continuous":
                    robot.joints["wrist"].limits.upper = 1.0
                findings = [f for f in check(robot) if f.code == code]
                self.assertTrue(findings, f"{code} found nothing")
                self.assertIn(words, findings[0].message)
                self.assertEqual(findings[0].severity, RULES[code].severity)
                self.assertTrue(findings[0].remedy)

    def test_errors_come_first_and_make_the_answer_no(self) -> None:
        robot = healthy()
        limit(lower=0.2, effort=0.0)(robot)
        report = check(robot)
        self.assertEqual([f.severity for f in report], ["error", "warning"])
        self.assertFalse(report.ok)
        self.assertEqual(report.as_dict()["counts"], {"error": 1, "warning": 1, "note": 0})

    def test_a_larger_ring_is_spelled_out(self) -> None:
        robot = healthy()
        robot.add_joint("back", "fixed", parent="hand", child="base")
        (ring,) = [f for f in check(robot) if f.code == "cycle"]
        self.assertRegex(
            ring.message, "base -> .*arm -> .*hand|arm -> hand -> base|hand -> base -> arm"
        )
