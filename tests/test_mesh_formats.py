"""Every mesh format: names, nodes, units, which way is up, colors; and what is refused or told."""

import io
import json
import struct
import unittest
import zipfile
from pathlib import Path

import numpy as np
import trimesh

from mooring import read_cad
from mooring.cad import Assembly
from mooring.errors import InputError
from tests.support import folder_for
from tests.test_cad import BOX, BOX_FACES, binary_stl

CORNERS = " ".join(f"{v:g}" for v in BOX.ravel())
INDICES = " ".join(str(i) for i in BOX_FACES.ravel())
OBJ_FACES = "".join(f"f {a} {b} {c}\n" for a, b, c in BOX_FACES + 1)
OBJ_POINTS = "".join(f"v {x:g} {y:g} {z:g}\n" for x, y, z in BOX)
OFF = (
    "OFF\n8 12 0\n"
    + "".join(f"{x:g} {y:g} {z:g}\n" for x, y, z in BOX)
    + "".join(f"3 {a} {b} {c}\n" for a, b, c in BOX_FACES)
)
PLY = (
    "ply\nformat ascii 1.0\nelement vertex 8\nproperty float x\nproperty float y\n"
    "property float z\nelement face 12\nproperty list uchar int vertex_indices\nend_header\n"
    + "".join(f"{x:g} {y:g} {z:g}\n" for x, y, z in BOX)
    + "".join(f"3 {a} {b} {c}\n" for a, b, c in BOX_FACES)
)
DAE = f"""<?xml version="1.0" encoding="utf-8"?>
<COLLADA xmlns="http://www.collada.org/2005/11/COLLADASchema" version="1.4.1">
  <asset><unit name="inch" meter="0.0254"/><up_axis>Z_UP</up_axis></asset>
  <library_geometries><geometry id="g" name="crate"><mesh>
    <source id="p"><float_array id="pa" count="24">{CORNERS}</float_array>
      <technique_common><accessor source="#pa" count="8" stride="3">
        <param name="X" type="float"/><param name="Y" type="float"/><param name="Z" type="float"/>
      </accessor></technique_common></source>
    <vertices id="v"><input semantic="POSITION" source="#p"/></vertices>
    <triangles count="12"><input semantic="VERTEX" source="#v" offset="0"/><p>{INDICES}</p></triangles>
  </mesh></geometry></library_geometries>
  <library_visual_scenes><visual_scene id="s">
    <node id="crate" name="crate"><translate>10 0 0</translate><instance_geometry url="#g"/></node>
  </visual_scene></library_visual_scenes>
  <scene><instance_visual_scene url="#s"/></scene>
</COLLADA>
"""
MODEL = (
    '<?xml version="1.0"?><model unit="inch" '
    'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>'
    '<object id="1" name="crate" type="model"><mesh><vertices>'
    + "".join(f'<vertex x="{x:g}" y="{y:g}" z="{z:g}"/>' for x, y, z in BOX)
    + "</vertices><triangles>"
    + "".join(f'<triangle v1="{a}" v2="{b}" v3="{c}"/>' for a, b, c in BOX_FACES)
    + '</triangles></mesh></object></resources><build><item objectid="1"/></build></model>'
)


def three_mf(model: str = MODEL) -> bytes:
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("3D/3dmodel.model", model)
    return stream.getvalue()


def gltf(**changes: object) -> dict[str, object]:
    """A scene: hull, with a stretched ball-less box on it and an empty node called grip."""
    points = BOX.astype("<f4").tobytes()
    faces = BOX_FACES.astype("<u2").tobytes()
    tree: dict[str, object] = {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [
            {"name": "hull", "mesh": 0, "translation": [0, 5, 0], "children": [1, 2]},
            {"name": "crate", "mesh": 0, "scale": [-2, 1, 1], "translation": [1, 0, 0]},
            {"name": "grip", "translation": [0, 0, 3]},
        ],
        "meshes": [{"name": "block", "primitives": [
            {"attributes": {"POSITION": 0}, "indices": 1, "material": 0}]}],
        "materials": [{"pbrMetallicRoughness": {"baseColorFactor": [1, 0.5, 0, 1]}}],
        "accessors": [
            {"bufferView": 0, "componentType": 5126, "count": 8, "type": "VEC3",
             "min": [0, 0, 0], "max": [1, 2, 3]},
            {"bufferView": 1, "componentType": 5123, "count": 36, "type": "SCALAR"},
        ],
        "bufferViews": [
            {"buffer": 0, "byteOffset": 0, "byteLength": len(points)},
            {"buffer": 0, "byteOffset": len(points), "byteLength": len(faces)},
        ],
        "buffers": [{"byteLength": len(points + faces)}],
    }  # fmt: skip
    return tree | changes


