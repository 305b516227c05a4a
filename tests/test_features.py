"""Round faces found in triangles, against the exact ones and against closed forms."""

import unittest

import numpy as np

from mooring import read_cad
from mooring.cad.features import find_surfaces
from mooring.cad.mesh import Mesh
from mooring.demo import LINE_TENDER
from mooring.drawing.primitives import ball, box, cylinder, turned
from mooring.formats.stl import write_stl
from mooring.geometry import apply, placement, rotation_from_rpy
from tests.support import folder_for

PLACE = placement((0.3, -1.2, 2.0), rotation_from_rpy((0.4, -0.9, 1.7)))


def tube(outer: float, inner: float, length: float) -> Mesh:
    half = length / 2
    profile = [(inner, -half), (outer, -half), (outer, half), (inner, half), (inner, -half)]
    return turned(np.array(profile))


class Meshes(unittest.TestCase):
    def test_a_turned_tube_has_its_bore_and_its_pin(self) -> None:
        mesh = tube(0.05, 0.03, 0.2)
        found = find_surfaces(Mesh(apply(PLACE, mesh.vertices), mesh.faces))
        self.assertEqual(sorted(c.kind for c in found), ["bore", "pin"])
        for face in found:
            self.assertAlmostEqual(face.radius, {"bore": 0.03, "pin": 0.05}[face.kind], places=9)
            self.assertAlmostEqual(abs(float(face.direction @ PLACE[:3, 2])), 1, places=12)
            np.testing.assert_allclose(face.centre, PLACE[:3, 3], atol=1e-9)
            self.assertAlmostEqual(face.length, 0.2, places=9)
            self.assertEqual(face.coverage, 1.0)

    def test_what_is_not_round_is_not_found(self) -> None:
        cone = turned(np.array([[0, 0], [0.1, 0], [0.03, 0.2], [0, 0.2]]))
        for mesh in (box((0.1, 0.2, 0.3)), ball(0.2), cone):
            self.assertEqual(find_surfaces(mesh), ())

    def test_half_a_shell_says_how_much_of_a_turn_it_is(self) -> None:
        whole = cylinder(0.1, 0.4)
        corners = whole.corners
        round_half = (np.abs(np.linalg.norm(corners[..., :2], axis=2) - 0.1) < 1e-9).all(axis=1)
        round_half &= corners[..., 0].mean(axis=1) > 0
        (half,) = find_surfaces(Mesh(whole.vertices, whole.faces[round_half]))
        self.assertAlmostEqual(half.coverage, 0.5, delta=0.03)

    def test_noise_is_refused_rather_than_fitted(self) -> None:
        mesh = tube(0.05, 0.03, 0.2)
        random = np.random.default_rng(5)
        rough = mesh.vertices + random.normal(scale=2e-3, size=mesh.vertices.shape)
        for face in find_surfaces(Mesh(rough, mesh.faces)):
            self.assertLess(abs(face.radius / (0.03 if face.kind == "bore" else 0.05) - 1), 0.05)


class TheLineTender(unittest.TestCase):
    def test_the_triangles_give_the_bores_of_the_exact_solids(self) -> None:
        exact = found = false = 0
        for copies in read_cad(LINE_TENDER.step).kinds():
            geometry = copies[0].geometry
            candidates = list(find_surfaces(geometry.mesh))
            for true in geometry.cylinders:
                exact += 1
                for candidate in candidates:
                    off = candidate.centre - true.centre
                    aside = np.linalg.norm(np.cross(off, true.direction))
                    lean = np.linalg.norm(np.cross(candidate.direction, true.direction))
                    if (
                        candidate.kind == true.kind
                        and abs(candidate.radius / true.radius - 1) < 0.01
                        and lean < np.sin(np.radians(0.5))
                        and aside < 1e-4
                        and abs(candidate.length - true.length) < 1e-3
                        and abs(candidate.coverage - true.coverage) < 0.1
                    ):
                        found += 1
                        candidates.remove(candidate)
                        break
            false += len(candidates)
        self.assertGreater(exact, 70)
        self.assertGreaterEqual(found, 0.95 * exact)
        self.assertEqual(false, 0)

    def test_joints_can_be_placed_on_stl_parts(self) -> None:
        # The same two parts by way of STL files: the shared axis is where the solids have it.
        folder = folder_for(self)
        assembly = read_cad(LINE_TENDER.step)
        parts = []
        for name in ("mast_post", "boom_tube"):
            part = assembly.part(name)
            write_stl(Mesh(part.vertices, part.mesh.faces), folder / f"{name}.stl")
            parts.append(read_cad(folder / f"{name}.stl", unit="m").parts[0])
        from mooring.cad.places.bores import shared_axis

        axis = shared_axis(parts[:1], parts[1:])
        np.testing.assert_allclose(axis.origin, (0, 0, 2.3), atol=1e-4)
        np.testing.assert_allclose(axis.direction, (0, 1, 0), atol=1e-4)
        self.assertAlmostEqual(axis.radius, 0.03, places=5)
