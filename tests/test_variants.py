"""Every variant of every kind goes through the whole chain: one suite, which each kind inherits.

Variants of other packages (`tests/outside_variants`) are registered first and go the same way, so
the suite also proves the extension point.
"""

import ast
import json
import math
import re
import unittest
from functools import cache
from typing import Any, ClassVar, Literal

import jsonschema
import numpy as np

import mooring
from mooring import Ground, Robot, Scene
from mooring._native.simulation import LAWS, MODE_CODES, PROBES
from mooring._native.tree import JOINT_CODES
from mooring.bridge.session.publishing import Publisher
from mooring.bridge.session.welcome import facts_of
from mooring.drawing.report.run import report_run
from mooring.errors import ModelError
from mooring.formats.document.schema import document_schema
from mooring.model.definition.variants import Variants
from mooring.model.forces import FORCES
from mooring.model.joint_types import JOINT_TYPES
from mooring.model.motor_modes import MOTOR_MODES
from mooring.model.sensors import SENSORS, Mounted, Sensor
from mooring.model.shapes import SHAPES
from mooring.page.facts.structure import structure
from mooring.page.saving import page_text
from mooring.simulation.batch import Batch
from tests.outside_variants.harbour_parts import VALVE, Altimeter, Cone, Wind
from tests.support import ROOT, folder_for, run_mooring

OUTSIDE = (Altimeter, VALVE, Cone, Wind)
SOURCE = ROOT / "src" / "mooring"


for _variant in OUTSIDE:
    mooring.register(_variant, "harbour-parts 1.0")


def tearDownModule() -> None:
    for kind, name in (
        (SENSORS, "altimeter"),
        (JOINT_TYPES, "valve"),
        (SHAPES, "cone"),
        (FORCES, "wind"),
    ):
        kind.remove(name)


def base() -> Robot:
    """A post, an arm that turns and a load that hangs on it, with what variants may name."""
    robot = Robot("bench")
    robot.add_link("post", box=(0.1, 0.1, 0.1), mass=5)
    robot.add_link("arm", box=(0.4, 0.05, 0.05), mass=2)
    robot.add_joint("turn", "revolute", parent="post", child="arm", at=(0, 0, 1), axis="z",
                    lower=-2, upper=2, velocity=2, effort=50)  # fmt: skip
    robot.add_frame("tip", link="arm", at=(0.2, 0, -0.1))
    return robot


@cache
def schema_validator() -> jsonschema.Draft202012Validator:
    return jsonschema.Draft202012Validator(document_schema())


class Contract(unittest.TestCase):
    """What each variant must go through; a kind says how a robot with one is made."""

    variants: ClassVar[Variants[Any]]

    def robot_with(self, name: str) -> Robot:
        raise NotImplementedError

    def __init_subclass__(cls) -> None:
        """Make a test of each check and variant."""
        for check in [name for name in dir(cls) if name.startswith("check_")]:
            for variant in cls.variants:

                def test(self: Any, check: str = check, variant: str = variant) -> None:
                    getattr(self, check)(variant, self.robot_with(variant))

                setattr(cls, f"test_{check.removeprefix('check_')}_{variant}", test)

    def check_documents_carry_it_and_the_schema_allows_it(self, name: str, robot: Robot) -> None:
        file = folder_for(self) / "robot.json"
        robot.write(file)
        schema_validator().validate(json.loads(file.read_text()))
        again = mooring.read(file)
        changes = [d for d in mooring.differences(robot, again) if d.what != "source"]
        self.assertEqual(changes, [])
        said = [str(note) for note in again.notes if "harbour-parts 1.0" in str(note)]
        self.assertEqual(bool(said), name in self.variants.origins, again.notes)
        other = self.robot_with(next(n for n in self.variants if n != name))
        self.assertTrue(mooring.differences(robot, other))

    def check_simulation_recording_report_and_run_folder(self, name: str, robot: Robot) -> None:
        run = mooring.simulate(robot, seconds=0.1, gravity=(0, 0, -9.81))
        self.assertTrue(np.isfinite(run.table.to_numpy(float)).all())
        for column in run.table.columns:
            self.assertIn(column, run.table.attrs["units"])
        folder = folder_for(self)
        run.write(folder / "run")
        again = mooring.Recording.read(folder / "run")
        np.testing.assert_array_equal(again.table.to_numpy(float), run.table.to_numpy(float))
        report_run(robot, run, folder / "report.html")
        self.assertIn(robot.name, (folder / "report.html").read_text())

    def check_pictures_page_and_bridge(self, name: str, robot: Robot) -> None:
        self.assertGreater(len(mooring.picture(robot, size=(80, 60))._repr_png_()), 100)
        self.assertIn("</html>", page_text(robot))
        self.assertTrue(json.dumps(structure(robot, robot.tree())))
        simulation = mooring.Simulation(robot)
        welcome = facts_of(simulation)
        self.assertEqual(welcome["left_out"], [])
        self.assertEqual(set(welcome["sensors"]), set(robot.sensors))
        self.assertTrue(json.dumps(Publisher(simulation).state()))

    def check_urdf_says_what_it_cannot_carry(self, name: str, robot: Robot) -> None:
        file = folder_for(self) / "robot.urdf"
        losses = robot.write(file)
        back = mooring.read(file)
        self.assertEqual(set(back.joints) >= set(robot.joints), True)
        if name in self.variants.origins:
            self.assertTrue(any(name in loss or "left out" in loss for loss in losses), losses)

    def check_twenty_copies_step_together(self, name: str, robot: Robot) -> None:
        simulation = mooring.Simulation(robot)
        batch = Batch(simulation, 20, ["turn.position"], [], threads=1)
        batch.run(5)
        simulation.step(5)
        np.testing.assert_array_equal(
            batch.read()[:, 0], simulation.native.q[simulation.tree.coordinate("turn")]
        )


