"""Reading CAD: names, placements, units, volumes, bores; and what is refused."""

import math
import struct
import unittest
from pathlib import Path

import numpy as np
from OCP.Interface import Interface_Static

from mooring import read_cad
from mooring.cad import cache
from mooring.cad.mesh import Mesh, weld
from mooring.cad.sampling import Sampling
from mooring.cad.step import read_step
from mooring.cad.step.read import read_here
from mooring.demo import LINE_TENDER, modelling
from mooring.demo.step_writer import Group, Product, write_step
from mooring.errors import InputError, ModelError
from mooring.geometry import apply, placement, rotation_from_rpy
from tests.support import folder_for

BOX = np.array([[x, y, z] for x in (0, 1) for y in (0, 2) for z in (0, 3)], dtype=float)
BOX_FACES = np.array(
    [
        f
        for a, b, c, d in (
            (0, 1, 3, 2),
            (4, 6, 7, 5),
            (0, 4, 5, 1),
            (2, 3, 7, 6),
            (0, 2, 6, 4),
            (1, 5, 7, 3),
        )
        for f in ((a, b, c), (a, c, d))
    ]
)


def binary_stl(corners: np.ndarray, count: int | None = None) -> bytes:
    records = b"".join(struct.pack("<12fH", 0, 0, 0, *triangle.ravel(), 0) for triangle in corners)
    return bytes(80) + struct.pack("<I", len(corners) if count is None else count) + records


