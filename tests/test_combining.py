"""Robots made of robots: mirror images, inclusions, branches, renaming and removing."""

import shutil
import unittest

import numpy as np

import mooring
from mooring import Robot, check, dynamics, kinematics
from mooring.demo import WALKER, WALKER_LEG
from mooring.errors import DocumentError, ModelError
from mooring.geometry import mirror_across, placement, rotation_from_rpy
from mooring.model.robot.copying import mirrored
from tests.support import folder_for, random_robot


def gripper() -> Robot:
    """A palm with two coupled fingers, driven, with a mount and postures."""
    robot = Robot("gripper")
    robot.add_material("soft", density=1000)
    for name in ("palm", "left", "right"):
        robot.add_link(name, mass=1, centre=(0, 0, 0.1), inertia=(1, 2, 2.5))
    for name, y in (("left", 0.1), ("right", -0.1)):
        robot.add_joint(
            f"{name}_slide", "prismatic", parent="palm", child=name, at=(0, y, 0.2), axis="y",
            lower=-0.05, upper=0.05, velocity=1, effort=10,
        )  # fmt: skip
    robot.add_coupling("right_slide", follows="left_slide", ratio=-1)
    robot.add_motor("drive", joint="left_slide", p=100)
    robot.add_closure("bridge", "slide", between=("left", "right"), axis="y")
    robot.add_frame("base", link="palm", role="mount", at={"rpy": (0, 0, "90 deg")})
    robot.add_frame("tip", link="left", role="tool", at=(0, 0, 0.3))
    robot.add_sensor("count", "encoder", joint="left_slide", rate="100 Hz", counts=500)
    robot.add_sensor("eye", "camera", frame="tip", rate=10, field="60 deg")
    robot.add_posture("open", {"left_slide": "40 mm"})
    robot.add_motion("pinch", [{"to": "open"}])
    return robot


class MirrorImages(unittest.TestCase):
    def test_equal_positions_stand_as_mirror_images_with_equal_dynamics(self) -> None:
        random = np.random.default_rng(2)
        for seed, axis in enumerate("xyz"):
            robot = random_robot(seed)
            other = mirrored(robot, axis)
            tree, image = robot.tree(), other.tree()
            q, v, a = random.normal(size=(3, 5, len(tree.coordinates)))
            mirror = mirror_across(axis)
            np.testing.assert_allclose(
                kinematics.link_poses(image, q),
                mirror @ kinematics.link_poses(tree, q) @ mirror,
                atol=1e-12,
            )
            np.testing.assert_allclose(
                dynamics.mass_matrix(image, q), dynamics.mass_matrix(tree, q), atol=1e-10
            )
            if axis != "z":  # gravity is its own mirror image across x and y only
                np.testing.assert_allclose(
                    dynamics.inverse_dynamics(image, q, v, a),
                    dynamics.inverse_dynamics(tree, q, v, a),
                    atol=1e-9,
                )

    def test_the_leg_of_the_walker_with_its_geometry(self) -> None:
        leg = mooring.read(WALKER_LEG.document)
        image = mirrored(leg, "y")
        for name, link in leg.links.items():
            other = image.links[name]
            ours, theirs = leg.inertia(name), image.inertia(name)
            assert ours is not None
            assert theirs is not None
            np.testing.assert_allclose(theirs.centre, ours.centre * (1, -1, 1), atol=1e-12)
            signs = np.outer((1, -1, 1), (1, -1, 1))
            np.testing.assert_allclose(theirs.tensor, ours.tensor * signs, atol=1e-12)
            # The triangles give the mirrored volume and centre too: faces are still outside.
            for part, twin in zip(link.parts, other.parts, strict=True):
                self.assertGreater(twin.mesh.solid.volume, 0)
                centre = twin.mesh.solid.placed(twin.placement).centroid * (1, -1, 1)
                solid = part.mesh.solid.placed(part.placement)
                np.testing.assert_allclose(centre, solid.centroid, atol=1e-9)
                self.assertEqual([c.kind for c in part.bores], [c.kind for c in twin.bores])
            (shape,), (twin_shape,) = link.collisions, other.collisions
            self.assertAlmostEqual(shape.shape.volume, twin_shape.shape.volume, places=9)
        self.assertEqual([m.joint for m in image.motors.values()],
                         [m.joint for m in leg.motors.values()])  # fmt: skip


