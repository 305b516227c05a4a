"""Cutting fused bodies: against volumes that are known, in any place, and what cannot be cut."""

import math
import unittest

import numpy as np
import trimesh
from trimesh.transformations import rotation_matrix, translation_matrix

import mooring
from mooring import read_cad
from mooring.cad import (
    Assembly,
    BoxCut,
    CreaseCut,
    CylinderCut,
    NeckCut,
    PlaneCut,
)
from mooring.errors import DocumentError, ModelError
from mooring.geometry import Array, apply
from tests.support import folder_for


def block(size: tuple[float, float, float], middle: tuple[float, float, float]) -> trimesh.Trimesh:
    return trimesh.creation.box(size, translation_matrix(middle))


def gripper() -> trimesh.Trimesh:
    """A palm of 150 cm^3 with two fingers of 15 cm^3, as one body."""
    palm = block((0.1, 0.05, 0.03), (0, 0, 0))
    fingers = [block((0.01, 0.02, 0.08), (x, 0, 0.05)) for x in (-0.03, 0.03)]
    return trimesh.boolean.union([palm, *fingers], engine="manifold")


class Cutting(unittest.TestCase):
    def read(self, mesh: trimesh.Trimesh) -> Assembly:
        file = folder_for(self) / "body.stl"
        mesh.export(file)
        return read_cad(file, unit="m")

    def volumes(self, assembly: Assembly) -> list[float]:
        for part in assembly.parts:
            self.assertTrue(part.geometry.closed)
        return [part.volume * 1e6 for part in assembly.parts]

    def test_every_cut_leaves_closed_pieces_of_the_right_volume_wherever_the_body_is(self) -> None:
        for place in (np.eye(4), translation_matrix([1, -2, 3]) @ rotation_matrix(0.7, [1, 2, 3])):
            assembly = self.read(gripper().apply_transform(place))

            def at(x: float, y: float, z: float, place: Array = place) -> Array:
                return apply(place, np.array([[x, y, z]]))[0]

            up = place[:3, 2]
            tip = CylinderCut(at(0.03, 0, 0.05), at(0.03, 0, 0.2), 0.05)
            for name, cuts, true in (
                ("plane", [PlaneCut(at(0, 0, 0.015), 3 * up)], [150, 15, 15]),
                ("planes", [PlaneCut(at(0, 0, z), up) for z in (0, 0.05)], [89, 75, 8, 8]),
                ("creases", [CreaseCut(math.radians(30))], [150, 15, 15]),
                ("neck", [NeckCut(at(0.03, 0, 0.05))], [172, 8]),
                ("cylinder", [tip], [172, 8]),
            ):
                with self.subTest(name, moved=bool(place[0, 3])):
                    found = self.volumes(assembly.cut("body", *cuts))
                    np.testing.assert_allclose(found, true, rtol=5e-3)

    def test_a_box_takes_out_what_is_in_it(self) -> None:
        low, high = np.array([0.02, -0.02, 0.015]), np.array([0.04, 0.02, 0.2])
        parts = self.read(gripper()).cut("body", BoxCut(high, low)).rename({"body_2": "left"}).parts
        self.assertEqual([part.name for part in parts], ["body_1", "left"])
        np.testing.assert_allclose(parts[1].volume, 15e-6, rtol=1e-5)
        self.assertGreater(parts[1].vertices[:, 0].min(), 0.02)

    def test_the_narrowest_place_of_all_is_the_neck_of_a_dumbbell(self) -> None:
        waist = trimesh.creation.cone(0.02, 0.08)  # two cones, tip in tip, on a thin rod
        other = waist.copy().apply_transform(rotation_matrix(math.pi, [1, 0, 0]))
        other.apply_translation([0, 0, 0.16])
        rod = trimesh.creation.cylinder(0.002, 0.1).apply_translation([0, 0, 0.08])
        whole = trimesh.boolean.union([waist, other, rod], engine="manifold")
        whole.apply_transform(rotation_matrix(1, [0.3, 1, 0.2]))
        parts = self.read(whole).cut("body", NeckCut()).parts
        self.assertEqual(len(parts), 2)
        np.testing.assert_allclose([p.volume for p in parts], whole.volume / 2, rtol=0.05)

    def test_what_cannot_be_cut_is_said(self) -> None:
        assembly = self.read(gripper())
        x = np.array([1.0, 0, 0])
        for cut, words in (
            (PlaneCut(5 * x, x), "the plane through .* cuts nothing off body"),
            (BoxCut(5 * x, 6 * x + 1), "the box from .* cuts nothing off body"),
            (CreaseCut(math.radians(100)), "no crease of 100 deg that goes all round"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                assembly.cut("body", cut)
        torn = gripper()
        torn.update_faces(np.arange(len(torn.faces)) > 0)
        with self.assertRaisesRegex(ModelError, "is not closed .3 open edges."):
            self.read(torn).cut("body", PlaneCut(0 * x, x))

    def test_fingers_of_a_document_are_cut_off_and_named(self) -> None:
        folder = folder_for(self)
        gripper().export(folder / "gripper.stl")
        text = """
mooring: 1
name: gripper
cad:
  - file: gripper.stl
    unit: m
    cut: {gripper: [CUT]}
    rename: {gripper_1: palm, gripper_2: 左, gripper_3: "[r]"}
links:
  palm: {parts: palm, density: 1000}
  fingers: {parts: ["*", not palm], density: 1000}
joints:
  close: {parent: palm, child: fingers, type: fixed}
"""
        file = folder / "gripper.yaml"
        for cut in ("creases: 0.5", "plane: {face: gripper, toward: -z, near: [0, 0, 0]}"):
            file.write_text(text.replace("CUT", f"{{{cut}}}"))
            if cut.startswith("plane"):
                with self.assertRaisesRegex(DocumentError, "gripper.yaml:7: .* cuts nothing off"):
                    mooring.read(file)
                continue
            robot = mooring.read(file)
            self.assertEqual(len(robot.links["fingers"].parts), 2)
            self.assertAlmostEqual(
                robot.links["fingers"].mass_properties(np.eye(4), robot.materials).mass,
                0.03,
                places=6,
            )
            self.assertIn("gripper was cut into 3", " ".join(map(str, robot.notes)))
        file.write_text(text.replace("CUT", "{neck: narrowest, creases: 0.5}"))
        with self.assertRaisesRegex(DocumentError, "give one of plane, box, cylinder"):
            mooring.read(file)


if __name__ == "__main__":
    unittest.main()
