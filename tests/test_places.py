"""Places of the geometry: axes of one part and of two, edges, and frames that faces orient."""

import unittest
from pathlib import Path

import numpy as np

import mooring
from mooring import read_cad
from mooring.demo.modelling import box, cut, cylinder, fuse
from mooring.demo.step_writer import Group, write_step
from mooring.errors import DocumentError, ModelError
from mooring.geometry import rpy_from_rotation
from tests.parts import steel
from tests.support import folder_for

GRIPPER = """mooring: 1
name: gripper
cad: [{file: gripper.step}]
links: {palm: {parts: palm}}
frames: {back: {link: palm, role: mount, at: {face: palm, toward: -z}}}
"""
ARM = """mooring: 1
name: arm
cad: [{file: arm.step}]
links: {bar: {parts: [bar, flange]}}
frames:
  flange: {link: bar, role: mount, at: FLANGE}
  eye: {link: bar, role: sensor, at: {face: bar, toward: y}}
include: [{file: gripper.yaml, prefix: g_, frame: flange}]
"""


def write_machine(folder: Path) -> None:
    """A bar along x whose flange has four holes and a larger one above, and a gripper."""
    plate = cut(box((200, 210), (-30, 30), (-30, 30)), cylinder("x", (190, 220), 12, (0, 0, 25)))
    for y, z in ((20, 20), (-20, 20), (20, -20), (-20, -20)):
        plate = cut(plate, cylinder("x", (190, 220), 6, (0, y, z)))
    arm = Group("arm").place(steel("bar", box((0, 200), (-10, 10), (-10, 10))))
    write_step(arm.place(steel("flange", plate)), folder / "arm.step")
    palm = fuse(box((-20, 20), (-20, 20), (0, 10)), box((-20, -10), (-5, 5), (10, 60)))
    write_step(Group("gripper").place(steel("palm", palm)), folder / "gripper.step")
    (folder / "gripper.yaml").write_text(GRIPPER)


