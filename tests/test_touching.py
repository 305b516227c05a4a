"""Which parts touch: against closed forms, brute force, and the drawing."""

import unittest

import numpy as np

from mooring import read_cad
from mooring.cad import Assembly
from mooring.cad.hierarchy import Boxes
from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.touching.freedoms import freedoms_of
from mooring.demo import LINE_TENDER
from mooring.geometry import placement, rotation_from_rpy
from mooring.model.shapes.bodies import ball, box


def part(name: str, mesh: Mesh, place: np.ndarray) -> Part:
    return Part(name, name, place, Geometry(name, mesh, mesh.solid, "mesh"))


def quay(*parts: Part) -> Assembly:
    return Assembly("quay", LINE_TENDER.step, parts)


class Gaps(unittest.TestCase):
    def test_triangles_against_many_points_on_both(self) -> None:
        random = np.random.default_rng(21)
        weights = random.dirichlet((0.5, 0.5, 0.5), size=4000)
        for _ in range(40):
            one, other = random.normal(size=(2, 3, 3))
            other += random.normal(size=3) * 2
            found = Boxes(other[None]).closest(one[None])
            a, b = weights[:2000] @ one, weights[2000:] @ other
            sampled = np.sqrt(((a[:, None] - b[None]) ** 2).sum(axis=2).min())
            self.assertLessEqual(found, sampled + 1e-12)
            self.assertGreater(found, sampled - 0.25)

    def test_boxes_and_balls_at_known_distances(self) -> None:
        crate = part("crate", box((1.0, 1.0, 1.0)), np.eye(4))
        turn = rotation_from_rpy((0, 0, np.pi / 4))
        for place, gap in (
            (placement((1.25, 0, 0)), 0.25),
            (placement((1.0, 0.9, 0)), 0.0),
            (placement((1.3, 1.4, 0)), 0.5),
            (placement((0.5 + np.sqrt(0.5) + 0.1, 0, 0), turn), 0.1),
        ):
            other = part("other", box((1.0, 1.0, 1.0)), place)
            (contact,) = quay(crate, other).touching(0.6)
            self.assertAlmostEqual(contact.gap, gap, places=9)
            self.assertEqual(quay(crate, other).touching(gap - 1e-6 if gap else 0) == [], gap > 0)
        buoy = part("buoy", ball(0.5), placement((0, 0, 1.3)))
        (contact,) = quay(crate, buoy).touching(0.4)
        self.assertAlmostEqual(contact.gap, 0.3, delta=2e-3)

    def test_what_is_inside_touches_too(self) -> None:
        crate = part("crate", box((1.0, 1.0, 1.0)), np.eye(4))
        stone = part("stone", ball(0.1), placement((0.1, 0.2, 0.1)))
        (contact,) = quay(stone, crate).touching("1 mm")
        self.assertEqual(contact.gap, 0.0)

    def test_the_sweep_misses_no_pair(self) -> None:
        random = np.random.default_rng(22)
        crates = [
            part(
                f"crate_{k}",
                box(tuple(random.uniform(0.2, 0.7, 3))),
                placement(random.uniform(0, 3, 3)),
            )
            for k in range(60)
        ]
        found = {(c.first, c.second) for c in quay(*crates).touching(0.0)}
        expected = set()
        for k, one in enumerate(crates):
            for other in crates[k + 1 :]:
                between = np.abs(one.placement[:3, 3] - other.placement[:3, 3])
                if (between <= (one.size + other.size) / 2).all():
                    expected.add((one.name, other.name))
        self.assertEqual(found, expected)
        self.assertGreater(len(found), 10)
        groups = quay(*crates).groups(0.0)
        self.assertEqual(sum(len(g) for g in groups), 60)
        alone = {c.name for c in crates} - {name for pair in found for name in pair}
        self.assertEqual({g[0] for g in groups if len(g) == 1}, alone)


