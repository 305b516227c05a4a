"""One robot broken for each rule; and healthy ones that nothing is said about."""

import json
import unittest
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from mooring import Robot, check, read, read_cad
from mooring.cad.mesh import Mesh
from mooring.checks import RULES
from mooring.checks.rules.reading import READING
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER
from mooring.geometry import placement, rotation_from_rpy
from mooring.model import Box, Limits, MeshShape, PlacedShape, Placement, SoftLimits
from mooring.model.definition.mirroring import moments_of
from mooring.model.shapes.bodies import turned
from tests.support import folder_for, run_mooring

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
    robot.motors.clear()
    robot.postures.clear()
    robot.joints.clear()
    robot.links.clear()


def close_loop(robot: Robot) -> None:
    robot.add_closure("pin", "weld", between=("base", "arm"))


def impossible_inertia(robot: Robot) -> None:
    robot.links["arm"].inertia = (1, 1, 5)


def negative_inertia(robot: Robot) -> None:
    robot.links["arm"].inertia = (-1, -1, -1)


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
        chosen = parts if twice or bare or open_mesh else parts[:1]
        robot.links["base"].change(mass=None, inertia=None, parts=chosen)
        robot.assemblies.append(assembly)

    return change


def centre_outside(robot: Robot) -> None:
    from_cad("column")(robot)
    robot.links["base"].change(mass=2, centre=(40, 40, 40), inertia=(1, 1, 1))


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


def block(
    link: str, *, at: tuple[float, float, float] = (0, 0, 0), size: float = 0.1, **more: float
) -> Callable[[Robot], None]:
    """Give a link a block to see and to hit."""

    def change(robot: Robot) -> None:
        seen = Box((size, size, size))
        robot.links[link].visuals = [PlacedShape(seen, Placement(placement(at)))]
        hit = tuple(v + more.get("apart", 0.0) for v in at)
        robot.links[link].collision = PlacedShape(seen, Placement(placement(hit)))

    return change


def all_of(*changes: Callable[[Robot], object]) -> Callable[[Robot], None]:
    def change(robot: Robot) -> None:
        for one in changes:
            one(robot)

    return change


def heavy(**given: object) -> Callable[[Robot], None]:
    """The shoulder's arm reaches out, and its joint lies flat."""

    def change(robot: Robot) -> None:
        robot.links["arm"].change(mass=5, centre=(0.5, 0, 0), inertia=(0.1, 0.5, 0.5))
        robot.joints["shoulder"].change(axis="y", limits={**LIMITS, **given})

    return change


def turning_pair(offset: float) -> Callable[[Robot], None]:
    """Column and turntable of the tender, with the axis of the joint between them put by hand."""

    def change(robot: Robot) -> None:
        assembly = read_cad(LINE_TENDER.step)
        for link, part in (("base", "column"), ("arm", "turntable")):
            robot.links[link].change(mass=None, inertia=None, parts=assembly.pick(part))
        robot.joints["shoulder"].at = Placement(placement((offset, 0, 0.9)), "cad")

    return change


def pin_between(robot: Robot) -> None:
    """A pin that turns in what it sits in, and in which something turns again."""
    assembly = read_cad(LINE_TENDER.step)
    pin = assembly.part("luff_pin")
    robot.links["arm"].change(mass=None, inertia=None, parts=[pin])
    place = Placement(placement(pin.cylinders[0].centre), "cad")
    robot.joints["shoulder"].change(at=place, axis=(0, 1, 0))
    robot.joints["wrist"].change(at=place, axis=(0, 1, 0))


def odd_inertia(scale: float = 1.0, products: float = 1.0) -> Callable[[Robot], None]:
    """The boom's parts with their true inertia, scaled and with products of other signs."""

    def change(robot: Robot) -> None:
        parts = read_cad(LINE_TENDER.step).pick("jib_head", "barrel")
        robot.add_link("piece", parts=parts, material="steel")
        robot.add_joint("mount", "fixed", parent="hand", child="piece")
        true = robot.inertia("piece")
        main = np.diag(np.diag(true.tensor))
        tensor = scale * (main + products * (true.tensor - main))
        robot.links["piece"].change(mass=true.mass, centre=true.centre, inertia=moments_of(tensor))

    return change


