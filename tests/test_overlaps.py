"""Distances between shapes against closed forms and brute force; what overlaps, and how it is told."""

import unittest

import numpy as np
from scipy.spatial import ConvexHull
from scipy.spatial.transform import Rotation

import mooring
from mooring import Robot
from mooring.geometry import Array, placement
from mooring.kinematics.overlaps import Surroundings, clearances, clusters, pairs_of, survey
from mooring.model import Box, Capsule, Cylinder, Hull, PlacedShape, Placement, Sphere
from mooring.model.shapes import Shape
from mooring.model.shapes.hulls import hull_mesh
from tests.support import line_tender


def two(first: Shape, at_first: Array, second: Shape, at_second: Array) -> Surroundings:
    """A robot of two bodies with a shape each, that move against each other."""
    robot = Robot("two")
    robot.add_link("base")
    for name, shape, at in (("a", first, at_first), ("b", second, at_second)):
        robot.add_link(name, collision=PlacedShape(shape, Placement(at)))
        robot.add_joint(f"to_{name}", "continuous", parent="base", child=name)
    return Surroundings(robot)


def measured(first: Shape, at_first: Array, second: Shape, at_second: Array) -> tuple[float, Array]:
    around = two(first, at_first, second, at_second)
    distances, contacts = around.distances(np.zeros(2), [("a", "b")])
    return float(distances[0]), contacts[0]


def random_place(random: np.random.Generator, reach: float) -> Array:
    turn = Rotation.random(random_state=int(random.integers(1 << 30))).as_matrix()
    return placement(random.uniform(-reach, reach, 3), turn)


def by_brute_force(a: Array, b: Array) -> float:
    """The signed distance of two clouds' hulls, from the hull of all differences of their points."""
    hull = ConvexHull((a[:, None] - b[None]).reshape(-1, 3))
    inside = hull.equations[:, 3].max()
    if inside <= 0:
        return float(inside)
    least = np.inf
    for face in hull.points[hull.simplices]:
        least = min(least, _to_triangle(*face))
    return least


def _to_triangle(p: Array, q: Array, r: Array) -> float:
    """From the origin, by looking at the plane, the edges and the corners one after the other."""
    n = np.cross(q - p, r - p)
    found = [np.linalg.norm(x) for x in (p, q, r)]
    foot = n * (n @ p) / (n @ n)
    if all(np.cross(y - x, foot - x) @ n >= 0 for x, y in ((p, q), (q, r), (r, p))):
        found.append(np.linalg.norm(foot))
    for x, y in ((p, q), (q, r), (r, p)):
        t = np.clip(-x @ (y - x) / ((y - x) @ (y - x)), 0, 1)
        found.append(np.linalg.norm(x + t * (y - x)))
    return float(min(found))


