"""Exact and tessellated solids against closed forms, and against each other."""

import unittest
from math import pi

import numpy as np

from mooring import read_cad
from mooring.cad import Mesh
from mooring.demo.modelling import ball, box, cone, cut, cylinder
from mooring.demo.step_writer import Group, write_step
from mooring.model.shapes.bodies import turned
from tests.parts import steel
from tests.support import folder_for

R, S, H = 0.05, 0.03, 0.12

# Volume, centroid along z, and moments about the centroid (x, z) of unit density.
CLOSED_FORMS = {
    "box": (
        (0.04 * 0.06 * 0.12, 0.06),
        (0.04 * 0.06 * 0.12 * (0.06**2 + 0.12**2) / 12, 0.04 * 0.06 * 0.12 * 0.0052 / 12),
    ),
    "bar": ((pi * R**2 * H, H / 2), (pi * R**2 * H * (3 * R**2 + H**2) / 12, pi * R**4 * H / 2)),
    "tube": (
        (pi * (R**2 - S**2) * H, H / 2),
        (
            pi * (R**2 - S**2) * H * (3 * (R**2 + S**2) + H**2) / 12,
            pi * (R**4 - S**4) * H / 2,
        ),
    ),
    "ball": ((4 / 3 * pi * R**3, 0.0), (8 / 15 * pi * R**5, 8 / 15 * pi * R**5)),
    "cone": (
        (pi * R**2 * H / 3, H / 4),
        (pi * R**2 * H / 3 * 3 / 80 * (4 * R**2 + H**2), pi * R**2 * H / 3 * 3 / 10 * R**2),
    ),
}


def solids() -> dict[str, object]:
    bar = cylinder("z", (0, 120), 100)
    return {
        "box": box((-20, 20), (-30, 30), (0, 120)),
        "bar": bar,
        "tube": cut(bar, cylinder("z", (0, 120), 60)),
        "ball": ball(100),
        "cone": cone("z", (0, 120), (100, 0)),
    }


class Solids(unittest.TestCase):
    def test_exact_integrals_are_the_closed_forms(self) -> None:
        folder = folder_for(self)
        group = Group("solids")
        for name, solid in solids().items():
            group.place(steel(name, solid))
        write_step(group, folder / "solids.step")
        exact = read_cad(folder / "solids.step")
        for part in exact.parts:
            (volume, height), (about_x, about_z) = CLOSED_FORMS[part.name]
            solid = part.geometry.solid
            with self.subTest(part.name):
                self.assertEqual(part.geometry.source, "exact solid")
                np.testing.assert_allclose(solid.volume, volume, rtol=1e-9)
                np.testing.assert_allclose(solid.centroid, (0, 0, height), atol=1e-12)
                moments = np.diag(solid.inertia)
                np.testing.assert_allclose(moments[[0, 2]], (about_x, about_z), rtol=1e-9)
                np.testing.assert_allclose(solid.inertia - np.diag(moments), 0, atol=1e-15)
        sizes = {part.name: part.size for part in exact.parts}
        # Not from the triangles, whose circles are too narrow.
        np.testing.assert_allclose(sizes["ball"], (0.1, 0.1, 0.1), atol=1e-12)
        np.testing.assert_allclose(sizes["tube"], (0.1, 0.1, 0.12), atol=1e-12)
        # Finer triangles come closer, and about as fast as they should: error ~ tolerance.
        errors = []
        for tolerance in ("2 mm", "0.2 mm", "0.02 mm"):
            rough = read_cad(folder / "solids.step", tolerance=tolerance, angle="60 deg")
            off = [
                [part.mesh.solid.volume / CLOSED_FORMS[part.name][0][0] - 1,
                 part.mesh.solid.inertia[2, 2] / CLOSED_FORMS[part.name][1][1] - 1]
                for part in rough.parts if part.name != "box"
            ]  # fmt: skip
            errors.append(np.abs(off).max())
            self.assertTrue(all(part.geometry.closed for part in rough.parts))
        self.assertLess(errors[1], 0.2 * errors[0])
        self.assertLess(errors[2], 0.2 * errors[1])
        self.assertLess(errors[2], 2e-3)

    def test_turned_meshes_have_the_integrals_of_their_polygons(self) -> None:
        # A regular 48-gon's second moment is known: what is left of the error is rounding.
        n, wedge = 48, 2 * pi / 48
        area = n / 2 * np.sin(wedge) * R**2
        polar = area * R**2 * (2 + np.cos(wedge)) / 6
        mesh = turned(np.array([[0, 0], [R, 0], [R, H], [0, H]]))
        offset = np.array([3.0, -2, 1])
        solid = Mesh(mesh.vertices + offset, mesh.faces).solid
        np.testing.assert_allclose(solid.volume, area * H, rtol=1e-12)
        np.testing.assert_allclose(solid.centroid, offset + np.array([0, 0, H / 2]), rtol=1e-12)
        about_x = polar * H / 2 + area * H**3 / 12
        np.testing.assert_allclose(np.diag(solid.inertia), (about_x, about_x, polar * H), rtol=1e-9)