class TheLineTender(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.assembly = read_cad(LINE_TENDER.step)

    def test_pins_touch_what_they_pin_and_links_do_not_collide(self) -> None:
        pairs = {frozenset((c.first, c.second)) for c in self.assembly.touching()}
        for one, other, touch in (
            ("luff_pin", "mast_post", True),
            ("luff_pin", "boom_tube", True),
            ("mast_post", "boom_tube", False),
            ("barrel_bracket", "barrel", False),
            ("barrel", "piston_rod", True),
            ("piston_rod", "boom_tube", False),
            ("jib_head", "wrist_block", False),
            ("wrist_block", "rotator_shaft", True),
            ("clamp_body", "port_jaw", False),
            ("port_jaw", "starboard_jaw", False),
            ("column", "mast_post", False),
        ):
            self.assertEqual(frozenset((one, other)) in pairs, touch, (one, other))

    def test_all_hangs_together_until_something_is_taken_away(self) -> None:
        self.assertEqual(len(self.assembly.groups()), 1)
        without = self.assembly.drop("luff_pin", "rod_pin")
        groups = without.groups()
        self.assertEqual(len(groups), 2)
        self.assertIn("boom_tube", groups[1] if "column" in groups[0] else groups[0])


def around(count: int, tilt: float = 0.0, radius: float = 0.02) -> tuple[np.ndarray, np.ndarray]:
    """Places on two rings about z, with normals outwards that lean to z by an angle [rad]."""
    angles = np.linspace(0, 2 * np.pi, count, endpoint=False)
    out = np.column_stack([np.cos(angles), np.sin(angles), np.zeros(count)])
    normals = np.cos(tilt) * out + np.sin(tilt) * np.array([0, 0, 1.0])
    rings = [radius * out + np.array([0, 0, z]) for z in (-0.01, 0.01)]
    return np.concatenate(rings), np.concatenate([normals, normals])


def patch(normal: str, at: tuple[float, float, float]) -> tuple[np.ndarray, np.ndarray]:
    """The corners of a square across an axis, with its normal."""
    axis = "xyz".index(normal[-1])
    others = [k for k in range(3) if k != axis]
    points = np.tile(np.array(at, dtype=float), (4, 1))
    for row, corner in enumerate(((-1, -1), (1, -1), (1, 1), (-1, 1))):
        points[row, others] += 0.01 * np.array(corner)
    sign = -1.0 if normal.startswith("-") else 1.0
    return points, np.tile(sign * np.eye(3)[axis], (4, 1))


def all_of(patches: list[tuple[np.ndarray, np.ndarray]]) -> tuple[np.ndarray, np.ndarray]:
    points, normals = zip(*patches, strict=True)
    return np.concatenate(points), np.concatenate(normals)


NONE = np.zeros((0, 3)), np.zeros((0, 3))


class Freedoms(unittest.TestCase):
    """The lower pairs of the textbooks, and what is blocked from one side only."""

    def test_pairs_leave_as_many_freedoms_as_the_textbooks_say(self) -> None:
        on_ball = np.random.default_rng(2).normal(size=(40, 3))
        on_ball /= np.linalg.norm(on_ball, axis=1)[:, None]
        rail = [patch("z", (0, 0, 0)), patch("-z", (0, 0, 0.02)), patch("y", (0, -0.01, 0.01)),
                patch("-y", (0, 0.01, 0.01))]  # fmt: skip
        box = [*rail, patch("x", (-0.01, 0, 0.01)), patch("-x", (0.01, 0, 0.01))]
        for name, both, pushing, kept in (
            ("cylindrical", around(12), NONE, 2),
            ("spherical", (0.02 * on_ball, on_ball), NONE, 3),
            ("revolute, by cones", all_of([around(12, 0.5), around(12, -0.5)]), NONE, 1),
            ("planar", NONE, patch("z", (0, 0, 0)), 3),
            ("prismatic", NONE, all_of(rail), 1),
            ("held all round", NONE, all_of(box), 0),
        ):
            with self.subTest(name):
                self.assertEqual(len(freedoms_of(both, pushing).kept), kept)

    def test_a_stop_lets_go_one_way(self) -> None:
        places = all_of([patch("z", (0, 0, 0)), patch("x", (-0.03, 0, 0.01))])
        found = freedoms_of(NONE, places)
        x, y, z = np.eye(3)
        origin = np.zeros(3)
        self.assertEqual(len(found.kept), 1)
        self.assertTrue(found.allows(y, origin, turns=False))
        self.assertFalse(found.allows(x, origin, turns=False))
        self.assertTrue(found.allows(x, origin, turns=False, one_way=True))
        self.assertFalse(found.allows(z, origin, turns=True))