class Distances(unittest.TestCase):
    def test_points_with_radii(self) -> None:
        random = np.random.default_rng(0)
        for _ in range(30):
            one, other = random_place(random, 1), random_place(random, 1)
            gap = np.linalg.norm(one[:3, 3] - other[:3, 3])
            found, _ = measured(Sphere(0.3), one, Sphere(0.4), other)
            self.assertAlmostEqual(found, gap - 0.7, places=9)
            # A ball and a block: to the nearest point of the block, or out of its nearest side.
            half = np.array([0.2, 0.3, 0.5])
            inside = one[:3, :3].T @ (other[:3, 3] - one[:3, 3])
            out = np.abs(inside) - half
            expected = np.linalg.norm(np.maximum(out, 0)) + min(0.0, out.max()) - 0.1
            found, _ = measured(Box(tuple(2 * half)), one, Sphere(0.1), other)
            self.assertAlmostEqual(found, expected, places=7)
            # A ball and a bar with flat ends.
            across = np.hypot(inside[0], inside[1]) - 0.3
            along = abs(inside[2]) - 0.5
            beyond = np.hypot(max(across, 0), max(along, 0)) + min(0.0, max(across, along))
            found, _ = measured(Cylinder(0.3, 1.0), one, Sphere(0.1), other)
            self.assertAlmostEqual(found, beyond - 0.1, places=6)

    def test_hulls_blocks_and_capsules_against_brute_force(self) -> None:
        random = np.random.default_rng(1)
        signs = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)]) / 2
        overlapping = 0
        for k in range(120):
            one, other = random_place(random, 0.5), random_place(random, 0.5)
            cloud = random.normal(scale=0.3, size=(int(random.integers(4, 30)), 3))
            size = random.uniform(0.05, 0.8, 3)
            a = cloud @ one[:3, :3].T + one[:3, 3]
            if k % 3:
                b, radius = (signs * size) @ other[:3, :3].T + other[:3, 3], 0.0
                second: Shape = Box(tuple(size))
            else:
                ends = np.array([[0, 0, -0.3], [0, 0, 0.3], [1e-9, 0, 0]])
                b, radius = ends @ other[:3, :3].T + other[:3, 3], 0.15
                second = Capsule(0.15, 0.6)
            hull = hull_mesh(cloud)
            found, contact = measured(Hull(hull, "cloud"), one, second, other)
            expected = by_brute_force(a, b) - radius
            self.assertAlmostEqual(found, expected, delta=2e-8, msg=str(k))
            # The nearest points are that far apart, along the normal.
            np.testing.assert_allclose(contact[3:6] - contact[:3], found * contact[6:], atol=1e-6)
            overlapping += found < 0
        self.assertGreater(overlapping, 20)
        self.assertLess(overlapping, 100)

    def test_bars_against_many_sided_ones(self) -> None:
        random = np.random.default_rng(2)
        angles = np.linspace(0, 2 * np.pi, 48, endpoint=False)
        for _ in range(12):
            one, other = random_place(random, 0.6), random_place(random, 0.6)
            clouds = []
            for place, radius, length in ((one, 0.2, 0.5), (other, 0.3, 0.4)):
                rim = radius * np.column_stack([np.cos(angles), np.sin(angles), 0 * angles])
                cloud = np.vstack([rim + np.array([0, 0, side * length / 2]) for side in (-1, 1)])
                clouds.append(cloud @ place[:3, :3].T + place[:3, 3])
            found, _ = measured(Cylinder(0.2, 0.5), one, Cylinder(0.3, 0.4), other)
            error = 0.5 * (1 - np.cos(np.pi / 48))
            expected = by_brute_force(*clouds)
            self.assertLessEqual(found, expected + 1e-7)
            self.assertGreaterEqual(found, expected - error - 1e-7)

    def test_touching_and_nested_shapes(self) -> None:
        cases = (
            (Box((1, 1, 1)), np.eye(4), Box((1, 1, 1)), placement((1, 0, 0)), 0.0),
            (Box((1, 1, 1)), np.eye(4), Box((1, 1, 1)), np.eye(4), -1.0),
            (Sphere(0.5), np.eye(4), Sphere(0.2), np.eye(4), -0.7),
            (Cylinder(0.5, 2), np.eye(4), Cylinder(0.5, 2), placement((0, 0, 1.5)), -0.5),
            (Capsule(0.1, 1), np.eye(4), Capsule(0.1, 1), placement((0, 0, 0.3)), -0.2),
            (Box((2, 2, 0.1)), np.eye(4), Capsule(0.2, 1), placement((0, 0, 0.6)), -0.15),
        )
        for first, at_first, second, at_second, expected in cases:
            found, contact = measured(first, at_first, second, at_second)
            self.assertAlmostEqual(found, expected, delta=1e-6, msg=f"{first} {second}")
            self.assertAlmostEqual(float(np.linalg.norm(contact[6:])), 1.0)
        # One bar inside another, about one axis: every direction is as good as the others, and
        # the answer is that of a bar with many sides.
        found, _ = measured(Cylinder(0.5, 2), np.eye(4), Cylinder(0.1, 1), np.eye(4))
        self.assertAlmostEqual(found, -0.6, delta=1e-3)


