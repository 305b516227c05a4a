"""URDF out and back, and the sloppy and hostile files in between."""

import unittest

import numpy as np

import mooring
from mooring import Robot, dynamics, kinematics
from mooring.errors import InputError
from mooring.geometry import rotation_from_rpy
from mooring.model import Box, Cylinder, PlacedShape, Placement, Sphere
from tests.support import folder_for, line_tender, random_robot

ARM = """\
<?xml version="1.0"?>
<robot name="arm">
  <material name="orange"><color rgba="1 0.5 0 1"/></material>
  <link name="base"/>
  <link name="arm">
    <inertial>
      <origin xyz="0.5 0 0" rpy="0 0 1.5707963267948966"/>
      <mass value="3"/>
      <inertia ixx="0.1" ixy="0" ixz="0" iyy="0.3" iyz="0" izz="0.35"/>
    </inertial>
    <visual><geometry><box size="1 0.1 0.1"/></geometry><material name="orange"/></visual>
    <collision><geometry><cylinder radius="0.05" length="1"/></geometry></collision>
  </link>
  <link name="tip"/>
  <joint name="turn" type="revolute">
    <origin xyz="0 0 1" rpy="0.1 0.2 0.3"/>
    <parent link="base"/><child link="arm"/>
    <axis xyz="0 2 0"/>
    <limit lower="-1" upper="1" effort="10" velocity="2"/>
    <dynamics damping="0.5" friction="0.1"/>
  </joint>
  <joint name="end" type="prismatic">
    <parent link="arm"/><child link="tip"/>
    <limit upper="0.1" effort="10" velocity="2"/>
    <mimic joint="turn" multiplier="0.05" offset="0.01"/>
  </joint>
</robot>
"""


class RoundTrip(unittest.TestCase):
    def same(self, robot: Robot) -> None:
        file = folder_for(self) / "robot.urdf"
        robot.write(file)
        back = mooring.read(file)
        one, other = robot.tree(), back.tree()
        # Frames come back as links without mass, after those they are on.
        links = tuple(name for name in other.links if name not in robot.frames)
        self.assertEqual((one.links, one.coordinates), (links, other.coordinates))
        q = np.random.default_rng(7).normal(size=(5, len(one.coordinates)))
        np.testing.assert_allclose(
            kinematics.link_poses(other, q)[:, [other.link(name) for name in one.links]],
            kinematics.link_poses(one, q),
            atol=1e-12,
        )
        np.testing.assert_allclose(
            dynamics.mass_matrix(other, q), dynamics.mass_matrix(one, q), atol=1e-10
        )
        for ours, theirs in zip(one.joints, other.joints, strict=True):
            np.testing.assert_array_equal(theirs, ours)

    def test_random_robots_come_back(self) -> None:
        for seed in range(5):
            self.same(random_robot(seed))

    def test_rotations_at_and_near_the_pole_come_back(self) -> None:
        for pitch in (np.pi / 2, np.pi / 2 - 1e-9, -np.pi / 2 + 1e-7):
            robot = Robot("pole")
            robot.add_link("a")
            robot.add_link("b", mass=1, inertia=(1, 1, 1), centre=(1, 2, 3))
            turn = np.eye(4)
            turn[:3, :3] = rotation_from_rpy((0.4, pitch, -1.2))
            robot.add_joint(
                "j", "revolute", parent="a", child="b", at=turn,
                lower=-1, upper=1, velocity=1, effort=1,
            )  # fmt: skip
            self.same(robot)

    def test_the_line_tender_comes_back_with_its_meshes(self) -> None:
        robot = line_tender()
        self.same(robot)
        file = folder_for(self) / "tender.urdf"
        losses = robot.write(file)
        for what in ("closures", "lost: mode position", "postures", "capsule"):
            self.assertTrue(any(what in loss for loss in losses), what)
        back = mooring.read(file)
        self.assertEqual({note.text.split()[0] for note in back.notes}, {"transmission"})
        # One file a shape; every part drawn where it was.
        self.assertEqual(len(list((file.parent / "tender_meshes").iterdir())), 36)
        frames = robot.link_frames()
        for name, link in robot.links.items():
            ours = link.shown(robot.materials)
            for one, other in zip(ours, back.links[name].visuals, strict=True):
                self.assertEqual((one.name, one.color), (other.name, other.color))
                np.testing.assert_allclose(
                    other.placement.matrix, one.in_link(frames[name]), atol=1e-12
                )
                np.testing.assert_allclose(
                    other.shape.mesh.bounds, one.shape.mesh.bounds, atol=1e-6
                )
        self.assertEqual(back.couplings["starboard_jaw_hinge"].ratio, -1)


