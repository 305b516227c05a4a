"""What STEP files say besides solids: painted faces, axis placements; and how far reading is."""

import re
import unittest
from pathlib import Path

import numpy as np
from OCP.Quantity import Quantity_Color, Quantity_TOC_sRGB
from OCP.TopAbs import TopAbs_FACE
from OCP.TopExp import TopExp_Explorer
from OCP.XCAFDoc import XCAFDoc_ColorType

import mooring
from mooring import announcing, read_cad
from mooring.demo import LINE_TENDER, step_writer
from mooring.demo.modelling import box
from mooring.demo.step_writer import Group, Product, write_step
from mooring.errors import DocumentError, ModelError
from tests.parts import made, steel
from tests.support import folder_for


class Faces(unittest.TestCase):
    def painted(self, folder: Path) -> Path:
        """A crate with one orange face, placed twice."""
        crate = steel("crate", box((0, 10), (0, 20), (0, 30)), "#3f6f8f")
        add = step_writer._Document._add_product

        def add_and_paint(document: object, product: Product) -> object:
            label = add(document, product)
            face = TopExp_Explorer(product.solid, TopAbs_FACE).Current()
            orange = Quantity_Color(0xD9 / 255, 0x82 / 255, 0x2B / 255, Quantity_TOC_sRGB)
            place = document.shapes.AddSubShape(label, face)
            document.colors.SetColor(place, orange, XCAFDoc_ColorType.XCAFDoc_ColorSurf)
            return label

        step_writer._Document._add_product = add_and_paint
        self.addCleanup(setattr, step_writer._Document, "_add_product", add)
        file = folder / "crates.step"
        write_step(Group("crates").place(crate).place(crate, (50, 0, 0), name="second"), file)
        return file

    def test_a_painted_face_keeps_its_color_into_the_picture(self) -> None:
        file = self.painted(folder_for(self))
        for assembly in (read_cad(file), read_cad(file)):  # read, then from the cache
            first, second = assembly.parts
            self.assertEqual((first.color, second.color), ("#3f6f8f", "#3f6f8f"))
            paint = first.mesh.paint
            assert paint is not None
            self.assertEqual(paint.colors, ("#d9822b",))
            painted = first.mesh.corners[paint.of_triangle == 0]
            # The first face of a block is the one at its lowest x.
            self.assertEqual(len(painted), 2)
            np.testing.assert_allclose(painted[..., 0], 0, atol=1e-12)
        joined = assembly.join("pair", "crate", "second").part("pair")
        self.assertEqual(int((joined.mesh.paint.of_triangle == 0).sum()), 4)
        robot = mooring.Robot("crates")
        robot.add_link("crates", parts=assembly.parts)
        image = np.asarray(mooring.picture(robot, view=(180.0, 10.0)).image, dtype=int)
        orange = (image[..., 0] - image[..., 2] > 60).mean()
        self.assertGreater(orange, 0.01)


class AxisPlacements(unittest.TestCase):
    def file(self, folder: Path, unit: str) -> Path:
        """The demo's CAD with a named placement in its turntable, in a unit of length."""
        text = LINE_TENDER.step.read_text()
        start = text.index("PRODUCT('turntable'")
        shape = re.compile(r"ADVANCED_BREP_SHAPE_REPRESENTATION\('',\(([^)]*)\)").search(
            text, start
        )
        assert shape is not None
        text = text[: shape.end() - 1] + ",#900001" + text[shape.end() - 1 :]
        entities = (
            "#900001=AXIS2_PLACEMENT_3D('tool mount',#900002,#900003,#900004);\n"
            "#900002=CARTESIAN_POINT('',(10.,20.,30.));\n#900003=DIRECTION('',(2.,0.,0.));\n"
            "#900004=DIRECTION('',(1.,1.,0.));\n"
        )
        text = text.replace("ENDSEC;\nEND-ISO", entities + "ENDSEC;\nEND-ISO")
        file = folder / f"unit_{unit.strip('$.')}.step"
        file.write_text(text.replace("SI_UNIT(.MILLI.,.METRE.)", f"SI_UNIT({unit},.METRE.)"))
        return file

    def test_named_placements_are_frames_to_put_joints_on(self) -> None:
        folder = folder_for(self)
        for unit, scale in ((".MILLI.", 1e-3), ("$", 1.0), (".CENTI.", 1e-2)):
            assembly = read_cad(self.file(folder, unit))
            self.assertEqual(list(assembly.frames), ["tool mount"])
            # The mast stands 870 above the ground, not turned; the point is the turntable's own.
            frame = assembly.frame("tool mount").matrix
            np.testing.assert_allclose(frame[:3, 3], scale * np.array([10, 20, 900]), rtol=1e-9)
            np.testing.assert_allclose(frame[:3, 2], (1, 0, 0), atol=1e-12)
            np.testing.assert_allclose(frame[:3, 0], (0, 1, 0), atol=1e-12)
        with self.assertRaisesRegex(ModelError, "'tool_mount'.*did you mean 'tool mount'"):
            assembly.frame("tool_mount")


