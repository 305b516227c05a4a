"""Collision by rule: hulls and convex pieces cover, are as small as they can be, and can shrink."""

import unittest

import numpy as np
from scipy.spatial import ConvexHull

import mooring
from mooring import Robot, read_cad
from mooring.demo import DRUM_CART, LINE_TENDER
from mooring.demo.modelling import ball, box, cut, cylinder, fuse
from mooring.errors import DocumentError, ModelError
from mooring.geometry import Array
from mooring.model import Box, Capsule, Cylinder, Sphere
from mooring.model.collision import CollisionRule, fit
from mooring.model.collision.pieces import convex_pieces
from mooring.model.shapes.bodies import box as box_mesh
from mooring.model.shapes.hulls import hull_mesh, shrunk_hull
from tests.parts import made
from tests.support import folder_for


def uncovered(points: Array, hulls: list[mooring.cad.Mesh]) -> float:
    """How far the worst of some points is outside of all convex meshes [m]."""
    outside = [
        (points @ (planes := ConvexHull(mesh.vertices).equations)[:, :3].T + planes[:, 3]).max(
            axis=1
        )
        for mesh in hulls
    ]
    return float(np.min(outside, axis=0).max())


def rule(**words: object) -> CollisionRule:
    return CollisionRule.model_validate(words)


class Pieces(unittest.TestCase):
    def test_an_angle_and_a_fork_fall_into_their_blocks(self) -> None:
        angle = fuse(box((0, 100), (0, 20), (0, 20)), box((0, 20), (0, 20), (0, 80)))
        fork = cut(box((0, 100), (0, 60), (0, 30)), box((30, 101), (20, 40), (-1, 31)))
        parts = made(folder_for(self), ("angle", angle), ("fork", fork)).parts
        for part, count in zip(parts, (2, 3), strict=True):
            hulls = convex_pieces([part.corners], 8, None)
            self.assertEqual(len(hulls), count)
            # Blocks: the pieces add up to the solid, so none is too large.
            self.assertAlmostEqual(sum(h.solid.volume for h in hulls), part.volume, places=12)
            for mesh in hulls:
                self.assertTrue(mesh.closed)
        self.assertEqual(len(convex_pieces([parts[1].corners], 2, None)), 2)

    def test_nothing_of_the_surface_is_left_uncovered(self) -> None:
        assembly = read_cad(LINE_TENDER.step)
        for names in (("mast_post", "barrel_bracket"), ("port_jaw",), ("clamp_body",)):
            parts = assembly.pick(*names)
            triangles = np.concatenate([part.corners for part in parts])
            weights = np.random.default_rng(1).dirichlet((1, 1, 1), size=4)
            points = np.einsum("kc,mcx->mkx", weights, triangles).reshape(-1, 3)
            for most in (1, 3, 8):
                hulls = convex_pieces([triangles], most, None)
                self.assertLessEqual(len(hulls), most)
                self.assertLess(uncovered(points, hulls), 1e-7)

    def test_a_demanded_error_is_met_by_cutting_on(self) -> None:
        arch = cut(box((0, 120), (0, 20), (0, 60)), cylinder("y", (-1, 21), 100, (60, 0, 0)))
        (part,) = made(folder_for(self), ("arch", arch)).parts
        counts = []
        for error in ("20 mm", "3 mm"):
            found = fit(rule(fit="pieces", pieces=64, error=error), (part,))
            counts.append(len(found.shapes))
        self.assertLess(counts[0], counts[1])
        self.assertLess(found.judgement.overhang, 4e-3)