def ring(robot: Robot) -> None:
    """A square of four bars with two of the hinges welded."""
    robot.joints["wrist"].at = Placement(placement((0.2, 0.8, 0)))
    robot.add_joint("side", "continuous", parent="base", child="bar", at=(1, 0, 0))
    robot.add_link("bar", **SOLID)
    robot.add_closure("pin", "weld", between=("hand", "bar"), at=(1, 1, 0))


def flat(robot: Robot) -> None:
    """A parallelogram that lies flat at the neutral posture."""
    robot.joints["wrist"].at = Placement(placement((0.3, 0, 0)))
    robot.add_link("bar", **SOLID)
    robot.add_joint("side", "continuous", parent="base", child="bar", at=(1, 0, 0))
    robot.add_closure("pin", "hinge", between=("hand", "bar"), at=(1.0, 0, 0))


def follower(**coupling: float) -> Callable[[Robot], None]:
    def change(robot: Robot) -> None:
        robot.joints["wrist"].change(type="revolute", limits=Limits(lower=-0.5, upper=0.5))
        robot.add_coupling("wrist", follows="shoulder", **coupling)

    return change


def dense_ball(robot: Robot) -> None:
    angles = np.linspace(0.1, 3.0, 150)
    profile = np.column_stack([np.sin(angles), -np.cos(angles)])
    mesh = turned(np.vstack([[0, -1], profile, [0, 1]]))
    mesh = Mesh(np.vstack([mesh.vertices] * 3), np.vstack([mesh.faces] * 3))
    robot.links["hand"].collision = PlacedShape(MeshShape(mesh, "ball"), Placement())


OF_FILES = set(READING)
"""Rules about what files say, which `tests.test_urdf_findings` breaks one by one."""


def mirrored_arms(robot: Robot) -> None:
    for side, y in (("left", 0.3), ("right", -0.28)):
        robot.add_link(f"{side}_arm", **SOLID)
        robot.add_joint(f"{side}_swing", "continuous", parent="base", child=f"{side}_arm",
                        at=(0, y, 0), axis="y")  # fmt: skip
        robot.add_link(f"{side}_hand", **SOLID)
        robot.add_joint(f"{side}_turn", "fixed", parent=f"{side}_arm", child=f"{side}_hand",
                        at=(0, np.sign(y) * 0.1, 0))  # fmt: skip