def glb(tree: dict[str, object] | None = None) -> bytes:
    text = json.dumps(tree or gltf()).encode()
    text += b" " * (-len(text) % 4)
    data = BOX.astype("<f4").tobytes() + BOX_FACES.astype("<u2").tobytes()
    data += bytes(-len(data) % 4)
    chunks = struct.pack("<II", len(text), 0x4E4F534A) + text
    chunks += struct.pack("<II", len(data), 0x004E4942) + data
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


class Case(unittest.TestCase):
    def write(self, name: str, content: bytes | str) -> Path:
        file = folder_for(self) / name
        file.write_bytes(content.encode() if isinstance(content, str) else content)
        return file

    def read(self, name: str, content: bytes | str, **options: str) -> Assembly:
        return read_cad(self.write(name, content), **options)


class Formats(Case):
    def test_the_same_box_comes_out_of_every_unitless_format(self) -> None:
        text_stl = trimesh.exchange.stl.export_stl_ascii(trimesh.Trimesh(BOX, BOX_FACES))
        binary_ply = trimesh.Trimesh(BOX, BOX_FACES, process=False).export(file_type="ply")
        for name, content in (
            ("crate.stl", binary_stl(BOX[BOX_FACES])),
            ("crate.stl", text_stl),
            ("crate.obj", OBJ_POINTS + OBJ_FACES),
            ("crate.ply", PLY),
            ("crate.ply", binary_ply),
            ("crate.off", OFF),
            ("CRATE.OFF", OFF),
        ):
            with self.subTest(name, start=content[:3]):
                file = self.write(name, content)
                (part,) = read_cad(file, unit="mm").parts
                self.assertEqual(part.name.lower(), "crate")
                self.assertTrue(part.geometry.closed)
                self.assertAlmostEqual(part.volume, 6e-9, delta=1e-15)
                np.testing.assert_allclose(part.size, (1e-3, 2e-3, 3e-3), atol=1e-9)
                assumed = read_cad(file)
                self.assertIn("has no unit; metres assumed. Give unit=", assumed.notes[0])
                self.assertAlmostEqual(assumed.parts[0].volume, 6, places=6)

    def test_obj_objects_are_parts_with_their_colors(self) -> None:
        folder = folder_for(self)
        (folder / "paint.mtl").write_text("newmtl orange\nKd 1 0.5 0\n")
        shifted = "".join(f"v {x + 5:g} {y:g} {z:g}\n" for x, y, z in BOX)
        faces = "".join(f"f {a} {b} {c}\n" for a, b, c in BOX_FACES + 9)
        file = folder / "two.obj"
        file.write_text(
            "mtllib paint.mtl\no crate\n" + OBJ_POINTS + "usemtl orange\n" + OBJ_FACES
            + "o lid\n" + shifted + "usemtl orange\n" + faces
        )  # fmt: skip
        parts = {part.name: part for part in read_cad(file, unit="m").parts}
        self.assertEqual(set(parts), {"crate", "lid"})
        self.assertEqual(parts["crate"].color, "#ff8000")
        np.testing.assert_allclose(parts["lid"].vertices.min(axis=0), (5, 0, 0))
        (folder / "paint.mtl").unlink()
        self.assertIn("paint.mtl it refers to is not there", " ".join(read_cad(file).notes))
        outside = file.with_name("out.obj")
        outside.write_text("mtllib ../../etc/hostname\n" + OBJ_POINTS + OBJ_FACES)
        self.assertIn("outside its folder and was not opened", " ".join(read_cad(outside).notes))

    def test_an_obj_object_of_two_materials_is_one_painted_part(self) -> None:
        folder = folder_for(self)
        (folder / "paint.mtl").write_text("newmtl red\nKd 1 0 0\nnewmtl blue\nKd 0 0 1\n")
        lines = OBJ_FACES.strip().splitlines()
        faces = "usemtl red\n" + "\n".join(lines[:4]) + "\nusemtl blue\n" + "\n".join(lines[4:])
        file = folder / "crate.obj"
        file.write_text(f"mtllib paint.mtl\no crate\n{OBJ_POINTS}{faces}\n")
        (part,) = read_cad(file, unit="m").parts
        self.assertEqual((part.name, part.color, part.geometry.closed), ("crate", "#0000ff", True))
        paint = part.mesh.paint
        assert paint is not None
        self.assertEqual(paint.colors, ("#ff0000",))
        self.assertEqual(
            int((paint.of_triangle == 0).sum()), len(part.mesh.faces) * 4 // len(lines)
        )

    def test_collada_says_its_unit_and_which_way_is_up(self) -> None:
        (part,) = self.read("crate.dae", DAE).parts
        self.assertEqual(part.name, "crate")
        inch = 0.0254
        np.testing.assert_allclose(part.vertices.min(axis=0), (10 * inch, 0, 0), atol=1e-9)
        np.testing.assert_allclose(
            part.vertices.max(axis=0), np.array((11, 2, 3)) * inch, atol=1e-9
        )
        turned = self.read("crate.dae", DAE.replace("Z_UP", "Y_UP"))
        self.assertIn("y up", turned.notes[0])
        np.testing.assert_allclose(turned.bounds[1], np.array((11, 0, 2)) * inch, atol=1e-9)
        np.testing.assert_allclose(turned.bounds[0], np.array((10, -3, 0)) * inch, atol=1e-9)

    def test_collada_of_other_countries_and_with_damaged_paint_is_read(self) -> None:
        comma = self.read("crate.dae", DAE.replace("0.0254", "0,0254"))
        np.testing.assert_allclose(comma.bounds, self.read("crate.dae", DAE).bounds)
        self.assertIn("written with a comma; taken as 0.0254", comma.notes[0])
        effect = (
            "<library_effects><effect id='e'><profile_COMMON><technique sid='t'><phong><diffuse>"
        )
        paint = (
            f"{effect}<color>1,0 x</color></diffuse></phong></technique></profile_COMMON></effect>"
        )
        text = DAE.replace(
            "<library_geometries", f"{paint}</library_effects><library_geometries", 1
        )
        painted = self.read("crate.dae", text)
        self.assertEqual(len(painted.parts), 1)
        self.assertIn("left out as damaged", " ".join(painted.notes))

    def test_painted_triangles_keep_their_colors(self) -> None:
        head, body = PLY.split("end_header\n")
        lines = body.splitlines()
        faces = [
            f"{line} {'217 130 43' if k < 2 else '63 111 143'}" for k, line in enumerate(lines[8:])
        ]
        head += "".join(f"property uchar {name}\n" for name in ("red", "green", "blue"))
        file = head + "end_header\n" + "\n".join(lines[:8] + faces) + "\n"
        (part,) = self.read("painted.ply", file, unit="m").parts
        paint = part.mesh.paint
        assert paint is not None
        self.assertEqual(set(paint.colors), {"#d9822b", "#3f6f8f"})
        orange = paint.colors.index("#d9822b")
        self.assertEqual(paint.of_triangle.tolist().count(orange), 2)

    def test_3mf_says_its_unit(self) -> None:
        (part,) = self.read("crate.3mf", three_mf()).parts
        np.testing.assert_allclose(part.size, np.array((1, 2, 3)) * 0.0254, atol=1e-9)
        with self.assertRaisesRegex(InputError, "'furlong' is none of 3MF's"):
            self.read("crate.3mf", three_mf(MODEL.replace('"inch"', '"furlong"')))

    def test_gltf_nodes_become_parts_and_frames(self) -> None:
        assembly = self.read("boat.glb", glb())
        parts = {part.name: part for part in assembly.parts}
        self.assertEqual(parts["crate"].path, "hull/crate")
        self.assertEqual(parts["hull"].color, "#ffbc00")
        # y up in the file: (x, y, z) becomes (x, -z, y).
        np.testing.assert_allclose(parts["hull"].vertices.min(axis=0), (0, -3, 5), atol=1e-6)
        np.testing.assert_allclose(parts["hull"].vertices.max(axis=0), (1, 0, 7), atol=1e-6)
        np.testing.assert_allclose(assembly.frames["grip"].matrix[:3, 3], (0, -3, 5), atol=1e-9)
        # The scale is in the geometry, mirrored the right way out, and told.
        crate = parts["crate"]
        np.testing.assert_allclose(crate.vertices.min(axis=0)[0], -1, atol=1e-6)
        np.testing.assert_allclose(crate.placement[:3, :3] @ crate.placement[:3, :3].T, np.eye(3))
        self.assertAlmostEqual(crate.volume, 12, places=5)
        self.assertIn(
            "crate: the scale 2 x 1 x 1 of its node was applied", " ".join(assembly.notes)
        )
        # A .gltf keeps its numbers in a file beside it.
        folder = folder_for(self)
        tree = gltf()
        tree["buffers"][0]["uri"] = "boat.bin"  # type: ignore[index]
        (folder / "boat.gltf").write_text(json.dumps(tree))
        with self.assertRaisesRegex(InputError, "boat.bin it refers to is not there"):
            read_cad(folder / "boat.gltf")
        (folder / "boat.bin").write_bytes(
            BOX.astype("<f4").tobytes() + BOX_FACES.astype("<u2").tobytes()
        )
        self.assertEqual(len(read_cad(folder / "boat.gltf").parts), 2)

    def test_a_unit_that_is_given_goes_before_that_of_the_file_and_is_told(self) -> None:
        for name, content in (("a.glb", glb()), ("a.dae", DAE), ("a.3mf", three_mf())):
            own, given = self.read(name, content), self.read(name, content, unit="ft")
            scale = 0.3048 / {".3mf": 0.0254, ".dae": 0.0254}.get(name[1:], 1.0)
            with self.subTest(name):
                np.testing.assert_allclose(given.bounds, own.bounds * scale, atol=1e-6)
                self.assertIn("ft taken, as asked", " ".join(given.notes))
                self.assertEqual(given.sources[0][1], "ft")

    def test_a_folder_is_one_assembly(self) -> None:
        folder = folder_for(self)
        box = BOX[BOX_FACES]
        for name, shift in (("Grundplatte", 0), ("Säule [2]", 3), ("arm", 6)):
            (folder / f"{name}.stl").write_bytes(binary_stl(box + np.array([0, 0, shift])))
        (folder / "read me.txt").write_text("made by hand")
        (folder / "arm.obj").write_text(OBJ_POINTS + OBJ_FACES)
        assembly = read_cad(folder, unit="mm")
        self.assertEqual(
            [part.name for part in assembly.parts], ["Grundplatte", "Säule [2]", "arm", "arm_2"]
        )
        told = " ".join(assembly.notes)
        self.assertIn("left out, as no CAD: read me.txt", told)
        self.assertIn("arm is there in 2 formats", told)
        by_pattern = read_cad(folder / "*.stl", unit="mm")
        one_by_one = read_cad(*sorted(folder.glob("*.stl")), unit="mm")
        for other in (by_pattern, one_by_one):
            self.assertEqual(len(other.parts), 3)
            np.testing.assert_array_equal(other.bounds, by_pattern.bounds)
        self.assertEqual(len(one_by_one.sources), 3)
        with self.assertRaisesRegex(InputError, "nothing there can be read"):
            read_cad(folder / "*.txt")