class Shrinking(unittest.TestCase):
    def test_every_side_moves_inwards_by_the_clearance(self) -> None:
        mesh = shrunk_hull(hull_mesh(box_mesh((0.2, 0.3, 0.4)).vertices), 0.01)
        np.testing.assert_allclose(np.ptp(mesh.vertices, axis=0), (0.18, 0.28, 0.38), atol=1e-12)
        assembly = made(folder_for(self), ("crate", box((0, 20), (0, 30), (0, 40))),
                        ("buoy", ball(50)), ("bar", cylinder("z", (0, 80), 20)))  # fmt: skip
        for name, how, shape in (
            ("crate", "box", Box((0.018, 0.028, 0.038))),
            ("bar", "cylinder", Cylinder(0.009, 0.078)),
        ):
            (placed,) = fit(rule(fit=how, clearance="1 mm"), (assembly.part(name),)).shapes
            found = np.hstack([np.sort(np.atleast_1d(v)) for v in vars(placed.shape).values()])
            wanted = np.hstack([np.atleast_1d(v) for v in vars(shape).values()])
            np.testing.assert_allclose(found, wanted, atol=2e-4)
        for how in ("box", "sphere", "cylinder", "capsule", "hull"):
            with self.assertRaisesRegex(ModelError, "leaves nothing of the"):
                fit(rule(fit=how, clearance="60 mm"), (assembly.part("buoy"),))
        with self.assertRaisesRegex(ModelError, "a mesh cannot be shrunk"):
            fit(rule(fit="mesh", clearance="1 mm"), (assembly.part("buoy"),))


class Automatic(unittest.TestCase):
    def test_the_cheapest_shape_that_is_close_is_taken(self) -> None:
        comb = fuse(
            box((0, 200), (0, 20), (0, 10)),
            *(box((x, x + 10), (0, 20), (0, 120)) for x in (0, 90, 190)),
        )
        tetrahedron = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
        self.assertAlmostEqual(hull_mesh(tetrahedron).solid.volume, 1 / 6)
        assembly = made(
            folder_for(self), ("buoy", ball(50)), ("crate", box((0, 20), (0, 30), (0, 40))),
            ("disc", cylinder("y", (0, 12), 90)), ("rod", cylinder("x", (0, 400), 20)), ("comb", comb),
            ("float", fuse(cylinder("x", (0, 80), 40), ball(40), ball(40, (80, 0, 0)))),
            ("ring", cut(cylinder("z", (0, 20), 120), cylinder("z", (-1, 21), 60))),
        )  # fmt: skip
        for name, expected, shape in (
            ("buoy", "sphere", Sphere), ("crate", "box", Box), ("disc", "cylinder", Cylinder),
            ("rod", "cylinder", Cylinder), ("float", "capsule", Capsule), ("comb", "pieces", None),
        ):  # fmt: skip
            found = fit(rule(fit="auto"), (assembly.part(name),))
            self.assertEqual(found.rule, expected, name)
            if shape is not None:
                self.assertIsInstance(found.shapes[0].shape, shape)
        self.assertLessEqual(len(found.shapes), 5)
        volume = sum(placed.shape.volume for placed in found.shapes)
        self.assertAlmostEqual(volume, assembly.part("comb").volume, places=12)
        # A ring keeps its hole, as finely as is asked, and what cannot be had is found.
        ring = assembly.part("ring")
        for asked in (0.015, 0.004):
            found = fit(rule(fit="auto", overhang=asked), (ring,))
            self.assertEqual(found.rule, "pieces")
            self.assertLess(found.judgement.overhang, asked)
            middle = np.array([[0, 0, 0.01]])
            free = min(uncovered(middle, [hull.shape.mesh]) for hull in found.shapes)
            self.assertGreater(free, 0.5 * (0.03 - asked))
        robot = Robot("ring")
        robot.add_link(
            "ring", parts=[ring], collision={"fit": "auto", "pieces": 4, "overhang": 0.004}
        )
        told = [f for f in mooring.check(robot).findings if f.code == "collision-coarse"]
        self.assertIn("4 convex pieces stand out from its parts by up to", told[0].message)

    def test_a_wheel_gets_its_cylinder_about_its_axle(self) -> None:
        # Flat and with a lug: the smallest cylinder lies askew, and off the axle.
        wheel = fuse(cylinder("y", (0, 30), 200), box((80, 130), (0, 30), (-15, 15)))
        (part,) = made(folder_for(self), ("wheel", wheel)).parts
        for how in ("cylinder", "capsule"):
            robot = Robot("cart")
            robot.add_link("frame", mass=1)
            robot.add_link("wheel", parts=[part], collision={"fit": how, "about": "joint"})
            robot.add_joint("axle", "continuous", parent="frame", child="wheel", axis="y",
                            at={"xyz": (0.001, 0, 0), "relative_to": "cad"})  # fmt: skip
            (shape,) = robot.links["wheel"].collisions
            place = shape.in_link(robot.link_frames()["wheel"])
            np.testing.assert_allclose(np.abs(place[:3, 2]), (0, 1, 0), atol=1e-9)
            np.testing.assert_allclose(place[[0, 2], 3], (0, 0), atol=1e-9)
            self.assertAlmostEqual(shape.shape.radius, np.hypot(0.129, 0.015), places=6)
            twin = Robot("twin")
            twin.include(robot, mirror="x")
            (image,) = twin.links["wheel"].collisions
            self.assertAlmostEqual(image.shape.radius, shape.shape.radius, places=9)
        robot = Robot("loose")
        robot.add_link("wheel", parts=[part], collision={"fit": "cylinder", "about": "joint"})
        with self.assertRaisesRegex(ModelError, "needs a joint that turns or slides it"):
            _ = robot.links["wheel"].collisions
        with self.assertRaisesRegex(ModelError, "about is for cylinder, capsule and auto"):
            robot.links["wheel"].collision = {"fit": "box", "about": "joint"}

    def test_a_pattern_says_it_for_all_links_at_once(self) -> None:
        cart = mooring.read(DRUM_CART.document)
        robot = Robot("cart")
        for name, link in cart.links.items():
            words = "none" if name == "chassis" else None
            robot.add_link(name, parts=link.parts, collision=words)
        robot.set_collision("*_wheel", {"fit": "sphere"})
        robot.set_collision("*", "auto")
        table = robot.collision_table.set_index("link")
        self.assertEqual(table.loc["port_wheel", "rule"], "sphere")
        self.assertEqual(table.loc["drum", "rule"], "cylinder")
        self.assertNotIn("chassis", table.index)
        self.assertGreater(table.loc["port_wheel", "excess"], table.loc["drum", "excess"])
        with self.assertRaisesRegex(ModelError, "no link matches 'whel_"):
            robot.set_collision("whel_*", "box")


