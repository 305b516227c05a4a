"""The tree of boxes gives what looking at every triangle gives."""

import unittest

import numpy as np

from mooring.cad.hierarchy import Boxes
from mooring.geometry import Array
from mooring.model.shapes.bodies import ball


def on_triangles(triangles: Array, steps: int = 24) -> Array:
    """Points in rows over every triangle, corners and edges included, (m, k, 3)."""
    u, v = np.meshgrid(np.linspace(0, 1, steps), np.linspace(0, 1, steps))
    u, v = u[u + v <= 1 + 1e-12], v[u + v <= 1 + 1e-12]
    a, b, c = triangles[:, None, 0], triangles[:, None, 1], triangles[:, None, 2]
    return a + u[:, None] * (b - a) + v[:, None] * (c - a)


class TheTree(unittest.TestCase):
    def test_nearest_triangles_are_those_of_a_dense_search(self) -> None:
        random = np.random.default_rng(3)
        triangles = random.normal(size=(60, 1, 3)) + 0.4 * random.normal(size=(60, 3, 3))
        points = 2 * random.normal(size=(200, 3))
        distances, which = Boxes(triangles).nearest(points)
        near = on_triangles(triangles)
        for point, distance, found in zip(points, distances, which, strict=True):
            apart = np.linalg.norm(near - point, axis=2).min(axis=1)
            # Samples are no nearer than the nearest point, and not much farther.
            self.assertLessEqual(distance, apart.min() + 1e-12)
            self.assertLess(apart[found] - distance, 0.1)

    def test_distances_to_a_ball_and_rays_into_it(self) -> None:
        mesh = ball(1.0)
        boxes = Boxes(mesh.corners)
        random = np.random.default_rng(4)
        directions = random.normal(size=(300, 3))
        directions /= np.linalg.norm(directions, axis=1)[:, None]
        far = 3 * directions
        sag = 1 - np.cos(np.pi / 24)
        np.testing.assert_allclose(boxes.distances(far), 2, atol=2 * sag)
        np.testing.assert_allclose(boxes.hits(far, -directions), 2, atol=2 * sag)
        np.testing.assert_allclose(boxes.hits(0 * far, 0.5 * directions), 2, atol=4 * sag)
        self.assertTrue(np.isinf(boxes.hits(far, directions)).all())
        self.assertTrue(np.isinf(boxes.hits(far, -directions, far=1.5)).all())
        # Along the axes, where boxes are flat and a direction has zeros.
        slabs = boxes.hits(np.array([[0.1, 0.2, 5.0]]), np.array([[0.0, 0, -1]]))
        self.assertAlmostEqual(float(slabs[0]), 5 - np.sqrt(0.95), delta=0.01)