class TheWalker(unittest.TestCase):
    def test_six_legs_from_one_document(self) -> None:
        walker = mooring.read(WALKER.document)
        self.assertLess(
            sum(len(f.read_text().splitlines()) for f in (WALKER.document, WALKER_LEG.document)),
            120,
        )
        report = check(walker)
        self.assertEqual(report.count("error") + report.count("warning"), 0, str(report))
        self.assertEqual((len(walker.links), len(walker.coordinates)), (25, 7 + 18))
        meshes = {id(p.mesh) for link in walker.links.values() for p in link.parts}
        leg = mooring.read(WALKER_LEG.document)
        kinds = {p.geometry.name for link in leg.links.values() for p in link.parts}
        hull = {p.geometry.name for p in walker.links["hull"].parts}
        # Each kind of part is there once, and once as its mirror image.
        self.assertEqual(len(meshes), 2 * len(kinds) + len(hull))
        tree = walker.tree()
        q = kinematics.configuration(walker, posture="standing")
        feet = kinematics.frame_poses(tree, q)
        for row in ("front", "middle", "rear"):
            port, starboard = (feet[f"{side}_{row}_foot"][:3, 3] for side in ("port", "starboard"))
            np.testing.assert_allclose(starboard, port * (1, -1, 1), atol=1e-12)
            self.assertLess(port[2], -0.1)
        mass = sum(i.mass for n in leg.links if (i := leg.inertia(n)) is not None)
        hull_mass = walker.inertia("hull")
        assert hull_mass is not None
        self.assertAlmostEqual(walker.mass(), 6 * mass + hull_mass.mass, places=9)

    def test_documents_say_what_is_wrong_with_an_inclusion(self) -> None:
        folder = folder_for(self) / "in"
        folder.mkdir()
        for file in WALKER.document.parent.glob("*.*"):
            shutil.copy(file, folder)
        file = folder / "walker.yaml"
        text = file.read_text()
        shutil.copy(folder / "leg.yaml", folder.parent / "leg.yaml")
        line = next(k for k, x in enumerate(text.splitlines(), 1) if "port_front_" in x)
        for wrong, right, words in (
            ("leg.yaml, prefix: port_f", "../leg.yaml, prefix: port_f", "outside the document's"),
            ("leg.yaml, prefix: port_f", "foot.yaml, prefix: port_f", "there is no such file"),
            ("leg.yaml, prefix: port_f", "walker.yaml, prefix: port_f", "include each other: walk"),
            ("port_front_, onto: hull", "port_front_, onto: hul", "did you mean 'hull'"),
            ("port_front_, onto: hull", "port_front_", "onto: name the link"),
            ("port_front_, onto", "port_middle_, onto", ""),
            ("port_front_, onto", "port_front_, values: {shin: 3 mm}, onto", "has no value 'shin'"),
            ("port_front_, onto", "port_front_, mirror: w, onto", "mirror"),
        ):
            file.write_text(text.replace(wrong, right, 1))
            with self.assertRaises(DocumentError) as caught:
                mooring.read(file)
            self.assertIn(words, str(caught.exception))
            if words:
                self.assertIn(
                    f":{line}: " if "values" not in right else "leg.yaml:", str(caught.exception)
                )
        file.write_text(text.replace("leg.yaml, prefix: port_f", "../leg.yaml, prefix: port_f", 1))
        shutil.copy(folder / "leg.step", folder.parent)
        self.assertEqual(len(mooring.read(file, allow_outside=True).links), 25)
        # A mistake in the included document is told with that document's line, and once.
        (folder / "leg.yaml").write_text((folder / "leg.yaml").read_text().replace("-y", "-w", 1))
        file.write_text(text)
        with self.assertRaisesRegex(
            DocumentError, r"^\S+leg.yaml:\d+: joint 'thigh_pitch': '-w' is no direction[^\n]*$"
        ):
            mooring.read(file)