class Places(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = folder_for(cls)
        write_machine(cls.folder)

    def arm(self, flange: str) -> mooring.Robot:
        (self.folder / "arm.yaml").write_text(ARM.replace("FLANGE", flange))
        return mooring.read(self.folder / "arm.yaml")

    def test_a_gripper_stands_on_its_flange_with_x_where_it_is_said(self) -> None:
        for x, toward in (
            ("", (0, 0, -1)),  # z of the CAD tilted into x
            (", x: y", (0, 1, 0)),
            (", x: [5, 1, 0]", (0, 1, 0)),
            (", x: {axis: flange, radius: 6 mm}", (0, 0, 1)),
            (", x: {face: bar, toward: -y}", (0, -1, 0)),
            (", x: {edge: flange, near: [210 mm, 30 mm, 0]}", (0, 0, 1)),
            (", x: y, rpy: [0, 0, 90 deg]", (0, 0, 1)),
        ):
            with self.subTest(x):
                robot = self.arm(f"{{face: flange, toward: x{x}}}")
                place = robot.link_frames()["g_palm"]
                # The palm's back lies on the flange, and the finger points away from it.
                np.testing.assert_allclose(place[:3, 2], (1, 0, 0), atol=1e-9)
                np.testing.assert_allclose(place[:3, 0], toward, atol=1e-9)
                self.assertAlmostEqual(place[0, 3], 0.21, places=9)
                turn = np.degrees(rpy_from_rotation(place[:3, :3]))
                listed = ", ".join(f"{angle + 0.0:.4g}" for angle in turn.round(6))
                told = [note for note in robot.notes if "face to face" in str(note)]
                self.assertEqual(len(told), 1)
                self.assertIn(f"turned by rpy [{listed}] deg", str(told[0]))

    def test_sensors_look_out_of_faces_along_x_with_z_up(self) -> None:
        eye = self.arm("{face: flange, toward: x}").frames["eye"].at.matrix
        np.testing.assert_allclose(eye[:3, :3].T, [[0, 1, 0], [-1, 0, 0], [0, 0, 1]], atol=1e-12)

    def test_mirror_images_of_mounts_look_out_of_their_faces(self) -> None:
        robot = self.arm("{face: flange, toward: z, x: -y}")
        for axis in "xyz":
            image = mooring.Robot("image")
            image.include(robot, mirror=axis)
            frame = image.frames["flange"]
            self.assertTrue(frame.outward)
            up = image.link_frames()[frame.link][:3, :3] @ frame.at.matrix[:3, 2]
            np.testing.assert_allclose(up, (0, 0, -1 if axis == "z" else 1), atol=1e-9)

    def test_what_gives_no_direction_is_said_where_it_was_written(self) -> None:
        for said, words in (
            ("{face: flange, toward: x, x: x}", "would be along its z axis"),
            ("{face: flange, toward: x, x: {face: bar, toward: -x}}", "would be along its z axis"),
            ("{face: flange, toward: x, x: w}", "'w' is no direction"),
            ("{axis: flange, x: y}", "flange has 5 axes: .*choose with radius= or near="),
            ("{axis: bar}", "bar has no round face"),
            ("{centre: flange, x: y}", "'x'"),
        ):
            with self.assertRaisesRegex(DocumentError, f"arm.yaml:6: .*{words}"):
                self.arm(said)

    def test_a_joint_on_a_turned_place_turns_about_the_same_line(self) -> None:
        text = """mooring: 1
name: pair
cad: [{file: arm.step}]
links: {bar: {parts: bar}, flange: {parts: flange}}
joints: {turn: {type: continuous, parent: bar, child: flange, at: PLACE}}
"""
        for place in ("{axis: flange, radius: 6 mm, rpy: [0.3, 0.2, 0.1]}",
                      "{axis: flange, radius: 6 mm, x: z}"):  # fmt: skip
            (self.folder / "pair.yaml").write_text(text.replace("PLACE", place))
            robot = mooring.read(self.folder / "pair.yaml")
            frame = robot.link_frames()["flange"]
            np.testing.assert_allclose(
                frame[:3, :3] @ np.array(robot.joints["turn"].axis), (1, 0, 0), atol=1e-12
            )
            np.testing.assert_allclose(frame[:3, 3], (0.205, 0, 0.025), atol=1e-9)
            self.assertFalse(np.allclose(frame[:3, :3], np.eye(3)))

    def test_round_faces_of_unlike_radius_share_an_axis(self) -> None:
        ring = cut(cylinder("z", (0, 20), 220, (5, 0, 0)), cylinder("z", (0, 20), 180, (5, 0, 0)))
        shaft = cylinder("z", (-50, 90), 130, (5, 0, 0))
        other = cylinder("z", (-50, 90), 10, (300, 0, 0))
        file = self.folder / "ring.step"
        group = Group("ring").place(steel("ring", ring)).place(steel("shaft", shaft))
        write_step(group.place(steel("post", other)), file)
        assembly = read_cad(file)
        axis = assembly.bore("ring", "shaft")
        np.testing.assert_allclose(axis.origin[:2], (0.005, 0), atol=1e-9)
        self.assertIn("share an axis but not a radius (90 mm and 65 mm)", axis.found)
        np.testing.assert_allclose(assembly.axis("ring").origin[:2], (0.005, 0), atol=1e-9)
        self.assertAlmostEqual(assembly.axis("ring", radius="90 mm").radius, 0.09)
        with self.assertRaisesRegex(ModelError, "share no axis"):
            assembly.bore("ring", "post")
        with self.assertRaisesRegex(ModelError, "no round face of radius 33 mm"):
            assembly.axis("ring", radius="33 mm")
        with self.assertRaisesRegex(ModelError, "no edge between flat faces"):
            assembly.edge("shaft", (0, 0, 0))


if __name__ == "__main__":
    unittest.main()