class Progress(unittest.TestCase):
    def test_reading_tells_how_far_it_is(self) -> None:
        told: list[tuple[int, int]] = []
        with announcing.progress_to(lambda done, total: told.append((done, total))):
            made(
                folder_for(self), *((f"box_{k}", box((0, 9 + k), (0, 9), (0, 9))) for k in range(5))
            )
        self.assertEqual(told, [(done, 5) for done in range(5)])


class Places(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.assembly = read_cad(LINE_TENDER.step)

    def test_the_outermost_face_in_a_direction(self) -> None:
        top = self.assembly.face("column", "z")
        np.testing.assert_allclose(top.origin, (0, 0, 0.87), atol=1e-12)
        np.testing.assert_allclose(top.direction, (0, 0, 1), atol=1e-12)
        # Two cheeks of a fork are one face: its centre is between them.
        fork = self.assembly.face("jib_head", "x")
        np.testing.assert_allclose(fork.origin, (2.14, 0, 2.3), atol=1e-9)
        step = self.assembly.face("column", [0, 0, -2], near=("0 mm", "0 mm", "650 mm"))
        np.testing.assert_allclose(step.origin[2], 0.65, atol=1e-9)
        for part, toward, words in (
            (
                "column",
                "x",
                r"column has no flat face toward \+x; its flat faces look toward \+z, -z",
            ),
            ("column", "up", "'up' is no direction"),
            ("colunm", "z", "matches 'colunm'; did you mean 'column'"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                self.assembly.face(part, toward)

    def test_the_centre_of_parts_is_their_volumes_centre(self) -> None:
        np.testing.assert_allclose(
            self.assembly.centre("*_jaw_pin").matrix[:3, 3], (2.08, 0, 2.05), atol=1e-9
        )

    def test_the_document_has_the_same_words(self) -> None:
        folder = folder_for(self)
        (folder / "line_tender.step").write_bytes(LINE_TENDER.step.read_bytes())
        file = folder / "places.yaml"
        text = (
            "mooring: 1\ncad: [{file: line_tender.step}]\n"
            "links:\n  base: {parts: column}\n  top: {parts: turntable}\n"
            "joints:\n  turn: {type: continuous, parent: base, child: top, at: AT}\n"
        )
        for at, where, axis in (
            ("{face: column, toward: z}", (0, 0, 0.87), (0, 0, 1)),
            ("{centre: [port_jaw_pin]}", (2.08, 0.08, 2.05), (0, 0, 1)),
        ):
            file.write_text(text.replace("AT", at))
            robot = mooring.read(file)
            place = robot.link_frames()["top"]
            np.testing.assert_allclose(np.abs(place[:3, 3]), np.abs(where), atol=1e-9)
            np.testing.assert_allclose(robot.joints["turn"].axis, axis, atol=1e-12)
        for at, words in (
            ("{face: column, toward: x}", "joint 'turn': column has no flat face"),
            ("{face: column}", "toward"),
            ("{frame: tip}", "no frame of line_tender.step is called 'tip'; there are none"),
        ):
            file.write_text(text.replace("AT", at))
            with self.assertRaisesRegex(DocumentError, f":7: .*{words}"):
                mooring.read(file)
