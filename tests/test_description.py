"""Every field of every kind of item, by reflection: what is added tomorrow is tested today."""

import json
import types
import unittest
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated, Any, Literal, Union, get_args, get_origin

import jsonschema
from ruamel.yaml import YAML

import mooring
from mooring import DocumentEditor, Robot, Scene, check, differences
from mooring.errors import ModelError
from mooring.formats import write_scene
from mooring.formats.document.schema import document_schema
from mooring.model import Box, Capsule, PlacedShape, Placement
from mooring.model.definition.described import Described
from mooring.model.definition.markers import Geometric, Ref
from mooring.model.definition.variants import VariantName
from mooring.model.definition.walking import fields_of, spots
from mooring.model.registry import KINDS
from mooring.model.robot.copying import copied, mirrored
from mooring.model.robot.references import problems_of_item, references
from tests.support import folder_for

BAR = {"mass": 2, "centre": (0, 0, 0.1), "inertia": (0.2, 0.3, 0.4, 0.01, 0.02, 0.03)}


def sample() -> Robot:
    """One of each kind, with as much said of it as can be."""
    robot = Robot("sampler")
    robot.head.vendor = ("<d/>",)
    robot.add_material("felt", density=300, color="#aabbcc", friction=0.4, restitution=0.1,
                       rolling_friction=0.01, spinning_friction=0.02,
                       give={"stiffness": 1e5, "damping": 20})  # fmt: skip
    robot.add_material("cork", density=240)
    shape = PlacedShape(Capsule(0.05, 0.2), Placement.of((0, 0, 0.1)), "rod", "#112233")
    robot.add_link("hand", **BAR, visuals=[shape], collision=[shape], surface="felt", vendor="<a/>",
                   points=[{"mass": 0.1, "at": (0, 0.1, 0)}])  # fmt: skip
    for name in ("base", "arm", "left", "right"):
        robot.add_link(name, mass=1)
        robot.links[name].change(**BAR)
    robot.add_joint(
        "turn", "revolute", parent="base", child="arm", at={"xyz": (0, 0, 0.3), "rpy": (0, 0, 1)},
        vendor="<b/>", axis=(0, 0.6, 0.8), lower=-1, upper=1.5, velocity=2, acceleration=9, effort=30, damping=0.1, friction=0.2,
        stiffness=3, rest=0.1, rotor_inertia=0.01,
        soft={"lower": -0.9, "upper": 1.2, "position_gain": 5, "velocity_gain": 2},
        calibration={"rising": 0.1, "falling": -0.1},
    )  # fmt: skip
    robot.add_joint("spin", "continuous", parent="arm", child="hand", at=(0, 0, 0.2))
    for name, side in (("left", 1), ("right", -1)):
        robot.add_joint(f"{name}_slide", "prismatic", parent="hand", child=name, axis="y",
                        at=(0, 0.1 * side, 0.1), lower=-0.05, upper=0.05, velocity=1, effort=9)  # fmt: skip
    robot.add_coupling("right_slide", follows="left_slide", ratio=-1, offset=0.001,
                       also={"turn": 0.002})  # fmt: skip
    robot.add_closure("bridge", "slide", between=("left", "right"), at=(0, 0.1, 0), axis="y",
                      stiffness=1e6, damping=10, turning_stiffness=1e3, turning_damping=1)  # fmt: skip
    robot.add_closure("slack", "ball", between=("base", "arm"), play=1e-4)
    robot.add_frame("eye", link="base", at=(0.3, 0, 0), role="sensor")
    robot.add_frame("mid", link="arm", at=(0, 0, 0.05))
    robot.add_frame("tip", link="left", at=(0, 0, 0.1), role="tool")
    robot.add_spring("rope", between=("eye", "tip"), stiffness=200, damping=3, rest_length=0.4)
    robot.add_cable("line", through=("eye", "mid", "tip"), winds={"spin": 0.03}, length=1.2,
                    stiffness=500, damping=2, both_ways=True)  # fmt: skip
    robot.add_force("wind", "drag", link="hand", at=(0, 0, 0.1), linear=1, quadratic=0.2, turning=3)
    robot.add_force("sea", "buoyancy", link="hand", level=-5, density=1000, fineness=6)
    robot.add_force("fan", "rotor", frame="tip", joint="spin", thrust=1e-3, moment=1e-5)
    robot.add_conveyor("belt", link="base", direction="y", speed=0.1)
    robot.add_grip("cup", frame="tip", force=40, kind="magnet", shear=10, moment=2, reach=0.01,
                   on=True)  # fmt: skip
    robot.add_motor("screw", joint="left_slide", p=900, i=10, d=20, gear_ratio=30, torque=2,
                    rotor_inertia=1e-5, feed_forward="gravity", at_limit="trip",
                    curve={"stall_torque": 3, "no_load_speed": 300}, continuous_torque=1,
                    efficiency=0.9, backlash=1e-4, gear_stiffness=1e6, feedback="motor",
                    delay=0.001, period=0.002, resolution=1e-5)  # fmt: skip
    robot.add_motor("wound", joint="turn", mode="velocity", d=20, vendor="<c/>",
                    winding={"torque_constant": 0.05, "resistance": 0.4, "voltage": 48,
                             "largest_current": 20})  # fmt: skip
    robot.add_device("vice", inputs={"shut": {"joints": {"left_slide": 0}, "otherwise": {"left_slide": 0.02},
                                              "grip": "cup", "delay": 0.01, "travel": 0.4}},
                     outputs={"tight": {"above": {"left_slide": 0.001}, "below": {"left_slide": 0.01},
                                        "load": {"left_slide": 5}, "holds": "cup", "delay": 0.02}})  # fmt: skip
    robot.add_sensor("imu", "imu", link="hand", rate=100, latency=0.01, force_noise=0.1)
    robot.add_sensor("count", "encoder", joint="turn", rate=50, counts=4096)
    robot.add_sensor("torque", "joint_torque", joint="turn", rate=50, noise=0.1)
    robot.add_sensor("wrist", "force_torque", joint="spin", rate=50, force_noise=0.1)
    robot.add_sensor("touch", "contact", link="left", rate=50)
    robot.add_sensor("scan", "range_scanner", frame="eye", rate=10, field=2, rays=9)
    robot.add_sensor("look", "camera", frame="eye", rate=10, field=1, channels=["color", "depth"])
    robot.add_table("sheet", base="base", at=(0, 0, 0.1), convention="modified", end="tip",
                    rows=[{"joint": "turn", "theta": 0.1, "d": 0.2, "a": 0.3, "alpha": 0.4}],
                    within=0.01, within_angle=0.02)  # fmt: skip
    robot.add_posture("open", {"left_slide": 0.02, "turn": 0.3})
    robot.add_posture("shut", {"left_slide": 0})
    robot.add_motion(
        "grasp",
        [
            {"to": "open", "over": 1, "hold": 0.5},
            {"joints": {"turn": 0.2}, "profile": "trapezoid"},
            {"reach": {"tip": {"xyz": (0.1, 0.2, 0.3), "rpy": (0, 0, 0.1), "on": "base"}}},
            {"drive": {"wheels": ["spin"], "forward": 0.1, "turn": 0.2, "ramp": 0.3}, "over": 2},
            {"speeds": {"spin": 1.0}, "ramp": 0.1, "over": 1},
            {"waves": {"spin": {"amplitude": 0.2, "frequency": 2, "phase": 0.1}}, "over": 1},
            {"course": {"spin": [(0.5, 0.2), (1.0, 0.1)]}},
            {"grip": "cup", "conveyors": {"belt": 0.2}},
            {"let_go": "cup", "signals": {"vice": {"shut": True}}},
            {"cycle": [{"to": "shut"}, {"attach": ("left", "base")}], "times": 3},
            {"release": ("left", "base")},
        ],
    )
    robot.add_motion("rest", [{"to": "shut"}])
    robot.allow_overlap("left", "right", "they meet")
    robot.checks = {"severity": {"mass-ratio": "off"},
                    "accept": [{"code": "masses-equal", "item": "links.arm", "because": "a test"}]}  # fmt: skip
    return robot