class InTheDocument(unittest.TestCase):
    def test_lists_rules_and_shapes(self) -> None:
        folder = folder_for(self)
        (folder / "line_tender.step").write_bytes(LINE_TENDER.step.read_bytes())
        file = folder / "clamp.yaml"
        text = (
            "mooring: 1\ncad: [{file: line_tender.step}]\nlinks:\n"
            "  clamp:\n    parts: [rotator_shaft, clamp_body]\n    collision:\n"
            "      - {fit: cylinder, parts: rotator_shaft, clearance: 1 mm}\n"
            "      - {fit: pieces, parts: clamp_body, pieces: 3}\n"
            "      - {sphere: 30 mm, at: {xyz: [0, 0, 50 mm]}}\n"
            "  jaw: {parts: port_jaw}\n  post: {mass: 1, inertia: [1, 1, 1]}\n"
            'collision: {"*": hull}\n'
        )
        file.write_text(text)
        robot = mooring.read(file)
        kinds = [placed.shape.kind for placed in robot.links["clamp"].collisions]
        self.assertEqual(kinds, ["sphere", "cylinder", "hull", "hull", "hull"])
        self.assertEqual([p.shape.kind for p in robot.links["jaw"].collisions], ["hull"])
        self.assertEqual(robot.links["post"].collisions, [])
        for wrong, right, line, words in (
            ("fit: cylinder", "fit: cilinder", 7, "must be none, box"),
            (
                "parts: rotator_shaft, cl",
                "parts: rotator, cl",
                7,
                "no part of the link matches 'rotator'",
            ),
            ("sphere: 30 mm", "sphere: 30 kg", 9, "is a mass"),
            ("sphere: 30 mm", "sphere: 30 mm, box: [1, 1, 1]", 9, "give one of box"),
            ("pieces: 3", "pieces: 0", 8, "greater than or equal to 1"),
            ("pieces: 3", "peices: 3", 8, "did you mean 'pieces'"),
            ('"*": hull', '"x*": hull', 12, "no link matches"),
            ('"*": hull', '"*": hul', 12, "did you mean 'hull'"),
            ("inertia: [1, 1, 1]", "inertia: [1, 1, 1], collision: box", 11, "needs parts"),
        ):
            with self.subTest(right):
                file.write_text(text.replace(wrong, right))
                with self.assertRaises(DocumentError) as caught:
                    mooring.read(file)
                self.assertIn(f":{line}: ", str(caught.exception))
                self.assertIn(words, str(caught.exception))