class Reading(unittest.TestCase):
    def read(self, text: str | bytes) -> Robot:
        file = folder_for(self) / "arm.urdf"
        file.write_bytes(text if isinstance(text, bytes) else text.encode())
        return mooring.read(file)

    def test_what_the_elements_say(self) -> None:
        robot = self.read(ARM)
        joint = robot.joints["turn"]
        self.assertEqual(joint.axis, (0, 1, 0))
        self.assertIn("the axis has the length 2", str(robot.notes[0]))
        self.assertEqual((joint.damping, joint.friction), (0.5, 0.1))
        # The inertial frame is turned by 90 degrees: ixx and iyy change places.
        inertia = robot.inertia("arm", np.eye(4))
        np.testing.assert_allclose(np.diag(inertia.tensor), (0.3, 0.1, 0.35), atol=1e-15)
        np.testing.assert_allclose(inertia.centre, (0.5, 0, 0))
        end = robot.joints["end"]
        self.assertEqual((end.axis, end.limits.lower, end.limits.upper), ((1, 0, 0), 0, 0.1))
        q = kinematics.configuration(robot, {"turn": 0.4})
        self.assertAlmostEqual(q[1], 0.05 * 0.4 + 0.01)
        (visual,), (collision,) = robot.links["arm"].visuals, robot.links["arm"].collisions
        self.assertEqual((visual.shape, visual.color), (Box((1, 0.1, 0.1)), "#ff8000"))
        self.assertEqual(collision.shape, Cylinder(0.05, 1))

    def test_sloppy_files_are_read_and_told(self) -> None:
        sphere = '<sphere radius="1"/>'
        robot = self.read(
            ARM.replace("</robot>", "<plugin/></robot>")
            .replace('<box size="1 0.1 0.1"/>', '<mesh filename="package://p/gone.dae"/>')
            .replace('<cylinder radius="0.05" length="1"/>', sphere)
            .replace('<mass value="3"/>', '<mass value="0"/>')
        )
        notes = "\n".join(map(str, robot.notes))
        for words in ("<plugin>: of other programs", "package://p/gone.dae is not there", "mass 0"):
            self.assertIn(words, notes)
        self.assertEqual(robot.links["arm"].collisions[0].shape, Sphere(1))

    def test_what_has_no_place_here_is_told(self) -> None:
        robot = self.read(
            ARM.replace('type="prismatic"', 'type="planar"')
            .replace("</robot>", '<transmission name="drive"><joint name="turn"/><actuator name="m">'
                     "<mechanicalReduction>50</mechanicalReduction></actuator></transmission></robot>")
            .replace('<parent link="base"/>', '<safety_controller k_velocity="1"/><calibration rising="0"/><parent link="base"/>', 1)
            .replace("<mimic", "<unused")
        )  # fmt: skip
        notes = "\n".join(map(str, robot.notes))
        for words in (
            "joint 'end': planar, read as the simple joints end_along_x, end_along_y, end_turn",
            "transmission 'drive' is read as motor 'm'",
        ):
            self.assertIn(words, notes)
        turn = robot.joints["turn"]
        assert turn.limits.soft is not None
        assert turn.calibration is not None
        self.assertEqual((turn.limits.soft.velocity_gain, turn.calibration.rising), (1, 0))

    def test_a_mesh_of_several_parts_is_read_whole_and_painted(self) -> None:
        folder = folder_for(self)
        (folder / "elsewhere").mkdir()
        crates = Robot("crates")
        for name, x, color in (("one", 0.0, "#d9822b"), ("two", 3.0, "#3f6f8f")):
            shape = PlacedShape(Box((1, 2, 3)), Placement.of((x, 0, 0)), name, color)
            crates.add_link(name, visuals=[shape])
        crates.add_joint("weld", "fixed", parent="one", child="two")
        crates.write(folder / "elsewhere" / "pair.glb")
        text = ARM.replace('<box size="1 0.1 0.1"/>', '<mesh filename="package://p/pair.glb"/>')
        (folder / "arm.urdf").write_text(text)
        self.assertIn(
            "pair.glb is not there", "\n".join(map(str, mooring.read(folder / "arm.urdf").notes))
        )
        robot = mooring.read(folder / "arm.urdf", search=[folder / "elsewhere"])
        (visual,) = robot.links["arm"].visuals
        np.testing.assert_allclose(np.ptp(visual.shape.mesh.vertices, axis=0), (4, 2, 3), atol=1e-6)
        colors = sorted(visual.shape.mesh.paint.colors)
        for found, true in zip(colors, ("#3f6f8f", "#d9822b"), strict=True):
            # By way of glTF's amounts of light, which the parser rounds.
            off = [int(found[k : k + 2], 16) - int(true[k : k + 2], 16) for k in (1, 3, 5)]
            self.assertLessEqual(max(map(abs, off)), 2)

    def test_bad_files_are_refused_with_their_line(self) -> None:
        bomb = '<!DOCTYPE r [<!ENTITY a "b"><!ENTITY c SYSTEM "file:///etc/passwd">]>'
        macro = '<robot xmlns:x="http://macros.example" '
        for wrong, right, words in (
            ("</robot>", "", "not readable as XML"),
            ("<robot ", f"{bomb}<robot ", "refused"),
            ("<robot name", "<machine name", "not readable as XML"),
            ('length="1"', 'length="${reach / 2}"', ":12: this is a macro file that has not been expanded"),
            ("<robot ", f'{macro}><x:macro name="leg"/></robot><robot ', "not readable"),
        ):  # fmt: skip
            with self.subTest(right):
                self.assertIn(wrong, ARM)
                with self.assertRaises(InputError) as caught:
                    self.read(ARM.replace(wrong, right, 1))
                self.assertIn(words, str(caught.exception))
        for content in (b"", b"\x00\x01", "<robot>".encode("utf-16")):
            with self.assertRaises(InputError):
                self.read(content)