def sample_scene() -> Scene:
    """The same in a scene in which everything is said."""
    scene = Scene("stage", gravity=(0, 0, -1.6), seconds=3, step=0.002, rate=50, seed=4,
                  ground={"height": -1, "material": "concrete"})  # fmt: skip
    scene.add_robot(sample(), base="floating", posture="open", at=(0, 0, 1))
    scene.add_body("crate", box=(0.1, 0.2, 0.3), mass=2, inertia=(1, 1, 1), at=(1, 0, 0))
    scene.motion = "grasp"
    scene.robot.checks = sample().checks
    return scene


def others(hint: Any, value: Any, robot: Robot) -> Iterator[Any]:
    """Other values that a field might take, by its type."""
    origin, args = get_origin(hint), get_args(hint)
    markers = [m for m in args[1:] if origin is Annotated]
    ref = next((m for m in markers if isinstance(m, Ref)), None)
    if ref is not None:
        yield from (n for k in ref.kinds for n in robot.section(k) if n != value)
    elif any(isinstance(m, Geometric) and m.what == "placement" for m in markers):
        yield Placement.of({"xyz": value.matrix[:3, 3] + 0.4, "rpy": (0.1, 0, 0)})
    elif any(isinstance(m, Geometric) and m.what == "direction" for m in markers):
        yield (1.0, 0.0, 0.0)
    elif any(isinstance(m, VariantName) for m in markers):
        yield from (name for m in markers for name in m.variants if name != value)
    elif origin is Annotated:
        yield from others(args[0], value, robot)
    elif origin in (Union, types.UnionType):
        if value is not None and type(None) in args:
            yield None
        for choice in args:
            if choice is not type(None):
                yield from others(choice, value, robot)
    elif origin is Literal:
        yield from (choice for choice in args if choice != value)
    elif isinstance(hint, type) and issubclass(hint, bool):
        yield not value
    elif hint is int:
        yield (value or 1) + 1
    elif hint is float:
        number = value if isinstance(value, (int, float)) else 0.0
        yield from (number * 0.9 + 0.011, number + 1.0)
    elif hint is str and str(value).startswith("<"):
        yield str(value).replace("<", "<more_", 1)
    elif hint is str:
        yield f"{value}2" if isinstance(value, str) else "some"
        yield "#010203"
    elif origin is tuple and value:
        if isinstance(value[0], PlacedShape):
            grown = PlacedShape(Box((0.1, 0.2, 0.3)), value[0].placement, value[0].name)
            yield from ((grown, *value[1:]), ())
        elif isinstance(value[0], Described):
            yield value[:-1]
            yield from ((other, *value[1:]) for other in _inside(value[0], robot))
        else:
            inner = args[0]
            yield from ((other, *value[1:]) for other in others(inner, value[0], robot))
            yield value[:-1]
    elif origin is dict and value:
        key = next(iter(value))
        yield {k: v for k, v in value.items() if k != key}
        yield from ({**value, key: other} for other in others(args[1], value[key], robot))
    elif isinstance(value, Described):
        yield from _inside(value, robot)