class Sensors(Contract):
    variants = SENSORS

    def robot_with(self, name: str) -> Robot:
        robot = base()
        more: dict[str, Any] = {
            "encoder": {"joint": "turn"}, "joint_torque": {"joint": "turn"},
            "force_torque": {"joint": "turn"}, "contact": {"link": "arm"},
            "range_scanner": {"frame": "tip", "field": 1.0, "rays": 5},
            "camera": {"frame": "tip", "field": 1.0, "size": (16, 12)},
        }  # fmt: skip
        robot.add_sensor("it", name, rate=100, latency="10 ms", **more.get(name, {"frame": "tip"}))
        return robot

    def check_what_it_measures_has_columns_units_and_an_arrival(
        self, name: str, robot: Robot
    ) -> None:
        sensor = robot.sensors["it"]
        run = mooring.simulate(Scene.of(robot, Ground()), seconds=0.1)
        table = run.sensors["it"]
        self.assertEqual(len(table), 11)
        expected = sensor.columns({"turn": "rad"}) or dict.fromkeys(run.coordinates)
        self.assertEqual(list(table.columns), ["arrives", *expected])
        self.assertTrue(all(table.attrs["units"][c] for c in expected))
        np.testing.assert_allclose(table["arrives"] - table.index, 0.01)
        if name == "altimeter":
            np.testing.assert_allclose(table["height"], 0.9, atol=1e-12)

    def check_the_bridge_sends_it_and_a_batch_reads_it_or_says_why_not(
        self, name: str, robot: Robot
    ) -> None:
        sensor = robot.sensors["it"]
        simulation = mooring.Simulation(robot)
        simulation.step(50)
        message = Publisher(simulation).measurement("it")
        assert message is not None
        self.assertEqual(message["kind"], "scan" if sensor.fan else "measurement")
        sensor.change(latency=0)
        first = mooring.Simulation(robot)
        column = next(iter(sensor.columns({})), "anything")
        if sensor.looks:
            with self.assertRaisesRegex(ModelError, "cannot be read in a batch"):
                Batch(first, 2, [f"it.{column}"], [], threads=1)
        else:
            batch = Batch(first, 2, [f"it.{column}"], [], threads=1)
            batch.run(20)
            self.assertTrue(np.isfinite(batch.read()).all())

    def test_its_probe_is_one_of_the_core_and_every_probe_is_used(self) -> None:
        self.assertEqual({one.probe for one in SENSORS.values()}, set(PROBES))


class JointTypes(Contract):
    variants = JOINT_TYPES

    def robot_with(self, name: str) -> Robot:
        robot = base()
        robot.add_link("load", box=(0.1, 0.1, 0.1), mass=1)
        limits = {"lower": -0.3, "upper": 0.3} if JOINT_TYPES[name].ends else {}
        kind = JOINT_TYPES[name]
        robot.add_joint(
            "it", kind, parent="arm", child="load", at=(0.3, 0, -0.2), axis="y", **limits
        )
        return robot

    def check_it_moves_as_its_kind_in_the_core(self, name: str, robot: Robot) -> None:
        kind, tree = JOINT_TYPES[name], robot.tree()
        self.assertEqual(len(tree.coordinates), 1 + kind.positions)
        self.assertEqual(len(tree.freedoms), 1 + kind.freedoms)
        self.assertEqual("it" in tree.coordinates, kind.has_axis)
        self.assertIn(kind.core, JOINT_CODES)

    def test_it_moves_as_its_kind_in_the_core_as_a_whole(self) -> None:
        with self.assertRaisesRegex(ValueError, "the core has no joint 'helix'"):
            type(VALVE)("auger", core="helix", ends=True, urdf="revolute", color=0)

    def test_a_misspelt_type_is_said_in_words(self) -> None:
        with self.assertRaisesRegex(
            ModelError, "type must be fixed, revolute, .* or valve; got 'hinge'"
        ):
            base().add("joint", "x", {"type": "hinge", "parent": "arm", "child": "load"})