class Damage(Case):
    def test_what_is_left_out_is_told(self) -> None:
        sick = BOX[BOX_FACES].copy()
        sick[0, 0, 0] = np.inf
        sick[5] = sick[5, 0]
        assembly = self.read("sick.stl", binary_stl(sick), unit="m")
        notes = " ".join(assembly.notes)
        self.assertIn("1 triangles with coordinates that are no numbers", notes)
        self.assertIn("1 triangles of zero area", notes)
        self.assertFalse(assembly.parts[0].geometry.closed)
        flat = gltf()
        flat["nodes"][1]["scale"] = [0, 1, 1]  # type: ignore[index]
        assembly = self.read("flat.glb", glb(flat))
        self.assertEqual([p.name for p in assembly.parts], ["hull"])
        self.assertIn("crate: its placement flattens it; left out", " ".join(assembly.notes))

    def test_small_damage_to_stl_files_is_mended_and_told(self) -> None:
        whole = binary_stl(BOX[BOX_FACES])
        longer = self.read("longer.stl", whole + b"exported by somebody", unit="m")
        self.assertEqual(len(longer.parts[0].mesh.faces), 12)
        self.assertIn("20 bytes behind the last triangle were ignored", longer.notes)
        facets = "".join(
            "facet normal 0 0 0\nouter loop\n"
            + "".join(f"vertex {x} {y} {z}\n" for x, y, z in BOX[face])
            + "endloop\nendfacet\n"
            for face in BOX_FACES
        )
        cut = self.read("cut.stl", f"solid crate\n{facets}", unit="m")
        self.assertAlmostEqual(cut.parts[0].volume, 6)
        self.assertIn("the last line, endsolid, is missing", cut.notes)

    def test_bad_files_are_refused_in_words(self) -> None:
        for name, content, words in (
            ("a.obj", "", "empty"),
            ("a.obj", "v 1 2 3\nv 4 5 6\n", "no triangles"),
            ("a.obj", b"\x00\xff" * 500, ""),
            ("a.ply", PLY[:120], "has no end"),
            ("a.ply", PLY.replace("face 12", "face 0"), "point cloud"),
            ("a.ply", PLY.replace("vertex 8", "vertex 4000000000"), "promises at least"),
            ("a.ply", "solid stl\n", "does not begin with 'ply'"),
            ("a.off", OFF.replace("8 12 0", "8 999999999 0"), "more than a file of"),
            ("a.off", "OFF\n8 0 0\n" + CORNERS, "point cloud"),
            ("a.off", "OFF\n", "no counts"),
            ("a.glb", binary_stl(BOX[BOX_FACES]), "does not begin with 'glTF'"),
            ("a.glb", glb()[:-40], "it is cut off"),
            ("a.glb", glb(gltf(nodes=[{"children": [0]}])), ""),
            ("a.glb", glb(gltf(accessors=[])), ""),
            (
                "a.glb",
                glb(gltf(extensionsRequired=["KHR_draco_mesh_compression"])),
                "packed with KHR",
            ),
            ("a.gltf", '{"extensionsRequired": ["EXT_meshopt_compression"]}', "packed with EXT"),
            ("a.gltf", "{", "cannot be read as GLTF"),
            ("a.dae", "hello", "not an XML file"),
            ("a.dae", DAE.replace("?>", "?><!DOCTYPE x [<!ENTITY a 'b'>]>", 1), "refused"),
            ("a.dae", DAE[:600], ""),
            ("a.dae", DAE.replace("0.0254", "-1"), "makes no sense"),
            ("a.3mf", b"PK\x03\x04 not really", "cannot be unpacked"),
            ("a.3mf", three_mf()[:-30], "cannot be unpacked"),
            ("a.3mf", three_mf("<!DOCTYPE x><model/>"), "refused"),
        ):
            with self.subTest(name=name, words=words):
                with self.assertRaises(InputError) as caught:
                    self.read(name, content)
                self.assertIn(words, str(caught.exception))
                self.assertEqual(len(str(caught.exception).splitlines()), 1)