def _inside(value: Described, robot: Robot) -> Iterator[Any]:
    for name, hint in fields_of(type(value)).items():
        if not type(value).model_fields[name].exclude:
            for other in others(hint, getattr(value, name), robot):
                try:
                    yield value.with_fields(**{name: other})
                except ModelError:
                    continue


def changed_robots(robot: Robot) -> Iterator[tuple[str, str, str, Any]]:
    """Every field of every item: its kind, the item's name, the field's, and a robot with another.

    A field for which no other value is accepted by itself comes with None.
    """
    for kind in KINDS.values():
        for key, item in robot.section(kind.name).items():
            if kind.name == "link" and key != "hand":
                continue
            fields = fields_of(type(item)) if isinstance(item, Described) else {"": kind.type}
            for field, hint in fields.items():
                if field and type(item).model_fields[field].exclude:
                    continue
                old = getattr(item, field) if field else item
                accepted = 0
                for other in others(hint, old, robot):
                    twin = copied(robot)
                    try:
                        if field:
                            setattr(twin.section(kind.name)[key], field, other)
                        else:
                            twin.section(kind.name)[key] = other
                        twin.tree()
                    except (ModelError, mooring.MooringError):
                        continue
                    accepted += 1
                    yield kind.name, str(key), field, twin
                    if accepted == 2:
                        break
                if not accepted:
                    yield kind.name, str(key), field, None


