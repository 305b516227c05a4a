"""What a description holds besides links and joints, and the round trip of all of it."""

import json
import unittest

import numpy as np

import mooring
from mooring import Robot, differences, dynamics, kinematics
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER
from mooring.errors import DocumentError, ModelError
from mooring.model import Capsule, PlacedShape, Placement
from tests.support import folder_for, random_robot, run_mooring

DOCUMENT = """\
mooring: 1
name: buoy
base: floating
links:
  float:
    mass: 80 kg
    inertia: [3, 3, 2]
    collision: {sphere: 300 mm}
    visuals: [{sphere: 300 mm, color: "#d9822b"}]
  mast: {mass: 4 kg, inertia: [0.4, 0.4, 0.01], collision: {cylinder: {radius: 2 cm, length: 1 m}}}
  lamp: {mass: 1 kg, inertia: [0.01, 0.01, 0.01]}
  line: {mass: 2 kg, inertia: [0.02, 0.02, 0.02]}
joints:
  tilt:
    type: revolute
    parent: float
    child: mast
    at: {xyz: [0, 0, 300 mm]}
    axis: y
    stiffness: 40 N*m/rad
    rest: 5 deg
    damping: 2 N*m*s/rad
    rotor_inertia: 0.02 kg*m^2
    calibration: {rising: 1 deg}
    limits:
      lower: -40 deg
      upper: 40 deg
      effort: 100 N*m
      velocity: 90 deg/s
      soft: {lower: -35 deg, upper: 35 deg, position_gain: 20, velocity_gain: 3 N*m*s/rad}
  swivel: {type: universal, parent: mast, child: lamp, axis: x, second_axis: y,
           at: {xyz: [0, 0, 1 m]}}
  tether: {type: floating, parent: float, child: line, at: {xyz: [1 m, 0, 0]}}
frames:
  eye: {link: float, xyz: [0.3, 0, 0]}
  ring: {link: line}
  foot: {link: float, on_ground: true}
springs: {rope: {between: [eye, ring], stiffness: 2 kN/m, damping: 30 N*s/m}}
allowances: [{between: [mast, "l*"], because: the lamp sits in the mast}]
motors:
  tilter: {joint: tilt, p: 300 N*m/rad, d: 20 N*m*s/rad, gear_ratio: 50, rotor_inertia: 1e-4 kg*m^2,
           torque: 1.5 N*m, at_limit: trip}
postures: {bent: {tilt: 20 deg}}
"""