class Shapes(Contract):
    variants = SHAPES

    def robot_with(self, name: str) -> Robot:
        robot = base()
        size = {"box": (0.2, 0.1, 0.3), "sphere": 0.1}.get(name, {"radius": 0.1, "length": 0.3})
        robot.add_link(
            "load", shapes=[{name: size, "at": (0, 0, 0.2)}], density=1000, collision=[{name: size}]
        )
        robot.add_joint("hold", "fixed", parent="arm", child="load", at=(0.3, 0, 0))
        return robot

    def check_its_mesh_solid_and_core_agree(self, name: str, robot: Robot) -> None:
        shape = robot.links["load"].shapes[0].shape
        self.assertTrue(shape.mesh.closed, name)
        self.assertAlmostEqual(shape.mesh.solid.volume / shape.volume, 1, delta=0.02)
        np.testing.assert_allclose(
            shape.mesh.solid.inertia,
            shape.solid.inertia,
            atol=0.02 * np.abs(shape.solid.inertia).max(),
        )
        core = shape.core
        reach = np.abs(shape.mesh.vertices).max(axis=0)
        if core.points is not None and shape.convex:
            np.testing.assert_allclose(
                np.abs(core.points).max(axis=0) + core.radius, reach, rtol=0.01
            )
        self.assertLess(shape.shrunk(0.01).volume, shape.volume)
        self.assertEqual(type(shape).read(shape.written), shape)

    def check_it_comes_to_rest_on_the_ground(self, name: str, robot: Robot) -> None:
        shape = robot.links["load"].shapes[0].shape
        scene = Scene("yard", ground={"height": 0})
        height = -float(shape.mesh.vertices[:, 2].min())
        scene.add_body("it", shapes=[{name: shape.written}], density=1000, at=(0, 0, height))
        run = mooring.simulate(scene, seconds=0.5)
        self.assertAlmostEqual(float(run.table["it.z"].iloc[-1]), height, delta=1e-3)


class Forces(Contract):
    variants = FORCES

    def robot_with(self, name: str) -> Robot:
        robot = base()
        robot.links["arm"].change(collision=[{"box": (0.4, 0.05, 0.05)}])
        more: dict[str, Any] = {
            "rotor": {"frame": "tip", "joint": "turn", "thrust": 1e-3},
            "drag": {"link": "arm", "quadratic": 2.0}, "wind": {"link": "arm", "area": 3.0},
        }  # fmt: skip
        robot.add_force("it", name, **more.get(name, {"link": "arm", "level": 1.0}))
        return robot

    def check_its_law_is_one_of_the_core_and_takes_its_numbers(
        self, name: str, robot: Robot
    ) -> None:
        self.assertIn(FORCES[name].law, LAWS)
        self.assertGreater(len(robot.forces["it"].action(robot, robot.tree()).numbers), 0)

    def test_its_law_is_one_of_the_core_and_takes_its_numbers_as_a_whole(self) -> None:
        self.assertEqual({one.law for one in FORCES.values()}, set(LAWS))

    def test_falling_against_wind_reaches_the_speed_of_balance(self) -> None:
        scene = Scene("sky")
        scene.add_body("ball", box=(1, 1, 1), mass=10)
        scene.robot.add_force("air", "wind", link="ball", area=1.0)
        run = mooring.simulate(scene, seconds=20)
        balance = math.sqrt(10 * 9.80665 / (0.5 * 1.2 * 1.1))
        self.assertAlmostEqual(-float(run.table["ball.vz"].iloc[-1]), balance, delta=1e-3 * balance)


class MotorModes(Contract):
    variants = MOTOR_MODES

    def robot_with(self, name: str) -> Robot:
        robot = base()
        gains = dict.fromkeys(MOTOR_MODES[name].needs, 100.0)
        robot.add_motor("it", joint="turn", mode=name, **gains)  # type: ignore[arg-type]
        return robot

    def check_it_takes_its_gains_and_its_commands(self, name: str, robot: Robot) -> None:
        self.assertEqual(set(MOTOR_MODES), set(MODE_CODES))
        mode, simulation = MOTOR_MODES[name], mooring.Simulation(robot)
        for what in ("position", "velocity", "effort"):
            order: Any = {
                {"position": "positions", "velocity": "velocities", "effort": "efforts"}[what]: {
                    "turn": 0.1
                }
            }
            if what in mode.commands:
                simulation.command(**order)
            else:
                with self.assertRaisesRegex(ModelError, f"driven by {name}"):
                    simulation.command(**order)
        for gain in {"p", "i", "d"} - mode.needs - mode.takes:
            with self.assertRaisesRegex(ModelError, f"driven by {name} has no {gain}"):
                robot.motors["it"].change(**{gain: 1.0})


