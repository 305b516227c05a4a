"""Other people's robots made good: weighed, collided, merged, held elsewhere, made of shapes."""

import json
import shutil
import unittest
from collections.abc import Mapping
from pathlib import Path

import numpy as np

import mooring
from mooring import Robot, dynamics, kinematics
from mooring.errors import InputError, ModelError
from mooring.model.comparing import differences
from mooring.tree import Tree
from tests.support import folder_for, random_robot, run_mooring
from tests.urdf_set import FOLDER, HEALTHY


def positions(tree: Tree, named: Mapping[str, float]) -> np.ndarray:
    q = tree.neutral()
    for joint, value in named.items():
        if joint in tree.coordinates:
            q[tree.coordinate(joint)] = value
    return q


def centres(robot: Robot, q: np.ndarray, root: str) -> dict[str, np.ndarray]:
    """Centres of mass, seen from a link."""
    tree = robot.tree()
    poses = kinematics.link_poses(tree, q)
    home = np.linalg.inv(poses[tree.link(root)])
    return {
        name: (home @ poses[tree.link(name)] @ [*robot.inertia(name).centre, 1])[:3]
        for name in tree.links
        if robot.inertia(name) is not None
    }


class Reshaping(unittest.TestCase):
    def robots(self) -> list[Robot]:
        return [*(mooring.read(file) for file in HEALTHY), *map(random_robot, range(3))]

    def test_held_at_another_link_all_stand_to_each_other_as_before(self) -> None:
        random = np.random.default_rng(4)
        for robot in self.robots():
            tree = robot.tree()
            named = {name: random.normal() for name in tree.freedoms if name in robot.joints}
            for root in random.choice(list(robot.links), 2):
                with self.subTest(robot.name, root=root):
                    other = robot.rerooted(str(root))
                    self.assertEqual(other.tree().links[0], root)
                    one = centres(robot, positions(tree, named), root)
                    two = centres(other, positions(other.tree(), named), root)
                    # A robot that floats hangs on another joint then.
                    if all(joint.type != "floating" for joint in robot.joints.values()):
                        for name, centre in one.items():
                            np.testing.assert_allclose(two[name], centre, atol=1e-12)
                    self.assertAlmostEqual(other.mass(), robot.mass())
                    back = other.rerooted(tree.links[0])
                    again = centres(back, positions(back.tree(), named), root)
                    for name, centre in two.items():
                        np.testing.assert_allclose(again[name], centre, atol=1e-12)

    def test_merged_it_moves_as_before(self) -> None:
        for robot in self.robots():
            with self.subTest(robot.name):
                if not any(joint.type == "fixed" for joint in robot.joints.values()):
                    continue
                whole = robot.merged()
                self.assertNotIn("fixed", {joint.type for joint in whole.joints.values()})
                one, two = robot.tree(), whole.tree()
                q = np.random.default_rng(1).normal(size=(4, len(one.coordinates)))
                if "floating" in {joint.type for joint in robot.joints.values()}:
                    q = one.neutral()[None]
                order = [two.freedoms.index(name) for name in one.freedoms]
                places = [two.coordinates.index(name) for name in one.coordinates]
                np.testing.assert_allclose(
                    dynamics.mass_matrix(one, q),
                    dynamics.mass_matrix(two, q[:, np.argsort(places)])[:, order][:, :, order],
                    atol=1e-10,
                )
                gone = set(robot.links) - set(whole.links)
                self.assertLessEqual(gone, set(whole.frames))
                poses = kinematics.link_poses(one, q[0])
                for name in gone:
                    frame = whole.frames[name]
                    carrier = kinematics.link_poses(two, q[0][np.argsort(places)])[
                        two.link(frame.link)
                    ]
                    np.testing.assert_allclose(
                        carrier @ frame.at.matrix, poses[one.link(name)], atol=1e-12
                    )
                shown = [sum(len(k.shown({})) for k in r.links.values()) for r in (robot, whole)]
                self.assertEqual(*shown)

    def test_what_refers_to_a_merged_link_refers_to_the_other(self) -> None:
        robot = Robot("r")
        for name in ("base", "arm", "plate", "other"):
            robot.add_link(name, box=(0.1, 0.2, 0.3), density=1000)
        robot.add_joint("turn", "continuous", parent="base", child="arm")
        robot.add_joint(
            "bolt",
            "fixed",
            parent="arm",
            child="plate",
            at={"xyz": (1, 0, 0), "rpy": (0, 0, np.pi / 2)},
        )
        robot.add_joint(
            "swing", "continuous", parent="plate", child="other", at=(0.5, 0, 0), axis="x"
        )
        robot.add_force("wind", "drag", link="plate", at=(0, 0.1, 0), linear=1)
        robot.add_sensor("eye", "imu", link="plate", rate=100)
        robot.add_frame("tip", link="plate", at=(0, 0, 0.2))
        robot.allow_overlap("plate", "base")
        whole = robot.merged()
        self.assertEqual(list(whole.links), ["base", "arm", "other"])
        np.testing.assert_allclose(whole.forces["wind"].at, (0.9, 0, 0), atol=1e-12)
        np.testing.assert_allclose(whole.joints["swing"].at.matrix[:3, 3], (1, 0.5, 0), atol=1e-12)
        self.assertEqual((whole.forces["wind"].link, whole.frames["tip"].link), ("arm", "arm"))
        self.assertEqual(list(whole.allowances), [("arm", "base")])
        self.assertAlmostEqual(whole.mass(), robot.mass())
        self.assertEqual((whole.sensors["eye"].link, whole.sensors["eye"].frame), (None, "plate"))
        held = robot.rerooted("other")
        frame = held.frames[held.sensors["eye"].frame]
        np.testing.assert_allclose(
            held.link_frames()[frame.link] @ frame.at.matrix,
            np.linalg.inv(robot.link_frames()["other"]) @ robot.link_frames()["plate"], atol=1e-12,
        )  # fmt: skip
        robot.add_sensor("bolts", "force_torque", joint="bolt", rate=100)
        kept = robot.merged()
        self.assertIn("joint 'bolt' stays: sensor 'bolts' needs it", str(kept.notes[-1]))