class RoundTrips(unittest.TestCase):
    def resolve(self, robot: Robot) -> Robot:
        file = folder_for(self) / "resolved.json"
        robot.write(file)
        self.assertEqual(json.loads(file.read_text())["mooring"], 1)
        return mooring.read(file)

    def assert_same_machine(self, one: Robot, two: Robot) -> None:
        a, b = one.tree(), two.tree()
        self.assertEqual((a.links, a.coordinates), (b.links, b.coordinates))
        q = np.repeat(a.neutral()[None], 3, axis=0)
        joints = [a.coordinate(name) for name in a.coordinates if name in a.freedoms]
        q[:, joints] = np.random.default_rng(1).normal(size=(3, len(joints)))
        poses = kinematics.link_poses(a, q), kinematics.link_poses(b, q)
        np.testing.assert_allclose(*poses, atol=1e-12)
        masses = dynamics.mass_matrix(a, q), dynamics.mass_matrix(b, q)
        np.testing.assert_allclose(*masses, rtol=1e-10, atol=1e-10)
        frames = one.link_frames(), two.link_frames()
        for name, link in one.links.items():
            shapes = link.collisions, two.links[name].collisions
            self.assertEqual(*[[s.shape.kind for s in found] for found in shapes])
            for first, second in zip(*shapes, strict=True):
                places = first.in_link(frames[0][name]), second.in_link(frames[1][name])
                np.testing.assert_allclose(*places, atol=1e-12)
                if hasattr(first.shape, "mesh"):
                    bounds = [np.sort(s.shape.mesh.vertices, axis=0) for s in (first, second)]
                    np.testing.assert_allclose(bounds[0], bounds[1], atol=1e-12)
                else:
                    self.assertEqual(first.shape, second.shape)
        # What a fixed joint says of limits means nothing, and is not kept.
        fixed = [name for name, joint in one.joints.items() if not joint.moves]
        others = [
            d for d in differences(one, two)
            if d.what not in ("source", "centre", "inertia") and d.name not in fixed
        ]  # fmt: skip
        self.assertEqual(others, [])

    def test_demo_machines(self) -> None:
        for machine in (LINE_TENDER, WALKER, DRUM_CART):
            robot = mooring.read(machine.document)
            self.assert_same_machine(robot, self.resolve(robot))

    def test_random_robots(self) -> None:
        for seed in range(20, 26):
            robot = random_robot(seed)
            random = np.random.default_rng(seed)
            for name, link in robot.links.items():
                place = Placement.of({"xyz": random.normal(size=3), "rpy": random.normal(size=3)})
                if seed % 2:
                    link.collision = PlacedShape(Capsule(0.2, 0.5), place, "rod")
                robot.add_frame(f"on_{name}", link=name, at=place, role="tool")
            self.assert_same_machine(robot, self.resolve(robot))

    def test_everything_else(self) -> None:
        file = folder_for(self) / "buoy.yaml"
        file.write_text(DOCUMENT)
        buoy = mooring.read(file)
        again = self.resolve(buoy)
        self.assert_same_machine(buoy, again)
        self.assertEqual(again.springs["rope"].stiffness, 2000)
        self.assertAlmostEqual(again.tree().springs.length[0], 0.7)
        self.assertAlmostEqual(again.frames["foot"].at.matrix[2, 3], -0.3)
        self.assertEqual(list(again.allowances), [("lamp", "mast"), ("line", "mast")])
        self.assertEqual(again.joints["tilt"].limits.soft, buoy.joints["tilt"].limits.soft)
        self.assertEqual(again.joints["tilt"].calibration, buoy.joints["tilt"].calibration)
        # Renaming follows into springs and allowances, removing takes them along.
        again.rename("link", "lamp", "beacon")
        again.rename("frame", "ring", "thimble")
        self.assertIn(("beacon", "mast"), again.allowances)
        self.assertEqual(again.springs["rope"].between, ("eye", "thimble"))
        gone = again.remove("link", "line", with_dependents=True)
        self.assertIn(("spring", "rope"), gone)
        self.assertEqual(list(again.allowances), [("beacon", "mast")])
        both = Robot("pair")
        both.add_link("quay")
        both.include(buoy, prefix="a_", onto="quay")
        both.include(buoy, prefix="b_", onto="quay", at=(0, 3, 0), mirror="y")
        self.assertIn(("b_lamp", "b_mast"), both.allowances)
        self.assertEqual(both.springs["b_rope"].between, ("b_eye", "b_ring"))

    def test_urdf_keeps_what_it_can_and_lists_the_rest(self) -> None:
        folder = folder_for(self)
        (folder / "buoy.yaml").write_text(DOCUMENT)
        done = run_mooring("export", folder / "buoy.yaml", folder / "buoy.urdf")
        self.assertEqual(done.returncode, 0, done.stderr)
        for words in ("rotor inertia", "springs; left out: rope", "lamp with mast", "it floats"):
            self.assertIn(words, done.stdout.replace("\n", " "))
        again, buoy = mooring.read(folder / "buoy.urdf"), mooring.read(folder / "buoy.yaml")
        self.assertEqual(again.joints["tether"].type, "floating")
        self.assertEqual(again.joints["tilt"].limits, buoy.joints["tilt"].limits)
        self.assertEqual(again.joints["tilt"].calibration, buoy.joints["tilt"].calibration)

    def test_transmissions_become_motors(self) -> None:
        folder = folder_for(self)
        text = (
            '<robot name="r"><link name="a"/><link name="b"/><joint name="j" type="continuous">'
            '<parent link="a"/><child link="b"/></joint><transmission name="t"><joint name="j"/>'
            '<actuator name="m"><mechanicalReduction>-30</mechanicalReduction></actuator>'
            '</transmission><transmission name="odd"><joint name="j"/><joint name="k"/>'
            '<actuator name="n"/></transmission></robot>'
        )
        (folder / "r.urdf").write_text(text)
        robot = mooring.read(folder / "r.urdf")
        self.assertEqual((robot.motors["m"].mode, robot.motors["m"].gear_ratio), ("effort", 30))
        self.assertIn(
            "'odd' is kept, and not used: it drives j, k", " ".join(map(str, robot.notes))
        )

    def test_wrong_entries_are_told(self) -> None:
        file = folder_for(self) / "buoy.yaml"
        for old, new, words in (
            ("base: floating", "base: swimming", "base must be fixed or floating"),
            ("[eye, ring]", "[eye, rung]", "no frame is called 'rung'; did you mean 'ring'"),
            ("[eye, ring]", "[eye, foot]", "both frames are on the link 'float'"),
            ('[mast, "l*"]', "[mast, lump]", "no link matches 'lump'; did you mean 'lamp'"),
            ("on_ground: true", "on_ground: stowed", "no posture is called 'stowed'"),
            ("p: 300 N*m/rad, d", "mode: velocity, d", ""),
            ("p: 300 N*m/rad, d", "mode: effort, d", "driven by effort has no d"),
            ("soft: {lower: -35 deg", "soft: {lower: -35 mm", "joint .tilt.: .-35 mm. is a length"),
            (
                "visuals: [{sphere: 300 mm",
                "visuals: [{mesh: gone.stl",
                "link .float.: .*gone.stl: there is no such file",
            ),
            ("type: floating, ", "type: floating, damping: 1, ", "has no damping"),
        ):
            self.assertIn(old, DOCUMENT)
            file.write_text(DOCUMENT.replace(old, new))
            if not words:
                self.assertEqual(mooring.read(file).motors["tilter"].mode, "velocity")
                continue
            with self.assertRaisesRegex((DocumentError, ModelError), words):
                mooring.read(file)
