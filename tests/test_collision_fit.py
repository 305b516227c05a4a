"""Fitted shapes: they cover, they are as small as can be, and they lie along the right axis."""

import unittest

import numpy as np

from mooring.geometry import Array, apply, inverse, placement, rotation_from_rpy
from mooring.model import Box, Capsule, Cylinder, Sphere
from mooring.model.collision.enclosing import enclosing_ball
from mooring.model.collision.smallest import fit_box, fit_capsule, fit_cylinder, fit_sphere
from tests.support import line_tender

PLACE = placement((0.4, -2, 1), rotation_from_rpy((0.5, 0.7, -1.3)))


def outside(shape: object, place: Array, points: Array) -> float:
    """How far the farthest point is outside a shape [m]."""
    local = apply(inverse(place), points)
    if isinstance(shape, Box):
        return float((np.abs(local) - np.array(shape.size) / 2).max())
    if isinstance(shape, Sphere):
        return float((np.linalg.norm(local, axis=1) - shape.radius).max())
    radial = np.linalg.norm(local[:, :2], axis=1)
    beyond = np.abs(local[:, 2]) - shape.length / 2
    if isinstance(shape, Cylinder):
        return float(np.maximum(radial - shape.radius, beyond).max())
    return float((np.hypot(radial, np.maximum(beyond, 0)) - shape.radius).max())


class Fits(unittest.TestCase):
    def test_a_turned_shape_is_found_again(self) -> None:
        box, place = fit_box(apply(PLACE, Box((0.2, 0.5, 1.1)).mesh.vertices))
        np.testing.assert_allclose(sorted(box.size), (0.2, 0.5, 1.1), atol=1e-9)
        np.testing.assert_allclose(place[:3, 3], PLACE[:3, 3], atol=1e-9)
        for kind, fitter in ((Cylinder, fit_cylinder), (Capsule, fit_capsule)):
            axis = PLACE[:3, 2]
            true = kind(0.15, 0.9)
            found, place = fitter(apply(PLACE, true.mesh.vertices), [axis])
            self.assertAlmostEqual(abs(float(place[:3, 2] @ axis)), 1, places=9)
            np.testing.assert_allclose(
                (found.radius, found.length), (true.radius, true.length), atol=1e-9
            )

    def test_a_bar_without_features_still_gets_its_own_axis(self) -> None:
        true = Cylinder(0.05, 0.8)
        found, place = fit_cylinder(apply(PLACE, true.mesh.vertices))
        self.assertGreater(abs(float(place[:3, 2] @ PLACE[:3, 2])), np.cos(np.radians(0.5)))
        self.assertLess(found.volume, 1.05 * true.volume)

    def test_enclosing_balls_are_smallest(self) -> None:
        random = np.random.default_rng(3)
        for dimension in (2, 3):
            for _ in range(30):
                points = random.normal(size=(random.integers(4, 60), dimension))
                centre, radius = enclosing_ball(points)
                distances = np.linalg.norm(points - centre, axis=1)
                self.assertAlmostEqual(float(distances.max()), radius, places=9)
                # Smallest: the centre is a mean of the points on the rim, by the theorem of
                # Elzinga and Hearn; otherwise moving towards them would shrink the ball.
                rim = points[distances > radius - 1e-7] - centre
                for _ in range(50):
                    way = random.normal(size=dimension)
                    self.assertLessEqual(float((rim @ way).min()), 1e-7)

    def test_the_tenders_shapes_cover_their_links(self) -> None:
        for name, link in line_tender().links.items():
            points = np.concatenate([part.vertices for part in link.parts])
            if len(link.collisions) != 1 or link.given_collisions:
                continue
            (placed,) = link.collisions
            slack = outside(placed.shape, placed.placement.matrix, points)
            self.assertLess(slack, 2e-9, name)
            sphere, _ = fit_sphere(points)
            self.assertLess(placed.shape.volume, sphere.volume, name)