def inside_out(robot: Robot) -> None:
    mesh = Box((0.1, 0.1, 0.1)).mesh
    mesh = Mesh(mesh.vertices, np.ascontiguousarray(mesh.faces[:, ::-1]))
    robot.links["arm"].visuals = [PlacedShape(MeshShape(mesh, "skin"), Placement())]


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
    "limits-neutral": (
        all_of(from_cad("column"), limit(lower=0.2)),
        "is outside its limits; the lower limit is",
    ),
    "twins-unlike": (mirrored_arms, "'right_swing': it is 20 mm away from the mirror image"),
    "mesh-inside-out": (inside_out, "the triangles of skin face inwards"),
    "inertia-unknown": (
        lambda r: r.links["hand"].change(mass=3, inertia=None),
        "nothing tells how that is spread",
    ),
    "inertia-placeholder": (
        all_of(block("arm"), lambda r: r.links["arm"].change(mass=2.0, inertia=(1, 1, 1))),
        "three moments of 1 kg m^2 look like a placeholder",
    ),
    "inertia-about-frame": (
        all_of(
            block("arm", at=(0.5, 0, 0)),
            lambda r: r.links["arm"].change(
                mass=3.0, centre=(0.5, 0, 0), inertia=(0.005, 0.755, 0.755)
            ),
        ),
        "are those about the link's frame",
    ),
    "place-unlikely": (
        lambda r: (
            setattr(r.joints["wrist"], "at", Placement(placement((300, 0, 0))))
            or setattr(r.joints["shoulder"], "at", Placement(placement((0.4, 0, 0))))
        ),
        "joint 'wrist' is 300 m from its parent",
    ),
    "shape-far": (block("arm", at=(90, 0, 0)), "a box of 173 mm is 90 m from the link's frame"),
    "effort-unlikely": (limit(effort=1e9), "1000 times what lifts the whole robot"),
    "motor-gains-soft": (
        all_of(heavy(effort=100.0), lambda r: setattr(r.motors["drive"], "p", 100.0)),
        "'drive' stands off its target by 14 deg at the neutral posture",
    ),
    "velocity-unlikely": (limit(velocity=5e3), "a speed limit of"),
    "effort-too-small": (
        all_of(heavy(effort=5.0), lambda r: r.motors.clear()),
        "more than its effort limit of 5 N*m",
    ),
    "limits-unstated": (limit(velocity=None), "a motor and no velocity limit"),
    "mass-missing": (
        lambda r: r.links["hand"].change(mass=None, inertia=None),
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
    "axis-misses-bore": (turning_pair(0.004), "misses the bore that base and arm share by 4 mm"),
    "axes-in-a-row": (pin_between, "with nothing between them but arm, which is round"),
    "collision-coarse": (
        all_of(
            from_cad("clamp_body"),
            lambda r: r.links["base"].change(
                collision={"fit": "pieces", "pieces": 1, "error": 1e-3}
            ),
        ),
        "1 convex piece stands out from its parts by up to",
    ),
    "table-disagrees": (
        lambda r: r.add_table("sheet", base="base", rows=[{"d": 0.1, "alpha": 1.0}], end="hand"),
        "table 'sheet' has 1 rows, and from base there are 2 moving joints on the way",
    ),
    "material-overridden": (
        all_of(from_cad("column"), lambda r: r.links["base"].change(material="aluminium")),
        "states 7850 kg/m^3 for column, and 2700 kg/m^3 is used",
    ),
    "axis-far": (block("hand", at=(3, 0, 0)), "about an axis 2.95 m away from it"),
    "follower-outside-limits": (
        follower(ratio=1.0),
        "to -57.3 deg, beyond its lower limit of -28.65 deg",
    ),
    "loop-open": (
        all_of(from_cad("column"), follower(offset=0.1)),
        "wrist is 5.73 deg away from where it should follow",
    ),
    "closure-one-sided": (close_loop, "base and arm have one joint between them"),
    "loop-stuck": (ring, "leave nothing that can move"),
    "loop-over-constrained": (flat, "equations repeat others"),
    "loop-dead-point": (flat, "the neutral posture is a dead point"),
    "mass-unlikely": (lambda r: r.add_link("sun", mass=2e30, inertia=(1, 1, 1)), "weighs 2e+30 kg"),
    "mass-against-geometry": (
        all_of(from_cad("column"), lambda r: setattr(r.links["base"], "mass", 0.5)),
        "lighter than foam",
    ),
    "inertia-against-geometry": (odd_inertia(scale=1e6), "are far from the"),
    "inertia-product-signs": (odd_inertia(products=-1.0), "have the other sign"),
    "masses-equal": (
        all_of(
            lambda r: r.add_link("foot", **SOLID),
            lambda r: r.add_joint("ankle", "fixed", parent="hand", child="foot"),
        ),
        "all 4 links have the same mass, 2 kg",
    ),
    "mass-ratio": (
        lambda r: setattr(r.links["hand"], "mass", 9000.0),
        "carries 9000 kg, 4500 times its own mass",
    ),
    "size-unlikely": (block("base", size=4000), "is 4000 m large"),
    "scale-unlikely": (
        all_of(block("base"), block("arm", size=0.12), block("hand", size=90.0)),
        "'hand' is 90 m large, and no other link more than 120 mm",
    ),
    "geometry-apart": (block("base", apart=2.0), "is 1.9 m away from what it looks like"),
    "collision-triangles": (dense_ball, "triangles"),
    "collision-none": (
        all_of(block("base"), block("arm"), lambda r: setattr(r.links["arm"], "collision", None)),
        "nothing is said of what it collides with",
    ),
    "overlap-neutral": (
        all_of(
            block("base"),
            lambda r: setattr(r.joints["wrist"], "at", Placement(placement((0.5, 0, 0)))),
            block("hand", at=(-0.5, 0, 0)),
        ),
        "base and hand overlap by 100 mm at the neutral posture",
    ),
    "overlap-at-one-point": (
        all_of(block("base"), block("arm"), block("hand")),
        "base, arm and hand are joined at nearly one point, and the shapes of base and hand overlap by 100 mm",
    ),
    "overlap-in-posture": (
        all_of(
            block("base"),
            block("hand", at=(0, 0.5, 0)),
            lambda r: setattr(r.joints["wrist"], "at", Placement(placement((0.5, 0, 0)))),
            lambda r: r.add_posture("folded", {"wrist": "90 deg"}),
        ),
        "in posture 'folded' base and hand overlap by 100 mm",
    ),
    "overlap-in-range": (
        all_of(
            block("base"),
            block("hand", at=(0.5, 0, 0)),
            lambda r: setattr(r.joints["wrist"], "at", Placement(placement((0.5, 0, 0)))),
        ),
        "base and hand overlap by 100 mm with wrist at -180 deg",
    ),
    "motor-too-weak": (
        heavy(),
        "has to hold 24.5 N*m at the neutral posture, more than its 10 N*m",
    ),
    "motor-weak-in-range": (
        all_of(
            heavy(effort=24.0),
            lambda r: r.joints.update(
                shoulder=r.joints["shoulder"].model_copy(
                    update={"at": Placement(placement((0, 0, 0), rotation_from_rpy((0, 1.0, 0))))}
                )
            ),
            lambda r: r.postures.clear(),
        ),
        "while shoulder moves, more than its 24 N*m",
    ),
    "device-undriven": (
        lambda r: r.add_device("vice", inputs={"shut": {"joints": {"wrist": 0}}}),
        "signal vice.shut comes to nothing: no motor drives 'wrist'",
    ),
    "motor-gains-unstable": (
        lambda r: setattr(r.motors["drive"], "d", 1e5),
        "unstable at a step of 1 ms",
    ),
    "soft-limits-outside": (
        lambda r: setattr(r.joints["shoulder"].limits, "soft", SoftLimits(lower=-0.5, upper=2.0)),
        "the soft upper limit 114.6 deg is beyond the limit 57.3 deg",
    ),
    "posture-open-loop": (close_loop, "do not close in posture 'up'"),
}