class Registration(unittest.TestCase):
    def test_a_variant_that_lacks_a_member_is_refused(self) -> None:
        class Halved(Mounted):
            kind: Literal["halved"]

        class Blind(Sensor):
            kind: Literal["blind"]

        with self.assertRaisesRegex(TypeError, "the core has no probe 'postion'; it has motion"):
            type(
                "Wrong",
                (Altimeter,),
                {
                    "probe": "postion",
                    "__annotations__": {"probe": ClassVar[str]},
                    "__module__": __name__,
                },
            )
        for variant, missing in (
            (Halved, "columns, faults, probe"),
            (Blind, "columns, faults, mount, probe"),
        ):
            with self.assertRaisesRegex(TypeError, f"lacks {missing}"):
                mooring.register(variant)
        with self.assertRaisesRegex(ModelError, "is no variant of a kind"):
            mooring.register(dict)
        with self.assertRaisesRegex(ModelError, "there is already a joint type 'valve'"):
            mooring.register(type(VALVE)("valve", core="prismatic", ends=True, urdf="x", color=0))

    def test_an_installed_package_brings_variants_and_a_broken_one_is_named(self) -> None:
        folder = folder_for(self)
        info = folder / "harbour_parts-2.1.dist-info"
        info.mkdir()
        (info / "METADATA").write_text("Metadata-Version: 2.1\nName: harbour-parts\nVersion: 2.1\n")
        points = info / "entry_points.txt"
        points.write_text(
            "[mooring.variants]\nvalve = tests.outside_variants.harbour_parts:VALVE\n"
        )
        document = folder / "gate.yaml"
        document.write_text(
            "mooring: 1\nlinks:\n  wall: {box: [1 m, 1 m, 1 m], mass: 9 kg}\n  gate: {box: [1 m, 1 m, 1 m], mass: 9 kg}\n"
            "joints:\n  stem: {type: valve, parent: wall, child: gate, limits: {lower: 0, upper: 90 deg}}\n"
        )
        env = {"PYTHONPATH": f"{folder}:{ROOT}"}
        told = run_mooring("tree", document, env=env)
        self.assertEqual(told.returncode, 0, told.stderr)
        self.assertIn("the joint type 'valve' is defined by harbour-parts 2.1", told.stderr)
        self.assertIn("valve from harbour-parts 2.1", run_mooring("--version", env=env).stdout)
        self.assertEqual(run_mooring("tree", document).returncode, 2)
        points.write_text(
            "[mooring.variants]\nvalve = tests.outside_variants.harbour_parts:NOTHING\n"
        )
        broken = run_mooring("tree", document, env=env)
        self.assertEqual(broken.returncode, 2)
        self.assertIn("the extension 'valve' of harbour-parts 2.1 cannot be used", broken.stderr)

    def test_no_source_asks_which_variant_something_is(self) -> None:
        homes = {"sensors", "forces", "joint_types", "shapes"}
        classes = {v.__name__ for kind in (SENSORS, FORCES, SHAPES) for v in kind.values()}
        classes |= {"MeshShape", "Hull", "TriangleShape"}
        words = {*JOINT_TYPES, *MOTOR_MODES, *SENSORS, *FORCES}
        for file in SOURCE.rglob("*.py"):
            if set(file.parent.relative_to(SOURCE).parts) & homes or file.name == "motor_modes.py":
                continue
            for node in ast.walk(ast.parse(file.read_text())):
                where = f"{file}:{getattr(node, 'lineno', 0)}"
                if isinstance(node, ast.Call) and getattr(node.func, "id", "") == "isinstance":
                    named = set(re.findall(r"\w+", ast.unparse(node.args[1])))
                    if "spaces" not in named:
                        self.assertFalse(named & classes, where)
                elif isinstance(node, ast.Compare) and isinstance(node.left, ast.Attribute):
                    owner = ast.unparse(node.left)
                    if re.fullmatch(
                        r"(\w+\.)*(joint\.type|item\.type|leader\.type|motor\.mode|sensor\.kind|force\.kind)",
                        owner,
                    ):
                        literals = {c.value for c in ast.walk(node) if isinstance(c, ast.Constant)}
                        self.assertFalse(literals & words, where)