class Weighing(unittest.TestCase):
    def test_inertias_follow_from_shapes(self) -> None:
        robot = mooring.read(FOLDER / "quay_arm.urdf")
        before = {name: robot.inertia(name) for name in robot.links}
        for link in robot.links.values():
            if link.mass is not None:
                link.inertia = (9, 9, 9)
        told = robot.weigh()
        self.assertEqual(len(told), 7)
        for name, found in before.items():
            if found is not None:
                # The file's numbers have five digits.
                np.testing.assert_allclose(
                    robot.inertia(name).tensor, found.tensor, rtol=1e-4, atol=1e-9
                )
                np.testing.assert_allclose(robot.inertia(name).centre, found.centre)
        robot.weigh("forearm", density="2 g/cm^3")
        self.assertAlmostEqual(robot.inertia("forearm").mass, 2000 * np.pi * 0.055**2 * 0.5)
        robot.weigh("forearm", mass="5 kg")
        self.assertEqual(robot.inertia("forearm").mass, 5)
        robot.weigh("forearm", material="steel")
        self.assertAlmostEqual(robot.inertia("forearm").mass, 7850 * np.pi * 0.055**2 * 0.5)
        for words, call in (
            ("no link matches 'x'", lambda: robot.weigh("x")),
            ("one of mass, density and material", lambda: robot.weigh("*", mass=1, density=2)),
            ("tool0.*nothing with a volume", lambda: robot.weigh("tool0")),
        ):
            with self.assertRaisesRegex(ModelError, words):
                call()

    def test_collision_shapes_are_fitted_around_visuals(self) -> None:
        robot = mooring.read(FOLDER / "yard_gantry.urdf")
        self.assertFalse(any(link.collisions for link in robot.links.values()))
        robot.set_collision("*", "auto")
        for link in robot.links.values():
            (hit,), (seen,) = link.collisions, link.visuals
            np.testing.assert_allclose(hit.shape.volume, seen.shape.volume, rtol=1e-6)
            np.testing.assert_allclose(
                hit.placement.matrix[:3, 3], seen.placement.matrix[:3, 3], atol=1e-9
            )
        robot.set_collision("mast", {"fit": "capsule", "about": "joint"}, anew=True)
        self.assertEqual([s.shape.kind for s in robot.links["mast"].collisions], ["capsule"])

    def test_meshes_in_another_unit_and_with_fewer_triangles(self) -> None:
        robot = mooring.read(FOLDER / "clamp_description" / "urdf" / "clamp.urdf")
        robot.set_mesh_unit("*_jaw", "cm")
        (jaw,) = robot.links["left_jaw"].visuals
        self.assertAlmostEqual(np.ptp(jaw.shape.mesh.vertices[:, 2]), 0.7)
        self.assertEqual(jaw.shape.file.scale, (0.01, 0.01, 0.01))
        told = robot.simplify("plate", triangles=4)
        self.assertIn("4 cannot be reached without ruining its shape", " ".join(told))
        with self.assertRaisesRegex(ModelError, "no link that matches 'nothing\\*|no link matches"):
            robot.simplify("nothing*", triangles=100)

    def test_copies_of_meshes_have_all_they_refer_to(self) -> None:
        folder = folder_for(self)
        out = folder / "out" / "two.urdf"
        for place, red in (("near", 1.0), ("far", 0.0)):
            (folder / place).mkdir()
            (folder / place / "fin.obj").write_text(
                "mtllib paint.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nusemtl p\n"
                "f 1 3 2\nf 1 2 4\nf 2 3 4\nf 1 4 3\n"
            )
            (folder / place / "paint.mtl").write_text(f"newmtl p\nKd {red} 0.5 0\n")
        points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 2]], dtype="<f4").tobytes()
        sides = np.array([0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2], dtype="<u2").tobytes()
        (folder / "near" / "data").mkdir()
        (folder / "near" / "data" / "keel.bin").write_bytes(points + sides)
        views = [{"buffer": 0, "byteOffset": 0, "byteLength": 48},
                 {"buffer": 0, "byteOffset": 48, "byteLength": 24}]  # fmt: skip
        arrays = [{"bufferView": 0, "componentType": 5126, "count": 4, "type": "VEC3",
                   "min": [0, 0, 0], "max": [1, 1, 2]},
                  {"bufferView": 1, "componentType": 5123, "count": 12, "type": "SCALAR"}]  # fmt: skip
        (folder / "near" / "keel.gltf").write_text(json.dumps({
            "asset": {"version": "2.0"}, "scene": 0, "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, "name": "keel"}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
            "buffers": [{"uri": "data/keel.bin", "byteLength": 72}],
            "bufferViews": views, "accessors": arrays,
        }))  # fmt: skip
        shown = "".join(
            f'<visual><geometry><mesh filename="{name}"/></geometry></visual>'
            for name in ("near/fin.obj", "far/fin.obj", "near/keel.gltf")
        )
        (folder / "two.urdf").write_text(
            f'<robot name="two"><link name="hull">{shown}</link></robot>'
        )
        self.assertEqual(mooring.read(folder / "two.urdf").write(out, copy_meshes=True), [])
        for place in ("near", "far"):
            shutil.rmtree(folder / place)
        robot = mooring.read(out)
        self.assertEqual([note.text for note in robot.notes if note.code], [])
        meshes = [shape.shape for shape in robot.links["hull"].visuals]
        self.assertEqual([np.ptp(m.mesh.vertices, axis=0).max() for m in meshes], [1, 1, 2])
        colors = [(m.file.path.parent / "paint.mtl").read_text().split()[3] for m in meshes[:2]]
        self.assertEqual(colors, ["1.0", "0.0"])

    def test_by_command(self) -> None:
        folder = folder_for(self)
        shutil.copytree(FOLDER, folder / "urdf")
        clamp = folder / "urdf" / "clamp_description" / "urdf" / "clamp.urdf"
        out = folder / "out" / "clamp.urdf"
        done = run_mooring("refit", clamp, out, "--merge-fixed", "*", "--collide", "*_jaw=hull",
                           "--weigh", "*_jaw=steel", "--weigh", "plate", "--copy-meshes")  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        for words in (
            "links that are no more: body",
            "'left_jaw' collides as 1 shape (hull)",
            "it was 120 g",
        ):
            self.assertIn(words, done.stdout)
        robot = mooring.read(out)
        self.assertEqual([n.text for n in robot.notes if n.code], [])
        self.assertAlmostEqual(robot.inertia("left_jaw").mass, 7850 * 0.02 * 0.015 * 0.07)
        self.assertTrue((out.parent / "clamp_meshes" / "jaw.stl").is_file())
        done = run_mooring("refit", folder / "urdf" / "stevedore.urdf", folder / "arm.yaml",
                           "--branch", "l_shoulder_link", "--root", "l_palm")  # fmt: skip
        self.assertEqual(done.returncode, 0, done.stderr)
        arm = mooring.read(folder / "arm.yaml")
        self.assertEqual((arm.tree().links[0], len(arm.links)), ("l_palm", 6))
        for arguments, words in (
            (("--weigh", "nobody=3 kg"), "no link matches 'nobody'"),
            (("--collide", "*=capsul"), "did you mean 'capsule'"),
            (("--simplify", "*"), "cannot read '*'"),
            (("--root", "flansch"), "no link is called 'flansch'"),
        ):
            done = run_mooring("refit", clamp, folder / "no.urdf", *arguments)
            self.assertEqual(done.returncode, 2)
            self.assertIn(words, done.stderr)
            self.assertFalse((folder / "no.urdf").exists())