class Rules(unittest.TestCase):
    def test_the_healthy_are_left_in_peace(self) -> None:
        self.assertEqual(check(healthy()).findings, ())
        for machine in (LINE_TENDER, WALKER, DRUM_CART):
            report = check(read(machine.document))
            self.assertEqual(report.open, (), str(report))

    def test_every_rule_finds_what_it_is_for(self) -> None:
        self.assertEqual(set(BROKEN) | OF_FILES, set(RULES))
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
        limit(lower=-40.0, effort=0.0)(robot)
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


DOCUMENT = """\
mooring: 1
name: derrick                   # on the quay
links:
  post: {mass: 40 kg, inertia: [4, 4, 1]}
  boom: {mass: 9 kg, inertia: [0.1, 3, 3]}
joints:
  slew:
    type: revolute
    parent: post
    child: boom
    limits: {lower: 90 deg, upper: -90 deg}   # turned round
  " spin": {type: continuous, parent: boom, child: hook, limits: {lower: -1, upper: 1, effort: 3}}
checks:
  severity: {name-edges: error, limits-neutral: off}
  accept: [{code: mass-ratio, because: so it is}, {code: missing-link, item: "joints.*", because: the hook comes later}]
"""


COMPOUND = """\
mooring: 1
links: {base: {box: [1, 1, 1], mass: 5}, arm: {box: [0.1, 0.1, 1], mass: 1, at: {rpy: [0, 90, 0]}}}
joints:
  hip:
    type: universal
    parent: base
    child: arm
    at: [2, 0, 0]
    second_axis: x
    first:
      limits: {lower: 1, upper: -1}
"""


