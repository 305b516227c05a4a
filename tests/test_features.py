"""Simple surfaces found in triangles, against the exact ones and against closed forms."""

import unittest
from collections.abc import Sequence

import numpy as np

from mooring import read_cad
from mooring.cad.features import find_surfaces
from mooring.cad.mesh import Mesh
from mooring.cad.places.bores import shared_axis
from mooring.cad.surfaces import ConicalFace, CylindricalFace, PlanarFace, SphericalFace, Surface
from mooring.demo import LINE_TENDER
from mooring.formats.scenes.stl import write_stl
from mooring.geometry import apply, placement, rotation_from_rpy
from mooring.model.shapes.bodies import ball, box, cylinder, turned
from tests.parts import made, sampler
from tests.support import folder_for

PLACE = placement((0.3, -1.2, 2.0), rotation_from_rpy((0.4, -0.9, 1.7)))


def tube(outer: float, inner: float, length: float) -> Mesh:
    half = length / 2
    profile = [(inner, -half), (outer, -half), (outer, half), (inner, half), (inner, -half)]
    return turned(np.array(profile))


def of_kind(kind: type, mesh: Mesh) -> list:
    return [face for face in find_surfaces(mesh) if isinstance(face, kind)]


def moved(mesh: Mesh) -> Mesh:
    return Mesh(apply(PLACE, mesh.vertices), mesh.faces)


class Meshes(unittest.TestCase):
    def test_a_turned_tube_has_its_bore_and_its_pin(self) -> None:
        mesh = moved(tube(0.05, 0.03, 0.2))
        found = of_kind(CylindricalFace, mesh)
        self.assertEqual(sorted(c.kind for c in found), ["bore", "pin"])
        for face in found:
            self.assertAlmostEqual(face.radius, {"bore": 0.03, "pin": 0.05}[face.kind], places=9)
            self.assertAlmostEqual(abs(float(face.direction @ PLACE[:3, 2])), 1, places=12)
            np.testing.assert_allclose(face.centre, PLACE[:3, 3], atol=1e-9)
            self.assertAlmostEqual(face.length, 0.2, places=9)
            self.assertEqual((face.coverage, face.through), (1.0, face.kind == "bore"))
        ends = of_kind(PlanarFace, mesh)
        # Half of 48 corners on each circle: the area of a regular polygon.
        area = 24 * np.sin(2 * np.pi / 48) * (0.05**2 - 0.03**2)
        np.testing.assert_allclose([end.area for end in ends], [area, area], rtol=1e-9)
        np.testing.assert_allclose(sum(end.normal for end in ends), 0, atol=1e-12)

    def test_a_ball_and_a_cone_are_told_from_cylinders(self) -> None:
        (sphere,) = find_surfaces(moved(ball(0.2)))
        assert isinstance(sphere, SphericalFace)
        self.assertEqual(sphere.kind, "ball")
        self.assertAlmostEqual(sphere.radius, 0.2, places=9)
        np.testing.assert_allclose(sphere.centre, PLACE[:3, 3], atol=1e-9)
        mesh = moved(turned(np.array([[0, 0], [0.1, 0], [0.03, 0.2], [0, 0.2]])))
        (cone,) = of_kind(ConicalFace, mesh)
        self.assertEqual((cone.kind, cone.coverage), ("taper", 1.0))
        self.assertAlmostEqual(np.tan(cone.half_angle), 0.07 / 0.2, places=9)
        np.testing.assert_allclose(cone.apex, apply(PLACE, [[0, 0, 0.2 / 0.7]])[0], atol=1e-8)
        np.testing.assert_allclose(cone.direction, -PLACE[:3, 2], atol=1e-9)
        np.testing.assert_allclose(cone.span, (0.03 / 0.35, 0.1 / 0.35), rtol=1e-8)
        self.assertEqual(len(of_kind(PlanarFace, mesh)), 2)
        self.assertEqual(len(find_surfaces(box((0.1, 0.2, 0.3)))), 6)

    def test_half_a_shell_says_how_much_of_a_turn_it_is(self) -> None:
        whole = cylinder(0.1, 0.4)
        corners = whole.corners
        round_half = (np.abs(np.linalg.norm(corners[..., :2], axis=2) - 0.1) < 1e-9).all(axis=1)
        round_half &= corners[..., 0].mean(axis=1) > 0
        (half,) = of_kind(CylindricalFace, Mesh(whole.vertices, whole.faces[round_half]))
        self.assertAlmostEqual(half.coverage, 0.5, delta=0.03)

    def test_noise_is_refused_or_told_as_residual(self) -> None:
        mesh = tube(0.05, 0.03, 0.2)
        random = np.random.default_rng(5)
        for scale in (1e-5, 2e-3):
            rough = mesh.vertices + random.normal(scale=scale, size=mesh.vertices.shape)
            found = of_kind(CylindricalFace, Mesh(rough, mesh.faces))
            self.assertEqual(len(found), 2 if scale == 1e-5 else 0)
            for face in found:
                self.assertLess(
                    abs(face.radius / (0.03 if face.kind == "bore" else 0.05) - 1), 1e-3
                )
                self.assertTrue(1e-6 < face.residual < 1e-4)