SHAPED = """\
mooring: 1
links:
  base: {box: [400 mm, 300 mm, 100 mm], at: [0, 0, 50 mm], color: "#808080", mass: 12 kg}
  arm:
    shapes:
      - {cylinder: {radius: 30 mm, length: 500 mm}, at: [0, 0, 250 mm], color: "#f0a020"}
      - {sphere: 50 mm, at: [0, 0, 500 mm]}
    material: aluminium
  weight: {mass: 20 kg}
  flag: {capsule: {radius: 5 mm, length: 200 mm}, density: 1200 kg/m^3, collision: none}
joints:
  turn: {type: revolute, parent: base, child: arm, at: [0, 0, 120 mm], axis: y, limits: {lower: -1, upper: 1}}
  hang: {type: fixed, parent: arm, child: weight, at: [0, 0, 500 mm]}
  wave: {type: continuous, parent: base, child: flag, at: [300 mm, 0, 150 mm]}
"""


class WithoutCad(unittest.TestCase):
    def document(self, text: str = SHAPED) -> Path:
        file = folder_for(self) / "arm.yaml"
        file.write_text(text)
        return file

    def test_one_line_is_seen_touched_and_weighed(self) -> None:
        robot = mooring.read(self.document())
        self.assertEqual(mooring.check(robot).codes(), set())
        base, arm = robot.inertia("base"), robot.inertia("arm")
        self.assertEqual(base.mass, 12)
        np.testing.assert_allclose(np.diag(base.tensor), [0.1, 0.17, 0.25])
        np.testing.assert_allclose(base.centre, (0, 0, 0.05))
        bar, ball = np.pi * 0.03**2 * 0.5, 4 / 3 * np.pi * 0.05**3
        self.assertAlmostEqual(arm.mass, 2700 * (bar + ball))
        self.assertAlmostEqual(arm.centre[2], (bar * 0.25 + ball * 0.5) / (bar + ball))
        self.assertEqual(
            [s.shape.kind for s in robot.links["arm"].collisions], ["cylinder", "sphere"]
        )
        self.assertEqual([s.color for s in robot.links["arm"].shown({})], ["#f0a020", None])
        self.assertEqual(robot.links["flag"].collisions, [])
        # A mass of which nothing more is known is a point, and counts.
        self.assertAlmostEqual(robot.mass(), 12 + arm.mass + 20 + robot.inertia("flag").mass)
        run = mooring.simulate(robot, seconds=0.05)
        self.assertEqual(run.findings, [])

    def test_in_python_and_in_urdf_it_is_the_same(self) -> None:
        robot = Robot("arm")
        robot.add_link("base", box=("400 mm", "300 mm", "100 mm"), at=(0, 0, 0.05), color="#808080",
                       mass="12 kg")  # fmt: skip
        robot.add_link("arm", material="aluminium", shapes=[
            {"cylinder": {"radius": "30 mm", "length": 0.5}, "at": (0, 0, 0.25), "color": "#f0a020"},
            {"sphere": 0.05, "at": (0, 0, 0.5)}])  # fmt: skip
        robot.add_link("weight", mass=20)
        robot.add_link(
            "flag", capsule={"radius": 0.005, "length": 0.2}, density=1200, collision="none"
        )
        robot.add_joint("turn", "revolute", parent="base", child="arm", at=(0, 0, 0.12), axis="y",
                        lower=-1, upper=1)  # fmt: skip
        robot.add_joint("hang", "fixed", parent="arm", child="weight", at=(0, 0, 0.5))
        robot.add_joint("wave", "continuous", parent="base", child="flag", at=(0.3, 0, 0.15))
        file = self.document()
        self.assertEqual(differences(mooring.read(file), robot), [])
        robot.write(file.with_suffix(".urdf"))
        again = mooring.read(file.with_suffix(".urdf"))
        for name in robot.links:
            np.testing.assert_allclose(
                again.inertia(name).tensor, robot.inertia(name).tensor, atol=1e-12
            )
        with self.assertRaisesRegex(ModelError, "expected a list of shapes"):
            robot.add_link("odd", visuals={"box": (1, 1, 1)})
        robot.add_link("lid", visuals=[{"box": (1, 1, 1)}], collision=[{"sphere": 1}])
        self.assertEqual(robot.links["lid"].visuals[0].shape.kind, "box")

    def test_mistakes_are_told(self) -> None:
        for old, new, words in (
            ("box: [400 mm", "box: [-400 mm", "cannot be|greater than zero"),
            ("shapes:", "shape:", "unknown key 'shape'; did you mean 'shapes'"),
            ("sphere: 50 mm", "sphere: 50 kg", "arm.yaml:7"),
            ("mass: 12 kg}", "mass: 12 kg, parts: x}", "CAD"),
        ):
            with self.subTest(new), self.assertRaisesRegex(InputError, words):
                mooring.read(self.document(SHAPED.replace(old, new, 1)))
        lost = mooring.read(self.document(SHAPED.replace("type: fixed", "type: continuous")))
        (found,) = [f for f in mooring.check(lost) if f.severity == "error"]
        self.assertEqual(found.code, "inertia-unknown")
        self.assertIn("'weight' weighs 20 kg, and nothing tells how that is spread", found.message)


if __name__ == "__main__":
    unittest.main()