class Pipeline(unittest.TestCase):
    def document(self, text: str = DOCUMENT) -> Path:
        file = folder_for(self) / "derrick.yaml"
        file.write_text(text)
        return file

    def test_compound_joints_and_degrees_are_found_where_they_stand(self) -> None:
        report = check(read(self.document(COMPOUND)))
        found = {finding.code: finding for finding in report.findings}
        self.assertEqual(found["limits-inverted"].item, ("joints", "hip_first", "limits"))
        self.assertEqual(found["limits-inverted"].place.line, 11)
        self.assertIn("90 rad is 14.3 turns; degrees?", found["angle-unlikely"].message)
        self.assertEqual(found["angle-unlikely"].place.line, 2)

    def test_severities_and_acceptances_are_in_the_document(self) -> None:
        report = check(read(self.document()))
        found = {finding.code: finding for finding in report}
        self.assertEqual(found["name-edges"].severity, "error")
        self.assertEqual(found["missing-link"].accepted, "the hook comes later")
        self.assertIn("there is no such finding", found["accepted-for-nothing"].message)
        self.assertEqual(report.count("error"), 2)
        for old, new, words in (
            ("limits-neutral: off", "limits-neutrall: off", "did you mean 'limits-neutral'"),
            ("limits-neutral: off", "limits-neutral: never", "limits-neutral.* must be"),
            (", because: so it is", "", "'because' is missing"),
        ):
            done = run_mooring("check", self.document(DOCUMENT.replace(old, new)))
            self.assertEqual(done.returncode, 2)
            self.assertRegex(done.stderr, words)

    def test_what_is_safe_to_mend_is_mended_with_comments_kept(self) -> None:
        file = self.document(DOCUMENT.replace("hook, limits", "boom2, limits").replace(
            "  boom: {", "  boom2: {mass: 1, inertia: [1, 1, 1]}\n  boom: {"))  # fmt: skip
        done = run_mooring("check", file, "--fix")
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        self.assertEqual(done.stdout.count("mended:"), 3)
        text = file.read_text()
        self.assertIn("limits: {lower: -90 deg, upper: 90 deg}   # turned round", text)
        self.assertIn(
            "spin: {type: continuous, parent: boom, child: boom2, limits: {effort: 3}}", text
        )
        self.assertIn("# on the quay", text)

    def test_sarif_for_code_review(self) -> None:
        file = self.document()
        out = file.with_name("found.sarif")
        done = run_mooring("check", file, "--sarif", out, "--json")
        self.assertEqual(done.returncode, 1)
        (run,) = json.loads(out.read_text())["runs"]
        rules = {rule["id"] for rule in run["tool"]["driver"]["rules"]}
        self.assertEqual(rules - {"unreadable", "accepted-for-nothing"}, set(RULES))
        results = {result["ruleId"]: result for result in run["results"]}
        slew = results["limits-inverted"]
        where = slew["locations"][0]
        self.assertEqual(where["physicalLocation"]["region"]["startLine"], 11)
        self.assertTrue(
            where["physicalLocation"]["artifactLocation"]["uri"].endswith("derrick.yaml")
        )
        self.assertEqual(where["logicalLocations"][0]["fullyQualifiedName"], "joints.slew.limits")
        self.assertIn("is above the upper limit", slew["message"]["text"])
        accepted = results["missing-link"]["suppressions"]
        self.assertEqual(accepted, [{"kind": "inSource", "justification": "the hook comes later"}])
        told = json.loads(done.stdout)
        self.assertEqual(len(told["findings"]), len(run["results"]))