def hip(clearance: float = 0.0, at: float = 0.0) -> Robot:
    """Pelvis, yoke and thigh with joints at one point and a block around each."""
    robot = Robot("hip")
    for name, size, height in (
        ("pelvis", (0.3, 0.2, 0.2), 0.06),
        ("yoke", (0.1, 0.1, 0.1), 0.0),
        ("thigh", (0.1, 0.1, 0.4), -0.17),
    ):
        block = {"box": [v - 2 * clearance for v in size], "at": {"xyz": [0, 0, height]}}
        robot.add_link(name, mass=2, inertia=(0.02, 0.02, 0.01), collision=block)
    limits = {"lower": -1, "upper": 1, "effort": 60}
    robot.add_joint("yaw", "revolute", parent="pelvis", child="yoke", **limits)
    robot.add_joint(
        "pitch", "revolute", parent="yoke", child="thigh", axis="y", at=(0, 0, at), **limits
    )
    return robot


class Finding(unittest.TestCase):
    def test_three_links_at_one_point_are_named_with_what_parts_them(self) -> None:
        found = clusters(hip())
        self.assertEqual([c.links for c in found], [("pelvis", "yoke", "thigh")])
        # The thigh reaches up to 30 mm, the pelvis down to -40 mm.
        self.assertAlmostEqual(found[0].depth, 0.07, places=6)
        apart = hip(found[0].clearance)
        self.assertEqual(clusters(apart), [])
        self.assertGreater(clearances(apart)[0].distance, 0)
        allowed = hip()
        allowed.allow_overlap("thigh", "pelvis", "the hip")
        self.assertEqual((clusters(allowed), clearances(allowed)), ([], []))
        # Farther out along the leg it is a plain overlap.
        self.assertEqual(clusters(hip(at=-0.15)), [])

    def test_pairs_leave_out_what_cannot_meet(self) -> None:
        pairs = pairs_of(line_tender())
        self.assertNotIn(("pedestal", "cabinet"), pairs.judged + pairs.neighbours)
        self.assertIn(("pedestal", "mast"), pairs.neighbours)
        self.assertIn(("boom", "rod"), pairs.neighbours)
        self.assertIn(("cabinet", "mast"), pairs.judged)

    def test_the_survey_tells_lasting_overlaps_from_collisions(self) -> None:
        robot = Robot("arm")
        box = {"box": [0.1, 0.1, 0.1]}
        robot.add_link("post", collision=[box, {**box, "at": {"xyz": [0.55, 0, 0]}}])
        robot.add_link("arm")
        robot.add_link("hand", collision={**box, "at": {"xyz": [0.5, 0, 0]}})
        robot.add_link("sleeve", collision={"box": [0.08, 0.08, 0.3]})
        robot.add_joint("turn", "revolute", parent="post", child="arm", lower=-2, upper=2)
        robot.add_joint("wrist", "fixed", parent="arm", child="hand")
        robot.add_joint("spin", "continuous", parent="arm", child="sleeve")
        found = {(m.first, m.second): m for m in survey(robot, 400).meetings}
        hand, sleeve = found["post", "hand"], found["post", "sleeve"]
        self.assertFalse(hand.lasting)
        self.assertAlmostEqual(hand.distance, -0.05, delta=3e-3)
        # Overlapping while the hand is within its own and the block's breadth of the block.
        self.assertAlmostEqual(hand.share, 2 * np.arcsin(0.1 / 0.5) / 4, delta=0.05)
        self.assertIn("limit the joints", hand.proposal())
        self.assertTrue(sleeve.lasting)
        self.assertIn("allowances: [{between: [post, sleeve]}]", sleeve.proposal())
        self.assertEqual(mooring.kinematics.overlaps.survey(robot, 400).meetings[0].share, 1.0)
