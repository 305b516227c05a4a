"""Choosing and tidying parts: what is dropped, split and joined, and that nothing is lost by it."""

import math
import shutil
import unittest
from pathlib import Path

import numpy as np

import mooring
from mooring import read_cad
from mooring.cad import Assembly
from mooring.cad.mesh import Mesh
from mooring.cad.part import Geometry, Part
from mooring.cad.solid import sum_of_solids
from mooring.demo import LINE_TENDER, modelling
from mooring.errors import DocumentError, ModelError
from mooring.model.shapes.bodies import turned
from tests.support import folder_for
from tests.test_cad import BOX, BOX_FACES


def write_one_product(solids: list[object], file: Path) -> None:
    """Several solids in one product, as CAD programs write what was drawn as one part."""
    from OCP.BRep import BRep_Builder
    from OCP.Interface import Interface_Static
    from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
    from OCP.TopoDS import TopoDS_Compound

    together = TopoDS_Compound()
    BRep_Builder().MakeCompound(together)
    for solid in solids:
        BRep_Builder().Add(together, solid)
    writer = STEPControl_Writer()
    usual = Interface_Static.IVal_s("write.step.assembly")
    Interface_Static.SetIVal_s("write.step.assembly", 0)
    writer.Transfer(together, STEPControl_AsIs)
    writer.Write(str(file))
    # It is one for the whole process, and other tests write assemblies.
    Interface_Static.SetIVal_s("write.step.assembly", usual)