# What cannot be other by itself: a sensor's kind is what it is; a carrier is no such thing as a
# body; a joint of this sample has the one type its limits, motors and couplings are for; these say
# where the parts come from, of which this robot has none.
FIXED = {("sensor", "kind"), ("force", "kind"), ("link", "parts"), ("link", "shapes"), ("link", "material"), ("link", "density"),
         ("link", "part_materials"), ("motor", "mode"), ("link", "centre"), ("joint", "parent"),
         ("joint", "child")}  # fmt: skip


class EveryField(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.robot = sample()
        cls.folder = folder_for(cls)
        cls.schema = document_schema()
        cls.validator = jsonschema.Draft202012Validator(cls.schema)

    def carried(self, one: Scene) -> None:
        """The resolved file of it reads back to the same, and the schema takes it."""
        file = self.folder / "carried.json"
        write_scene(one, file)
        self.assertEqual(
            [e.message for e in self.validator.iter_errors(json.loads(file.read_text()))], []
        )
        again = mooring.read_scene(file)
        lost = [d for d in differences(one, again) if d.what not in ("source", "inertia")]
        self.assertEqual(lost, [])

    def test_a_difference_names_it_and_the_resolved_file_carries_it(self) -> None:
        self.carried(Scene.of(self.robot))
        seen, stuck = set(), set()
        for kind, name, field, twin in changed_robots(self.robot):
            with self.subTest(f"{kind} {name} {field}"):
                if twin is None:
                    stuck.add((kind, field))
                    continue
                seen.add((kind, field))
                found = [d for d in differences(self.robot, twin) if d.kind == kind]
                self.assertTrue(found, "no difference is found")
                self.assertTrue(any(d.name in (name, name.strip("()").replace("', '", " and ").strip("'"))
                                    for d in found), found)  # fmt: skip
                self.carried(Scene.of(twin))
        self.assertLessEqual(stuck - seen, FIXED)

    def test_the_robot_and_the_scene_as_a_whole(self) -> None:
        scene = sample_scene()
        self.carried(scene)
        for part, kind in ((scene.robot.head, "robot"), (scene.settings, "scene")):
            for field, hint in fields_of(type(part)).items():
                accepted = 0
                for other in others(hint, getattr(part, field), scene.robot):
                    twin = sample_scene()
                    try:
                        whole = twin.robot.head if kind == "robot" else twin.settings
                        setattr(whole, field, other)
                        twin.robot.tree()
                    except ModelError:
                        continue
                    accepted += 1
                    found = {
                        d.what.partition(".")[0] for d in differences(scene, twin) if d.kind == kind
                    }
                    self.assertEqual(found, {field})
                    if (kind, field) != ("robot", "base"):  # the world does not float
                        self.carried(twin)
                self.assertTrue(accepted, field)

    def test_the_schema_knows_every_field(self) -> None:
        def kinds_below(kind: type) -> Iterator[type]:
            for inner in kind.__subclasses__():
                yield inner
                yield from kinds_below(inner)

        told = 0
        for kind in kinds_below(Described):
            entry = self.schema["$defs"].get(kind.__name__)
            if entry is None or not hasattr(kind, "model_fields"):
                continue
            told += 1
            given = {n for n, f in kind.model_fields.items() if not f.exclude}
            self.assertLessEqual(given, set(entry["properties"]), kind)
        self.assertGreater(told, 30)


class EveryReference(unittest.TestCase):
    def assert_whole(self, robot: Robot) -> None:
        """Nothing in it names what is not there."""
        for kind in KINDS.values():
            for key, item in robot.section(kind.name).items():
                self.assertEqual([str(p) for p in problems_of_item(robot, kind, key, item)], [])
                for reference in references(robot, kind, key, item):
                    known = robot.section(reference.kind)
                    self.assertTrue(reference.name in known or reference.ref.common, reference)

    def own_names(self, robot: Robot) -> Iterator[tuple[str, str]]:
        for kind in KINDS.values():
            if kind.own_names:
                yield from ((kind.name, name) for name in robot.section(kind.name))

    def test_the_sample_has_one_of_each(self) -> None:
        robot = sample()
        meant = {
            (kind.name, spot.marker)
            for kind in KINDS.values()
            for key, item in robot.section(kind.name).items()
            for spot in [*spots(kind.key, key), *spots(kind.type, item)]
            if isinstance(spot.marker, Ref)
        }
        self.assertGreater(len(meant), 15)
        self.assertTrue(all(len(robot.section(kind)) for kind in KINDS))

    def test_renaming_in_python_and_in_the_text_is_the_same(self) -> None:
        folder = folder_for(self)
        sample().write(folder / "sample.json")
        values = json.loads((folder / "sample.json").read_text())
        file = folder / "sample.yaml"
        with file.open("w") as stream:
            YAML().dump(values, stream)
        for kind, name in self.own_names(sample()):
            with self.subTest(f"{kind} {name}"):
                robot = mooring.read(file)
                robot.rename(kind, name, "changed")
                self.assert_whole(robot)
                self.assertNotIn(name, robot.section(kind))
                editor = DocumentEditor(file)
                editor.rename(kind, name, "changed")
                self.assertEqual([str(d) for d in differences(robot, editor.check())], [])

    def test_removing_leaves_nothing_that_names_it(self) -> None:
        folder = folder_for(self)
        for kind, name in [*self.own_names(sample()), ("coupling", "right_slide"),
                           ("allowance", ("left", "right"))]:  # fmt: skip
            with self.subTest(f"{kind} {name}"):
                robot = sample()
                gone = robot.remove(kind, name, with_dependents=True)
                self.assertEqual(gone[0], (kind, name))
                self.assert_whole(robot)
                if robot.links:
                    robot.write(folder / "less.json")
                    again = mooring.read(folder / "less.json")
                    self.assertEqual(
                        {d.what for d in differences(robot, again)} - {"source", "inertia"}, set()
                    )

    def test_inclusions_mirror_images_and_branches_are_whole(self) -> None:
        both = Robot("both")
        both.add_link("quay")
        both.include(sample(), prefix="a_", onto="quay")
        both.include(sample(), prefix="b_", onto="quay", mirror="y", at=(0, 2, 0))
        self.assert_whole(both)
        for kind, name in self.own_names(sample()):
            expected = f"a_{name}" if KINDS[kind].prefixed else name
            self.assertIn(expected, both.section(kind))
        again = mirrored(mirrored(sample(), "y"), "y")
        self.assertEqual([d for d in differences(sample(), again) if d.what != "inertia"], [])
        branch = sample().branch("hand")
        self.assert_whole(branch)
        self.assertEqual(list(branch.closures), ["bridge"])
        self.assertEqual(list(branch.springs), [])
        self.assertIn("spring 'rope' reaches out of the branch", " ".join(map(str, branch.notes)))

    def test_a_scene_follows_the_names_of_what_is_in_it(self) -> None:
        scene = sample_scene()
        scene.robot.rename("motion", "grasp", "grip")
        scene.robot.rename("joint", "base", "float")
        scene.robot.rename("joint", "left_slide", "slide")
        self.assertEqual(scene.motion, "grip")
        self.assertEqual(set(scene.start), {"slide", "turn"})
        scene.robot.remove("motion", "grip")
        self.assertIsNone(scene.motion)


class NothingIsStale(unittest.TestCase):
    def derived(self, robot: Robot) -> list[Any]:
        """Everything that follows from it, as plain values."""
        tree = robot.tree()
        return [
            tree.links, tree.coordinates, tree.freedoms, tree.without_mass,
            *(array.tolist() for group in (tree.arrays, tree.loops, tree.joints, tree.springs)
              for array in group),
            {n: f.tolist() for n, f in robot.link_frames().items()},
            {n: (i := robot.inertia(n)) and (i.mass, i.centre.tolist(), i.tensor.tolist())
             for n in robot.links},
            {n: [(s.shape, s.placement) for s in link.collisions] for n, link in robot.links.items()},
            {n: [(s.shape, s.color) for s in link.shown(robot.materials)] for n, link in robot.links.items()},
            robot.mass(), robot.coordinates,
        ]  # fmt: skip

    def test_whatever_is_changed_after_everything_was_asked_for(self) -> None:
        for kind, name, field, twin in changed_robots(sample()):
            if twin is not None:
                with self.subTest(f"{kind} {name} {field}"):
                    self.assertEqual(self.derived(twin), self.derived(copied(twin)))

    def test_every_other_way_to_change_a_robot(self) -> None:
        other = Robot("other")
        other.add_link("palm", mass=1, inertia=(1, 1, 1))
        other.add_frame("flange", link="palm", role="mount")
        ways = {
            "set_collision": lambda r: r.set_collision("*", "box"),
            "base": lambda r: setattr(r, "base", "floating"),
            "section": lambda r: setattr(r, "motors", {}),
            "item": lambda r: r.links.update(arm=mooring.model.Link(name="arm", mass=7)),
            "deleted": lambda r: r.motors.pop("screw"),
            "limits": lambda r: setattr(r.joints["turn"].limits, "upper", "80 deg"),
            "soft": lambda r: setattr(r.joints["turn"].limits.soft, "upper", 1.1),
            "rename": lambda r: r.rename("link", "arm", "boom"),
            "remove": lambda r: r.remove("link", "right", with_dependents=True),
            "include": lambda r: r.include(other, prefix="o_", onto="hand"),
            "attach": lambda r: r.attach(other, at="tip", prefix="o_"),
            "add_chain": lambda r: r.add_chain(
                "arm2", base="hand", convention="standard", rows=[{"d": 0.1}]),
            "add_joint": lambda r: (r.add_link("more", mass=1, inertia=(1, 1, 1)),
                                    r.add_joint("j", "fixed", parent="arm", child="more")),
            "motor": lambda r: setattr(r.motors["screw"], "gear_ratio", 77),
            "several": lambda r: r.links["arm"].change(mass=3, inertia=(3, 3, 3)),
            "material": lambda r: setattr(r.materials["felt"], "color", "#ffffff"),
        }  # fmt: skip
        for name, change in ways.items():
            with self.subTest(name):
                robot = sample()
                before = self.derived(robot)
                change(robot)
                after = self.derived(robot)
                self.assertEqual(after, self.derived(copied(robot)))
                if name not in ("material", "set_collision", "deleted", "section", "soft"):
                    self.assertNotEqual(before, after)

    def test_an_item_that_somebody_holds_stays_the_robots(self) -> None:
        robot = sample()
        joint, limits = robot.joints["turn"], robot.joints["turn"].limits
        robot.rename("link", "arm", "boom")
        robot.remove("motor", "screw")
        robot.rename("joint", "turn", "yaw")
        joint.damping = 7
        limits.upper = 0.7
        self.assertIs(robot.joints["yaw"], joint)
        self.assertEqual((robot.tree().joints.damping[0], robot.tree().joints.upper[0]), (7, 0.7))
        joint.limits = {"lower": -0.2, "upper": 0.2}
        limits.upper = 9  # of nobody any more
        self.assertEqual(robot.tree().joints.upper[0], 0.2)

    def test_a_tree_is_compiled_once_for_as_long_as_nothing_changes(self) -> None:
        robot = sample()
        tree = robot.tree()
        for name in robot.links:
            robot.inertia(name)
        self.assertIs(robot.tree(), tree)
        robot.joints["turn"].damping = 9
        self.assertIsNot(robot.tree(), tree)
        self.assertEqual(robot.tree().joints.damping[0], 9)


class Refusals(unittest.TestCase):
    def test_what_has_no_meaning_is_refused_where_it_is_set_and_changes_nothing(self) -> None:
        robot = sample()
        before = copied(robot)
        scene = sample_scene()
        for change, words in (
            (lambda: setattr(robot, "base", "Floating"), "base must be fixed or floating"),
            (lambda: setattr(robot, "name", " "), "the name must be text"),
            (lambda: setattr(robot, "bse", "fixed"), "a robot has no 'bse'"),
            (lambda: setattr(robot.joints["turn"], "axis", (0, 0, 0)), "has no length"),
            (lambda: setattr(robot.joints["turn"], "damping", "3 N*s/m"), "expected an angular damping"),
            (lambda: setattr(robot.joints["turn"], "dampng", 3), "did you mean 'damping'"),
            (lambda: setattr(robot.joints["turn"].limits, "upper", "3 m"), "expected an angle"),
            (lambda: setattr(robot.joints["turn"], "name", "x"), "is changed with rename"),
            (lambda: setattr(robot.joints["spin"], "type", "prismatic"), "cannot become prismatic: .*motion 'grasp'"),
            (lambda: setattr(robot.joints["spin"], "type", "fixed"), "'spin' is fixed and has no position"),
            (lambda: setattr(robot.motors["screw"], "joint", "trun"), "did you mean 'turn'"),
            (lambda: setattr(robot.motors["screw"], "torque", -1), "torque must be greater than 0"),
            (lambda: setattr(robot.springs["rope"], "between", ("tip", "tip")), "both frames are on the link 'left'"),
            (lambda: setattr(robot.couplings["right_slide"], "follows", "right_slide"), "would follow itself"),
            (lambda: setattr(robot.links["arm"], "mass", float("nan")), "."),
            (lambda: setattr(robot.links["arm"], "mass", None), "an inertia needs a mass"),
            (lambda: setattr(robot.links["arm"], "collision", "boxx"), "did you mean 'box'"),
            (lambda: setattr(robot.links["arm"], "surface", "felp"), "did you mean 'felt'"),
            (lambda: robot.postures["open"].update(turn=1), "given as a whole"),
            (lambda: robot.postures.update(wide={"trun": 1}), "no joint is called 'trun'"),
            (lambda: robot.links.pop("left"), "link 'left' is needed by closure 'bridge', frame 'tip'"),
            (lambda: robot.motors.update({"": robot.motors["screw"]}), "needs a name"),
            (lambda: setattr(scene, "gravity", 9.81), "expected a list of three values"),
            (lambda: setattr(scene, "motion", "grap"), "no motion is called 'grap'"),
            (lambda: setattr(scene, "grond", None), "did you mean 'ground'"),
            (lambda: setattr(scene.settings, "step", "1 m"), "expected a time"),
            (lambda: Box((1, -1, 1)), "cannot be"),
            (lambda: PlacedShape(Box((1, 1, 1)), Placement(), color="red"), "no color"),
        ):  # fmt: skip
            with self.subTest(words), self.assertRaisesRegex(ModelError, words):
                change()
        self.assertEqual(differences(before, robot), [])
        self.assertEqual(differences(sample_scene(), scene), [])

    def test_the_defects_that_were_seen(self) -> None:
        parts = mooring.read_cad(mooring.demo.LINE_TENDER.step).pick("column", "base_plate")
        robot = Robot("crane")
        robot.add_link("post", parts=parts)
        check(robot)
        robot.set_collision("*", "box")
        self.assertEqual([s.shape.kind for s in robot.links["post"].collisions], ["box"])
        folder = folder_for(self)
        (folder / "moon.yaml").write_text("mooring: 1\nkind: scene\ngravity: [0, 0, -1.6]\nstep: 2 ms\n"
                                          "bodies: {stone: {box: [1, 1, 1], mass: 1}}\n")  # fmt: skip
        from mooring.page.desk.desk import Desk
        from mooring.page.desk.opened import ModelSource

        desk = Desk(ModelSource(Path(folder / "moon.yaml")))
        player = desk.new_player(None, hold=True, speed=1.0)
        self.addCleanup(player.close)
        simulated = player.simulation.settings
        self.assertEqual((simulated.step, simulated.gravity.tolist()), (0.002, [0, 0, -1.6]))
