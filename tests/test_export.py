"""Exported geometry, drawings and descriptions say what the robot says."""

import json
import struct
import unittest

import numpy as np
from lxml import etree

import mooring
from mooring import kinematics, read_cad
from mooring.demo import WALKER
from mooring.errors import InputError, ModelError
from mooring.geometry import apply
from mooring.simulation import write_animation
from tests.support import folder_for, line_tender


def tree_of(file: object) -> dict:
    data = file.read_bytes()
    magic, version, length = struct.unpack("<4sII", data[:12])
    assert (magic, version, length) == (b"glTF", 2, len(data))
    (size,) = struct.unpack("<I", data[12:16])
    return json.loads(data[20 : 20 + size])


class Geometry(unittest.TestCase):
    def test_gltf_has_every_part_in_its_place(self) -> None:
        folder = folder_for(self)
        tender = line_tender()
        q = kinematics.configuration(tender, "over_ship")
        poses = kinematics.link_poses(tender.tree(), q)
        lost = tender.write(folder / "tender.glb", posture="over_ship")
        self.assertTrue(any("collision" in words for words in lost))
        assembly = read_cad(folder / "tender.glb")
        tree, frames = tender.tree(), tender.link_frames()
        self.assertEqual(len(assembly.parts), 109)
        for name, link in tender.links.items():
            move = poses[tree.link(name)] @ np.linalg.inv(frames[name])
            for part in link.parts:
                # A part may be called as its link is; the reader numbers such names.
                found = next(p for p in assembly.parts if p.name in (part.name, f"{part.name}_1"))
                vertices = apply(move, part.vertices)
                np.testing.assert_allclose(
                    [found.vertices.min(axis=0), found.vertices.max(axis=0)],
                    [vertices.min(axis=0), vertices.max(axis=0)],
                    atol=1e-5,
                )
                self.assertIn(name, found.path)
        content = tree_of(folder / "tender.glb")
        # One mesh for each distinct part and color, links as nodes by name.
        self.assertEqual(len(content["meshes"]), 36)
        self.assertLessEqual(set(tender.links), {node["name"] for node in content["nodes"]})

    def test_frames_are_nodes(self) -> None:
        folder = folder_for(self)
        walker = mooring.read(WALKER.document)
        walker.write(folder / "walker.glb")
        places = read_cad(folder / "walker.glb").frames
        tree = walker.tree()
        true = kinematics.frame_poses(tree, tree.neutral())
        for name, place in true.items():
            np.testing.assert_allclose(places[name].matrix, place, atol=1e-6)

    def test_a_recording_becomes_an_animation(self) -> None:
        folder = folder_for(self)
        tender = line_tender()
        run = mooring.simulate(tender, motion="lay_line", seconds=2)
        write_animation(tender, run, folder / "run.glb", rate="20 Hz")
        data = (folder / "run.glb").read_bytes()
        content = tree_of(folder / "run.glb")
        start = 20 + struct.unpack("<I", data[12:16])[0] + 8

        def values(number: int, width: int) -> np.ndarray:
            accessor = content["accessors"][number]
            view = content["bufferViews"][accessor["bufferView"]]
            raw = data[start + view["byteOffset"] :][: view["byteLength"]]
            return np.frombuffer(raw, "<f4").reshape(-1, width)

        (animation,) = content["animations"]
        tree = tender.tree()
        for channel in animation["channels"]:
            name = content["nodes"][channel["target"]["node"]]["name"]
            sampler = animation["samplers"][channel["sampler"]]
            times = values(sampler["input"], 1)[:, 0]
            np.testing.assert_allclose(np.diff(times), 0.05, atol=1e-6)
            if channel["target"]["path"] != "translation":
                norms = np.linalg.norm(values(sampler["output"], 4), axis=1)
                np.testing.assert_allclose(norms, 1, atol=1e-6)
                continue
            # Where the link is in its parent at the recorded instant.
            parent = next(j.parent for j in tender.joints.values() if j.child == name)
            k = len(times) // 2
            q = run.table.loc[: times[k] + 1e-6].iloc[-1]
            poses = kinematics.link_poses(tree, [q[f"{j}.position"] for j in tree.coordinates])
            local = np.linalg.inv(poses[tree.link(parent)]) @ poses[tree.link(name)]
            found = values(sampler["output"], 3)[k]
            np.testing.assert_allclose(found, local[:3, 3], atol=1e-6)
        moving = {content["nodes"][c["target"]["node"]]["name"] for c in animation["channels"]}
        self.assertIn("boom", moving)
        self.assertNotIn("cabinet", moving)
        with self.assertRaisesRegex(ModelError, "is not one of 'breakwater_walker'"):
            write_animation(mooring.read(WALKER.document), run, folder / "x.glb")

    def test_meshes_hold_the_whole_robot_as_it_stands(self) -> None:
        folder = folder_for(self)
        tender = line_tender()
        volume = sum(p.mesh.solid.volume for link in tender.links.values() for p in link.parts)
        reach = {}
        for suffix in ("stl", "obj", "ply"):
            file = folder / f"tender.{suffix}"
            tender.write(file, posture="over_ship")
            assembly = read_cad(file, unit="m")
            self.assertAlmostEqual(sum(p.volume for p in assembly.parts) / volume, 1, places=4)
            reach[suffix] = assembly.bounds
        np.testing.assert_allclose(reach["stl"], reach["ply"], atol=1e-6)
        np.testing.assert_allclose(reach["stl"], reach["obj"], atol=1e-6)
        colors = {part.color for part in read_cad(folder / "tender.obj", unit="m").parts}
        self.assertLessEqual({"#d9822b", "#3f6f8f"}, colors)
        paint = read_cad(folder / "tender.ply", unit="m").parts[0].mesh.paint
        assert paint is not None
        self.assertIn("#d9822b", paint.colors)

    def test_wrong_requests_are_refused(self) -> None:
        folder = folder_for(self)
        empty = mooring.Robot("empty")
        empty.add_link("base")
        for call, error, words in (
            (lambda: empty.write(folder / "a.glb"), InputError, "shows nothing"),
            (lambda: empty.write(folder / "a.stl"), InputError, "shows nothing"),
            (lambda: empty.write(folder / "a.blend"), InputError, "writable are files ending in"),
            (
                lambda: line_tender().write(folder / "a.urdf", posture="stowed"),
                InputError,
                "no posture",
            ),
            (
                lambda: line_tender().write(folder / "a.glb", posture="stoed"),
                ModelError,
                "did you mean",
            ),
        ):
            with self.assertRaisesRegex(error, words):
                call()
        self.assertEqual(list(folder.iterdir()), [])


class Descriptions(unittest.TestCase):
    def test_drawings_of_the_tree_name_every_link_and_joint(self) -> None:
        folder = folder_for(self)
        tender = line_tender()
        for name in ("tree.svg", "tree.dot"):
            tender.write(folder / name)
        svg = etree.parse(str(folder / "tree.svg")).getroot()
        words = {text.text for text in svg.iter("{*}text")}
        self.assertLessEqual({*tender.links, *tender.joints, "rod_pin, hinge"}, words)
        boxes = [
            tuple(float(box.get(k)) for k in ("x", "y"))
            for box in svg.iter("{*}rect")
            if box.get("x")
        ]
        self.assertEqual(len(set(boxes)), len(tender.links))
        dot = (folder / "tree.dot").read_text()
        self.assertEqual(dot.count(" -> "), len(tender.joints) + len(tender.closures))