class TheLineTender(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.assembly = read_cad(LINE_TENDER.step)

    def test_names_paths_colors_and_materials_survive(self) -> None:
        names = [part.name for part in self.assembly.parts]
        self.assertEqual(len(names), len(set(names)))
        self.assertGreaterEqual(len(names), 70)
        jaw = self.assembly.part("starboard_jaw")
        self.assertEqual(jaw.path, "line_tender/clamp_assembly/starboard_jaw")
        self.assertEqual(jaw.color, "#d9822b")
        self.assertEqual((jaw.material.name, jaw.material.density), ("structural steel", 7850))
        self.assertEqual(self.assembly.notes, ())

    def test_copies_share_their_geometry(self) -> None:
        bolts = self.assembly.pick("slew_bolt_*")
        self.assertEqual(len(bolts), 12)
        self.assertEqual(len({id(bolt.geometry) for bolt in bolts}), 1)
        self.assertIs(
            self.assembly.part("port_jaw").geometry, self.assembly.part("starboard_jaw").geometry
        )

    def test_exact_volumes_and_centroids_are_those_of_the_drawing(self) -> None:
        tenth = 0.1
        plate = 0.9 * 0.9 * 0.03 - 8 * math.pi * 0.011**2 * 0.03
        washer = math.pi * 0.003 * (0.02**2 - 0.011**2)
        for name, volume, centroid in (
            ("luff_pin", math.pi * 0.03**2 * 0.264, (0, 0, 2.3)),
            ("base_plate", plate, (0, 0, 0.015)),
            ("gland", math.pi * 0.03 * (0.06**2 - 0.025**2), None),
            ("boom_collar", 0.02 * (0.24 * 0.28 - 0.14 * 0.17), (1.71, 0, 2.3)),
            ("anchor_washer_01", washer, (-0.38, -0.38, 0.0315)),
            ("port_jaw_pad", 0.06 * 0.008 * 0.035, (2.08, 0.08 - 0.056, 2.05 - 0.2225)),
        ):
            with self.subTest(name):
                solid = self.assembly.part(name).solid
                self.assertAlmostEqual(solid.volume / volume, 1, delta=1e-9)
                if centroid is not None:
                    np.testing.assert_allclose(solid.centroid, centroid, atol=1e-9 * tenth)

    def test_exact_inertia_of_a_pin_in_place(self) -> None:
        # About its own axis, y: m r^2 / 2; across: m (3 r^2 + h^2) / 12; m is the volume here.
        radius, height = 0.03, 0.264
        volume = math.pi * radius**2 * height
        across = volume * (3 * radius**2 + height**2) / 12
        expected = np.diag([across, volume * radius**2 / 2, across])
        np.testing.assert_allclose(
            self.assembly.part("luff_pin").solid.inertia, expected, atol=1e-9 * across
        )

    def test_triangles_close_and_approach_the_exact_solid(self) -> None:
        for part in self.assembly.parts:
            self.assertTrue(part.mesh.closed, part.name)
        errors = []
        for tolerance in ("1 mm", "0.1 mm"):
            fine = read_cad(LINE_TENDER.step, tolerance=tolerance, angle="60 deg")
            pin = fine.part("turntable")
            errors.append(abs(pin.mesh.solid.volume / pin.volume - 1))
        self.assertLess(errors[1], errors[0] / 4)
        self.assertLess(errors[1], 2e-3)

    def test_bores_are_found_where_they_were_drawn(self) -> None:
        for first, second, origin, direction, radius in (
            ("column", "turntable", (0, 0, 0.76), (0, 0, 1), 0.09),
            ("mast_post", "boom_tube", (0, 0, 2.3), (0, 1, 0), 0.03),
            ("piston_rod", "boom_tube", (0.9, 0, 2.13), (0, 1, 0), 0.02),
            ("clamp_body", "starboard_jaw", (2.08, -0.08, 2.05), (1, 0, 0), 0.012),
        ):
            with self.subTest(first=first, second=second):
                axis = self.assembly.bore(first, second)
                np.testing.assert_allclose(axis.origin, origin, atol=1e-9)
                np.testing.assert_allclose(axis.direction, direction, atol=1e-9)
                self.assertAlmostEqual(axis.radius, radius, places=9)

    def test_several_or_no_bores_are_told_apart(self) -> None:
        with self.assertRaisesRegex(ModelError, r"share 12 axes.*choose with radius= or near="):
            self.assembly.bore("turntable", "mast_post")
        near = self.assembly.bore("turntable", "mast_post", near=("183 mm", "49 mm", "0.9 m"))
        np.testing.assert_allclose(
            near.origin[:2], 0.19 * np.array([0.9659258, 0.2588190]), atol=1e-6
        )
        with self.assertRaisesRegex(ModelError, "share no axis"):
            self.assembly.bore("column", "boom_tube")
        with self.assertRaisesRegex(ModelError, "did you mean 'column'"):
            self.assembly.bore("colunm", "turntable")

    def test_picking_and_dropping(self) -> None:
        fewer = self.assembly.drop("*_bolt_*", "*_washer_*")
        self.assertEqual(len(fewer.parts) + len(fewer.dropped), len(self.assembly.parts))
        with self.assertRaisesRegex(ModelError, "it was dropped"):
            fewer.pick("slew_bolt_01")
        with self.assertRaisesRegex(ModelError, "matches 12 parts"):
            self.assembly.part("slew_bolt_*")

    def test_the_cache_gives_back_what_was_read(self) -> None:
        fresh = read_here(LINE_TENDER.step, Sampling(), lambda *_: None)
        self.assertEqual(len(read_step(LINE_TENDER.step, Sampling()).parts), len(fresh.parts))
        kept = cache.remembered(LINE_TENDER.step, Sampling(), lambda: fresh)
        for one, other in zip(fresh.parts, kept.parts, strict=True):
            self.assertEqual((one.name, one.path, one.color, one.material),
                             (other.name, other.path, other.color, other.material))  # fmt: skip
            np.testing.assert_array_equal(one.vertices, other.vertices)
            np.testing.assert_array_equal(one.solid.inertia, other.solid.inertia)
            self.assertEqual(len(one.cylinders), len(other.cylinders))


class Units(unittest.TestCase):
    def test_a_step_file_in_inches_comes_out_in_metres(self) -> None:
        file = folder_for(self) / "inch.step"
        cube = Product("cube", modelling.box((0, 25.4), (0, 25.4), (0, 50.8)), "#808080", "m", 1000)
        write_step(Group("box").place(cube, (254, 0, 0)), file)
        millimetres = read_cad(file)
        Interface_Static.SetCVal_s("write.step.unit", "INCH")
        self.addCleanup(Interface_Static.SetCVal_s, "write.step.unit", "MM")
        from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer

        writer = STEPControl_Writer()
        writer.Transfer(cube.solid, STEPControl_AsIs)
        inches = file.with_name("inches.step")
        writer.Write(str(inches))
        self.assertIn("INCH", inches.read_text())
        np.testing.assert_allclose(millimetres.bounds, [[0.254, 0, 0], [0.2794, 0.0254, 0.0508]])
        np.testing.assert_allclose(read_cad(inches).bounds, [[0, 0, 0], [0.0254, 0.0254, 0.0508]])

    def test_stl_says_what_it_assumed(self) -> None:
        file = folder_for(self) / "quay.stl"
        file.write_bytes(binary_stl(1000 * BOX[BOX_FACES]))
        assumed = read_cad(file)
        self.assertIn("looks like millimetres", assumed.notes[0])
        self.assertAlmostEqual(assumed.parts[0].volume, 6e9)
        given = read_cad(file, unit="mm")
        self.assertEqual(given.notes, ())
        self.assertAlmostEqual(given.parts[0].volume, 6.0, places=6)


class Solids(unittest.TestCase):
    def test_integrals_of_a_turned_box_agree_with_the_closed_form(self) -> None:
        turn = placement((5, -3, 2), rotation_from_rpy((0.3, -1.1, 2.0)))
        solid = Mesh(apply(turn, BOX), BOX_FACES).solid
        inertia = 6 / 12 * np.diag([2**2 + 3**2, 1 + 3**2, 1 + 2**2])
        self.assertAlmostEqual(solid.volume, 6, places=12)
        np.testing.assert_allclose(solid.centroid, apply(turn, [[0.5, 1, 1.5]])[0], atol=1e-12)
        np.testing.assert_allclose(
            solid.inertia, turn[:3, :3] @ inertia @ turn[:3, :3].T, atol=1e-11
        )

    def test_holes_and_pieces_are_counted(self) -> None:
        whole = Mesh(BOX, BOX_FACES)
        self.assertEqual((whole.open_edges, whole.bodies), (0, 1))
        self.assertEqual(Mesh(BOX, BOX_FACES[1:]).open_edges, 3)
        flipped = BOX_FACES.copy()
        flipped[0] = flipped[0, ::-1]
        self.assertFalse(Mesh(BOX, flipped).closed)
        two = weld(
            np.vstack([BOX, BOX + np.array([5, 0, 0])]), np.vstack([BOX_FACES, BOX_FACES + 8]), 1e-7
        )
        self.assertEqual((two.bodies, two.closed), (2, True))


class BadFiles(unittest.TestCase):
    def refused(self, name: str, content: bytes | str | None, *words: str) -> None:
        file = folder_for(self) / name
        if isinstance(content, str):
            file.write_text(content)
        elif content is not None:
            file.write_bytes(content)
        with self.assertRaises(InputError) as caught:
            read_cad(file)
        for word in (str(file), *words):
            self.assertIn(word, str(caught.exception))

    def test_each_bad_file_gets_one_clear_sentence(self) -> None:
        whole = Path(LINE_TENDER.step).read_bytes()
        self.refused("missing.step", None, "no such file")
        self.refused("empty.step", "", "empty")
        self.refused("text.step", "Dear customer, please find enclosed", "not a STEP file")
        self.refused("cut.step", whole[: len(whole) // 2], "cut off")
        self.refused("hollow.step", "ISO-10303-21;\nHEADER;\nENDSEC;\nEND-ISO-10303-21;\n")
        self.refused("model.dwg", "x", "cannot read files that end in '.dwg'")
        self.refused("empty.stl", "", "empty")
        self.refused("prose.stl", "solid words but no triangles", "holds no triangles")
        self.refused("huge.stl", binary_stl(BOX[BOX_FACES], 2**31), "promises 2147483648 triangles")
        self.refused("nan.stl", binary_stl(BOX[BOX_FACES] * np.nan), "no numbers were left out")
        self.refused("flat.stl", binary_stl(np.zeros((4, 3, 3))), "zero area")