def matched(true: Surface, candidates: Sequence[Surface]) -> Surface | None:
    """The candidate that is the same surface, but for what triangles cannot know."""
    for other in candidates:
        if type(other) is not type(true) or np.linalg.norm(other.centre - true.centre) > 2e-4:
            continue
        if isinstance(true, PlanarFace):
            same = other.normal @ true.normal > 1 - 1e-9 and abs(other.area / true.area - 1) < 0.02
        else:
            same = other.kind == true.kind and abs(other.coverage - true.coverage) < 0.1
        if isinstance(true, CylindricalFace | SphericalFace):
            same = same and abs(other.radius / true.radius - 1) < 0.01
        if isinstance(true, CylindricalFace):
            lean = np.linalg.norm(np.cross(other.direction, true.direction))
            same = same and lean < np.sin(np.radians(0.5)) and other.open_ends == true.open_ends
            same = same and abs(other.length - true.length) < 1e-3
        if isinstance(true, ConicalFace):
            same = same and abs(other.half_angle - true.half_angle) < 1e-3
            same = same and other.direction @ true.direction > 1 - 1e-6
        if same:
            return other
    return None


class AgainstTheExactSolids(unittest.TestCase):
    def test_a_part_with_one_of_each(self) -> None:
        geometry = made(folder_for(self), ("sampler", sampler())).parts[0].geometry
        exact, found = geometry.surfaces, find_surfaces(geometry.mesh)
        self.assertEqual([s for s in exact if matched(s, found) is None], [])
        self.assertEqual([s for s in found if matched(s, exact) is None], [])
        bores = sorted((c.radius, c.open_ends) for c in exact if getattr(c, "kind", "") == "bore")
        np.testing.assert_allclose(bores, [(0.003, 1), (0.006, 1), (0.008, 2)])
        cones = sorted(c.half_angle for c in exact if isinstance(c, ConicalFace))
        np.testing.assert_allclose(cones, [np.pi / 4, np.arctan(6 / 3.6)])
        spheres = {s.kind: s for s in exact if isinstance(s, SphericalFace)}
        # The caps by Archimedes: a share of the sphere is a share of its diameter.
        self.assertAlmostEqual(spheres["ball"].coverage, 16 / 20, places=9)
        self.assertAlmostEqual(spheres["socket"].coverage, 8 / 24, places=9)

    def test_the_line_tender(self) -> None:
        exact = found = false = 0
        for copies in read_cad(LINE_TENDER.step).kinds():
            geometry = copies[0].geometry
            rounds = of_kind(CylindricalFace, geometry.mesh)
            exact += len(geometry.cylinders)
            found += sum(matched(c, rounds) is not None for c in geometry.cylinders)
            false += sum(matched(c, geometry.cylinders) is None for c in rounds)
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
        axis = shared_axis(parts[:1], parts[1:])
        np.testing.assert_allclose(axis.origin, (0, 0, 2.3), atol=1e-4)
        np.testing.assert_allclose(axis.direction, (0, 1, 0), atol=1e-4)
        self.assertAlmostEqual(axis.radius, 0.03, places=5)