class TheLineTender(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.assembly = read_cad(LINE_TENDER.step)

    def test_hardware_is_all_bolts_and_washers_and_nothing_else(self) -> None:
        found = self.assembly.hardware()
        names = {part.name for kind in found for part in kind.parts}
        true = {p.name for p in self.assembly.parts if "_bolt_" in p.name or "_washer_" in p.name}
        self.assertEqual(names, true)
        for kind in found:
            self.assertGreaterEqual(len(kind.reasons), 3)
        bare = self.assembly.drop(hardware=True)
        self.assertEqual(set(bare.dropped), true)
        self.assertEqual(bare.hardware(), [])

    def test_hardware_is_found_without_names_too(self) -> None:
        renamed = [
            Part(f"p{k}", f"p{k}", p.placement, p.geometry)
            for k, p in enumerate(self.assembly.parts)
        ]
        shapes = {id(p.geometry): p.geometry for p in renamed}
        blank = {
            key: Geometry("", g.mesh, g.solid, g.source, g.surfaces) for key, g in shapes.items()
        }
        parts = [Part(p.name, p.path, p.placement, blank[id(p.geometry)]) for p in renamed]
        anonymous = Assembly("x", LINE_TENDER.step, tuple(parts))
        self.assertEqual(sum(len(kind.parts) for kind in anonymous.hardware()), 70)

    def test_parts_are_chosen_by_size_and_color(self) -> None:
        small = self.assembly.select(smaller_than="20 mm")
        self.assertEqual({p.geometry.name for p in small}, {"hex_bolt_m8x5"})
        orange = {p.name for p in self.assembly.select("*jaw*", color="#D9822B")}
        self.assertEqual(orange, {"port_jaw", "starboard_jaw"})
        large = self.assembly.select(larger_than="1.6 m")
        self.assertEqual({p.name for p in large}, {"boom_tube", "jib_tube"})
        kept = self.assembly.drop("gusset_*", smaller_than="20 mm", color="#2e3236")
        self.assertEqual(len(kept.dropped), 4 + 4 + 2)

    def test_what_nobody_sees_is_found_and_what_is_kept_stays(self) -> None:
        hidden = [part.name for part in self.assembly.hidden()]
        self.assertEqual(sorted(set(self.assembly.drop(hidden=True).dropped)), sorted(hidden))
        # The pads run inside the boom; the telescope and its bolts look out of it.
        self.assertEqual({name.split("_wear")[0] for name in hidden},
                         {"top", "bottom", "port", "starboard"})  # fmt: skip
        kept = self.assembly.keep("top_*", "gusset_1").drop("gusset_*", hidden=True)
        self.assertEqual(len(kept.dropped), 3 + 6)
        orange = self.assembly.only("*jaw*", color=["#d9822b", "#2e3236"])
        self.assertEqual(len(orange.parts), 4)
        self.assertEqual(len(orange.dropped), 105)
        with self.assertRaisesRegex(ModelError, "no part .* has the color #123456; there are #2e3"):
            self.assembly.drop(color="#123456")
        with self.assertRaisesRegex(ModelError, "nothing of line_tender.step would be left"):
            self.assembly.drop("*")

    def test_the_table_has_every_part(self) -> None:
        table = self.assembly.table
        self.assertEqual(len(table), 109)
        self.assertAlmostEqual(table.loc["column", "volume"], self.assembly.part("column").volume)
        mass = (table["volume"] * table["density"]).sum()
        self.assertAlmostEqual(mass, 967.2283, places=3)

    def test_joining_keeps_volume_centroid_and_inertia(self) -> None:
        names = ["mast_post", "barrel_bracket", "turntable"]
        parts = [self.assembly.part(name) for name in names]
        joined = self.assembly.join("mast", *names)
        whole = joined.part("mast")
        self.assertEqual(len(joined.parts), 107)
        self.assertAlmostEqual(whole.volume, sum(p.volume for p in parts), places=12)
        centroid = sum(p.volume * p.solid.centroid for p in parts) / whole.volume
        np.testing.assert_allclose(whole.solid.centroid, centroid, atol=1e-12)
        both = mooring.Robot("r")
        both.add_link("parts", parts=parts)
        both.add_link("whole", parts=[whole])
        one, other = (both.links[n].mass_properties(np.eye(4), {}) for n in both.links)
        np.testing.assert_allclose(one.tensor, other.tensor, atol=1e-9)
        # A joined part still has the bores that joints are placed on.
        axis = joined.bore("mast", "boom_tube")
        np.testing.assert_allclose(axis.origin, (0, 0, 2.3), atol=1e-9)
        with self.assertRaisesRegex(ModelError, "of different materials"):
            self.assembly.join("x", "port_jaw", "port_jaw_pad")
        with self.assertRaisesRegex(ModelError, "already a part called 'column'"):
            self.assembly.join("column", "gusset_*")


class Splitting(unittest.TestCase):
    def test_a_body_that_is_inside_out_takes_nothing_away(self) -> None:
        box = Mesh(np.array(BOX, dtype=float), np.array(BOX_FACES))
        far = Mesh(box.vertices + np.array([5.0, 0, 0]), box.faces)
        turned_round = Mesh(far.vertices, np.ascontiguousarray(far.faces[:, ::-1]))
        good, odd = (sum_of_solids([box.solid, m.solid]) for m in (far, turned_round))
        self.assertLess(turned_round.solid.volume, 0)
        self.assertAlmostEqual(odd.volume, good.volume)
        np.testing.assert_allclose(odd.centroid, good.centroid, atol=1e-12)
        np.testing.assert_allclose(odd.inertia, good.inertia, rtol=1e-12)

    def test_a_part_of_several_solids_is_split_exactly_even_where_they_touch(self) -> None:
        file = folder_for(self) / "fused.step"
        solids = [
            modelling.cylinder("z", (20, 70), 10, (30, 30, 0)),
            modelling.cut(
                modelling.box((0, 60), (0, 60), (0, 20)),
                modelling.cylinder("z", (0, 20), 5, (30, 30, 0)),
            ),
            modelling.box((60, 90), (0, 60), (0, 20)),
            modelling.box((90, 120), (0, 60), (0, 20)),
        ]
        write_one_product(solids, file)
        (whole,) = read_cad(file).parts
        self.assertEqual(whole.geometry.bodies, 4)
        for assembly in (read_cad(file), read_cad(file)):  # made, and from the cache
            split = assembly.split(whole.name)
            volumes = [part.volume * 1e9 for part in split.parts]
            bored, pin = 60 * 60 * 20 - math.pi * 2.5**2 * 20, math.pi * 5**2 * 50
            np.testing.assert_allclose(volumes, [bored, 36000, 36000, pin], rtol=1e-9)
            self.assertEqual({part.geometry.source for part in split.parts}, {"exact solid"})
            kinds = [[c.kind for c in part.cylinders] for part in split.parts]
            self.assertEqual(kinds, [["bore"], [], [], ["pin"]])
            self.assertLess(split.parts[1].vertices[:, 0].mean(), 0.08)
            self.assertIn("split into its 4 solids", " ".join(split.notes))
        with self.assertRaisesRegex(ModelError, "is one body"):
            split.split(split.parts[0].name)

    def test_meshes_are_split_by_what_hangs_together(self) -> None:
        vertices = np.vstack([BOX, 2 * BOX + np.array([9, 0, 0]), BOX - np.array([0, 9, 0])])
        faces = np.vstack([BOX_FACES, BOX_FACES + 8, BOX_FACES + 16])
        mesh = Mesh(vertices, faces)
        part = Part("heap", "heap", np.eye(4), Geometry("heap", mesh, mesh.solid, "mesh", (), 3))
        assembly = Assembly("heap", LINE_TENDER.step, (part,)).split("heap")
        self.assertEqual([p.name for p in assembly.parts], ["heap_1", "heap_2", "heap_3"])
        np.testing.assert_allclose([p.volume for p in assembly.parts], [48, 6, 6])
        np.testing.assert_allclose(assembly.bounds, [vertices.min(axis=0), vertices.max(axis=0)])


class Mending(unittest.TestCase):
    def test_triangles_are_turned_outwards_and_cavities_inwards(self) -> None:
        shell = np.vstack([4 * BOX - 1, BOX - 0.5])
        faces = np.vstack([BOX_FACES, BOX_FACES[:, ::-1] + 8])
        whole = Mesh(shell, faces)
        self.assertAlmostEqual(whole.solid.volume, 63 * 6)
        random = np.random.default_rng(8)
        for share in (0.0, 0.3, 0.7, 1.0):
            mixed = faces.copy()
            wrong = random.random(len(faces)) < share
            mixed[wrong] = mixed[wrong][:, ::-1]
            mesh = Mesh(shell, mixed)
            part = Part("tank", "tank", np.eye(4), Geometry("tank", mesh, mesh.solid, "mesh"))
            mended = Assembly("tank", LINE_TENDER.step, (part,)).repair()
            result = mended.parts[0].geometry
            self.assertTrue(result.closed)
            self.assertAlmostEqual(result.solid.volume, 63 * 6)
            self.assertEqual(len(result.surfaces), 12 if share else 0)
            told = [f"tank: {wrong.sum()} triangles were turned to face outwards"] if share else []
            self.assertEqual(list(mended.notes), told)

    def test_open_edges_are_counted_and_stay_open(self) -> None:
        mesh = Mesh(BOX, BOX_FACES[1:])
        self.assertEqual((mesh.open_edges, mesh.disagreeing_edges), (3, 0))
        part = Part("crate", "crate", np.eye(4), Geometry("crate", mesh, mesh.solid, "mesh"))
        mended = Assembly("crate", LINE_TENDER.step, (part,)).repair()
        self.assertEqual(mended.table.loc["crate", "open_edges"], 3)


class Simplifying(unittest.TestCase):
    def test_a_fine_ball_gets_coarse_by_what_is_said(self) -> None:
        points = turned(np.array([[np.sin(a), -np.cos(a)] for a in np.linspace(0, np.pi, 60)]))
        geometry = Geometry("ball", points, points.solid, "mesh")
        places = [np.eye(4), np.eye(4), np.eye(4)]
        parts = [Part(f"ball_{k}", f"ball_{k}", p, geometry) for k, p in enumerate(places)]
        fine = Assembly("balls", LINE_TENDER.step, tuple(parts)).keep("ball_2")
        counts = []
        for tolerance in ("20 mm", "5 mm"):
            coarse = fine.simplify(tolerance=tolerance)
            mesh = coarse.part("ball_0").mesh
            counts.append(len(mesh.faces))
            # The largest distance from the unit sphere, by another way than the one that told it.
            corners = np.abs(np.linalg.norm(mesh.vertices, axis=1) - 1).max()
            middles = np.abs(np.linalg.norm(mesh.corners.mean(axis=1), axis=1) - 1).max()
            limit = 0.02 if tolerance == "20 mm" else 0.005
            self.assertLess(max(corners, middles), limit + 2e-3)
            self.assertTrue(mesh.closed)
            self.assertIs(coarse.part("ball_1").geometry, coarse.part("ball_0").geometry)
            self.assertIs(coarse.part("ball_2").geometry, geometry)
            self.assertEqual(coarse.part("ball_0").volume, geometry.solid.volume)
            self.assertIn("off by at most", coarse.notes[1])
        self.assertTrue(counts[0] < counts[1] < len(points.faces))
        budget = fine.simplify(triangles=2000)
        total = 2 * len(budget.part("ball_0").mesh.faces)
        self.assertTrue(1000 < total <= 2000)
        self.assertIn(f"simplified: {2 * len(points.faces):,} -> {total:,} triangles", budget.notes)
        self.assertIn("cannot be reached", fine.simplify(triangles=8).notes[0])
        for wrong in ({}, {"triangles": 9, "tolerance": 1}, {"triangles": 0}, {"tolerance": -1.0}):
            with self.assertRaises(ModelError):
                fine.simplify(**wrong)


class InTheDocument(unittest.TestCase):
    def test_the_same_words_work_in_the_document(self) -> None:
        folder = folder_for(self)
        shutil.copy(LINE_TENDER.step, folder)
        file = folder / "crane.yaml"
        text = (
            "mooring: 1\ncad:\n  - file: line_tender.step\n    drop: [cabinet_rail]\n"
            "    smaller_than: 20 mm\n    drop_hardware: true\n"
            "    join: {post: [mast_post, barrel_bracket]}\n"
            "links:\n  mast: {parts: [post, turntable]}\n"
        )
        file.write_text(text)
        robot = mooring.read(file)
        self.assertEqual(len(robot.links["mast"].parts), 2)
        self.assertEqual(len(robot.assemblies[0].parts), 109 - 70 - 1 - 1)
        more = (
            "    only_colors: ['#3f6f8f']\n    keep: gusset_1\n    drop_hidden: true\n"
            "    repair: true\n    simplify: {tolerance: 1 mm}\n    smaller"
        )
        other = text.replace("    smaller", more).replace("[cabinet_rail]", "gusset_*")
        file.write_text(other.replace(", turntable", ""))
        (cad,) = mooring.read(file).assemblies
        self.assertEqual({p.color for p in cad.parts}, {"#3f6f8f"})
        self.assertEqual(sum(p.name.startswith("gusset") for p in cad.parts), 1)
        self.assertIn("simplified: ", cad.notes[0])
        for wrong, right, line, words in (
            ("[cabinet_rail]", "[cabinet_rial]", 4, "no part of line_tender.step matches"),
            ("20 mm", "20 kg", 5, "is a mass"),
            ("[mast_post, barrel_bracket]", "[mast_post]", 7, "at least two parts"),
            ("    smaller", "    drop_colors: '#000000'\n    smaller", 5, "has the color #000000"),
            ("    smaller", "    simplify: {parts: jaw}\n    smaller", 5, "either triangles= or"),
            ("    smaller", "    keep: jaws\n    smaller", 5, "matches 'jaws'"),
            ("    join", "    split: column\n    join", 7, "column is one body"),
        ):
            file.write_text(text.replace(wrong, right))
            with self.assertRaises(DocumentError) as caught:
                mooring.read(file)
            self.assertIn(words, str(caught.exception))
            self.assertIn(f":{line}: ", str(caught.exception))


class Pictures(unittest.TestCase):
    def test_sheets_are_drawn_for_few_and_for_many_parts(self) -> None:
        from PIL import Image

        from mooring.drawing import draw_parts

        file = folder_for(self) / "parts.png"
        kinds = []
        for number in range(43):
            mesh = Mesh(BOX * (1 + number), BOX_FACES)
            geometry = Geometry(f"crate_of_a_rather_long_name_{number}", mesh, mesh.solid, "mesh")
            place = np.eye(4)
            place[0, 3] = 50 * number
            kinds.append(Part(f"crate_{number}", f"quay/crate_{number}", place, geometry))
        written = draw_parts(Assembly("quay", LINE_TENDER.step, tuple(kinds)), file)
        self.assertEqual([p.name for p in written], ["parts.png", "parts_2.png", "parts_apart.png"])
        for path in written:
            with Image.open(path) as image:
                self.assertEqual(image.size, (1280, 800))
                self.assertGreater(np.asarray(image).std(), 5)