class InPython(unittest.TestCase):
    def test_a_tool_is_attached_frame_to_frame(self) -> None:
        arm = random_robot(5)
        place = placement((0.1, 0.2, 0.3), rotation_from_rpy((1, 2, 3)))
        arm.add_frame("flange", link="link_4", at=place)
        tool = gripper()
        arm.attach(tool, at="flange", prefix="g_")
        tree = arm.tree()
        q = np.random.default_rng(1).normal(size=len(tree.coordinates))
        frames = kinematics.frame_poses(tree, q)
        np.testing.assert_allclose(frames["flange"], frames["g_base"], atol=1e-12)
        self.assertEqual(arm.couplings["g_right_slide"].follows, "g_left_slide")
        self.assertEqual(arm.motors["g_drive"].joint, "g_left_slide")
        self.assertEqual(arm.sensors["g_count"].joint, "g_left_slide")
        self.assertEqual(arm.sensors["g_eye"].frame, "g_tip")
        self.assertEqual(arm.closures["g_bridge"].between, ("g_left", "g_right"))
        self.assertEqual(arm.postures["open"], {"g_left_slide": 0.04})
        # Cut out again it is the gripper, by its dynamics.
        again = arm.branch("g_palm")
        q = np.array([0.01, -0.01])
        np.testing.assert_allclose(
            dynamics.mass_matrix(again.tree(), q), dynamics.mass_matrix(tool.tree(), q), atol=1e-12
        )
        self.assertEqual(set(again.couplings), {"g_right_slide"})
        self.assertEqual(set(again.sensors), {"g_count", "g_eye"})
        for call, words in (
            (lambda: arm.attach(tool, at="flange", prefix="g_"), "there is already a joint called"),
            (lambda: arm.attach(tool, at="flang"), "did you mean 'flange'"),
            (lambda: arm.attach(random_robot(3), at="flange"), "no frame of role mount"),
            (lambda: arm.include(tool, prefix="h_"), "onto: name the link"),
            (lambda: arm.include(tool, onto="link_1", mirror="q"), "none of x, y, z"),
            (lambda: arm.branch("g_plam"), "did you mean 'g_palm'"),
        ):
            links = len(arm.links)
            with self.assertRaisesRegex(ModelError, words):
                call()
            self.assertEqual(len(arm.links), links)

    def test_a_rename_reaches_every_reference(self) -> None:
        robot = gripper()
        for kind, old, new in (
            ("link", "left", "thumb"), ("joint", "left_slide", "grip"), ("motor", "drive", "screw"),
            ("frame", "tip", "point"), ("posture", "open", "wide"), ("closure", "bridge", "tie"),
            ("motion", "pinch", "snap"), ("material", "soft", "foam"), ("sensor", "eye", "lens"),
        ):  # fmt: skip
            robot.rename(kind, old, new)
        self.assertEqual(robot.joints["grip"].child, "thumb")
        self.assertEqual(robot.couplings["right_slide"].follows, "grip")
        self.assertEqual(robot.motors["screw"].joint, "grip")
        self.assertEqual(robot.closures["tie"].between, ("thumb", "right"))
        self.assertEqual(robot.frames["point"].link, "thumb")
        self.assertEqual(robot.postures["wide"], {"grip": 0.04})
        self.assertEqual(
            (robot.sensors["lens"].frame, robot.sensors["count"].joint), ("point", "grip")
        )
        self.assertEqual(robot.motions["snap"][0].to, "wide")
        before, after = gripper().tree(), robot.tree()
        np.testing.assert_array_equal(before.arrays.translation, after.arrays.translation)
        for args, words in (
            (("link", "thum", "x"), "did you mean 'thumb'"),
            (("link", "thumb", "right"), "already a link called 'right'"),
            (("leg", "thumb", "x"), "unknown kind 'leg'"),
            (("link", "thumb", " "), "needs a name"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                robot.rename(*args)

    def test_what_is_needed_is_not_removed_by_accident(self) -> None:
        robot = gripper()
        with self.assertRaisesRegex(
            ModelError,
            "link 'left' is needed by joint 'left_slide', closure 'bridge', frame 'tip', ",
        ):
            robot.remove("link", "left")
        self.assertEqual(len(robot.links), 3)
        gone = robot.remove("link", "left", with_dependents=True)
        self.assertEqual(
            set(gone),
            {("link", "left"), ("joint", "left_slide"), ("closure", "bridge"), ("frame", "tip"),
             ("coupling", "right_slide"), ("motor", "drive"), ("sensor", "count"), ("sensor", "eye")},
        )  # fmt: skip
        self.assertEqual(robot.postures["open"], {})
        self.assertEqual(robot.coordinates, ["right_slide"])
        self.assertEqual(robot.remove("motion", "pinch"), [("motion", "pinch")])
