"""Sections, links drawn apart, two robots side by side, films, reports."""

import re
import unittest
from html.parser import HTMLParser

import av
import numpy as np
from PIL import Image
from scipy.spatial import ConvexHull

import mooring
from mooring import picture
from mooring.cad import Mesh
from mooring.demo import LINE_TENDER
from mooring.drawing.comparison import compare_pictures
from mooring.drawing.cutting import CuttingPlane, cut_face, kept_part
from mooring.drawing.filming import Filming, Operator
from mooring.drawing.palette import DIFFERENT, rgb
from mooring.drawing.report import report_robot
from mooring.errors import ModelError
from mooring.kinematics import link_poses
from mooring.model.shapes.bodies import ball, turned
from tests.support import folder_for, line_tender, run_mooring


def volume(*meshes: Mesh | None) -> float:
    """By the divergence theorem; right only for what is closed and turned outwards."""
    total = 0.0
    for mesh in meshes:
        if mesh is not None:
            a, b, c = np.moveaxis(mesh.vertices[mesh.faces], 1, 0)
            total += float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
    return total


def area(mesh: Mesh) -> float:
    a, b, c = np.moveaxis(mesh.vertices[mesh.faces], 1, 0)
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum()) / 2


class Cutting(unittest.TestCase):
    def test_a_cut_solid_is_closed_by_its_face(self) -> None:
        random = np.random.default_rng(5)
        tube = turned(np.array([[0.2, -0.5], [0.3, -0.5], [0.3, 0.5], [0.2, 0.5], [0.2, -0.5]]))
        shapes = [ball(1.0), tube]
        for _ in range(6):
            points = random.normal(size=(14, 3))
            hull = ConvexHull(points)
            faces = np.array([f if np.dot(np.cross(*(points[f[1:]] - points[f[0]])), points[f[0]] - points.mean(0)) > 0
                              else f[::-1] for f in hull.simplices])  # fmt: skip
            shapes.append(Mesh(points, faces.astype(np.int64)))
        for mesh in shapes:
            normal = random.normal(size=3)
            normal /= np.linalg.norm(normal)
            plane, other = CuttingPlane(normal, 0.07), CuttingPlane(-normal, -0.07)
            whole = volume(mesh)
            halves = []
            for side in (plane, other):
                face = cut_face(mesh.vertices, mesh, side)
                halves.append(volume(kept_part(mesh, side.beyond(mesh.vertices)), face))
                self.assertLess(np.abs(plane.beyond(face.vertices)).max(), 1e-9)
            self.assertAlmostEqual(sum(halves), whole, delta=1e-9 * abs(whole) + 1e-12)
            self.assertGreater(min(halves), 0)

    def test_the_face_of_a_cut_tube_is_a_ring(self) -> None:
        tube = turned(np.array([[0.2, -0.5], [0.3, -0.5], [0.3, 0.5], [0.2, 0.5], [0.2, -0.5]]))
        ring = area(cut_face(tube.vertices, tube, CuttingPlane.of("z = 100 mm")))
        corners = len({tuple(np.round(p[:2], 9)) for p in tube.vertices if p[2] > 0}) / 2
        # Of a regular polygon in a circle.
        share = corners / 2 * np.sin(2 * np.pi / corners)
        self.assertAlmostEqual(ring, share * (0.3**2 - 0.2**2), delta=1e-9)

    def test_sections_as_people_say_them(self) -> None:
        for said, normal, distance in (
            ("x", (1, 0, 0), 0),
            ("-z=1 m", (0, 0, -1), -1),
            ("y = 20 cm", (0, 1, 0), 0.2),
        ):
            plane = CuttingPlane.of(said)
            np.testing.assert_allclose([*plane.normal, plane.distance], [*normal, distance])
        for wrong in ("w", "x=1 kg", "x=far", "--x", "xy"):
            with self.assertRaises(ModelError, msg=wrong):
                CuttingPlane.of(wrong)

    def test_pictures(self) -> None:
        tender = line_tender()
        whole = np.asarray(picture(tender, size=(320, 200), ground=False).image)
        for changed in (
            {"section": "-y"},
            {"explode": 0.5},
            {"dark": True},
            {"layers": ("visual", "dimensions")},
        ):
            image = np.asarray(picture(tender, size=(320, 200), ground=False, **changed).image)
            self.assertGreater(
                np.count_nonzero(np.abs(image.astype(int) - whole).max(axis=2) > 30), 300, changed
            )
        with self.assertRaisesRegex(ModelError, "nothing to draw"):
            picture(tender, section="-z=9 m")
        with self.assertRaises(ModelError):
            picture(tender, explode=-1)


class SideBySide(unittest.TestCase):
    def reddish(self, image: Image.Image) -> list[int]:
        pixels = np.asarray(image).astype(float) / 255
        wanted = np.array(rgb(DIFFERENT))
        like = (pixels @ wanted) / (
            np.linalg.norm(pixels, axis=2) * np.linalg.norm(wanted) + 1e-9
        ) > 0.985
        return [int(np.count_nonzero(half)) for half in np.split(like, 2, axis=1)]

    def test_only_what_differs_is_red(self) -> None:
        tender = line_tender()
        same = self.reddish(compare_pictures(tender, tender, size=(640, 320)).image)
        other = mooring.read(LINE_TENDER.document)
        luff = other.joints["luff"]
        luff.limits = luff.limits.model_copy(update={"upper": 0.5})
        differs = self.reddish(compare_pictures(tender, other, size=(640, 320)).image)
        for before, after in zip(same, differs, strict=True):
            self.assertGreater(after, before + 500)


class Films(unittest.TestCase):
    def test_films_of_a_recording(self) -> None:
        folder = folder_for(self)
        done = run_mooring(
            "run", LINE_TENDER.document, "-o", folder / "run", "--seconds", "1", "--no-plot"
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        options = ("--speed", "0.5", "--turn", "30 deg/s", "--say", "slew", "--size", "160x100")
        for name in ("slow.mp4", "slow.webp"):
            done = run_mooring("film", folder / "run", "-o", folder / name, *options)
            self.assertEqual(done.returncode, 0, done.stderr)
        with av.open(str(folder / "slow.mp4")) as film:
            pictures = [frame.to_image() for frame in film.decode(video=0)]
        self.assertEqual(len(pictures), 51)
        self.assertEqual(pictures[0].size, (160, 100))
        with Image.open(folder / "slow.webp") as film:
            self.assertEqual(film.n_frames, 51)
        for wrong in (
            ("--follow", "anchor"),
            ("--say", "anchor"),
            ("--speed", "0"),
            ("--turn", "3 kg"),
        ):
            done = run_mooring("film", folder / "run", "-o", folder / "wrong.mp4", *wrong)
            self.assertEqual(done.returncode, 2, done.stdout)
            self.assertNotIn("Traceback", done.stderr)
        self.assertFalse((folder / "wrong.mp4").exists())

    def test_what_is_followed_stays_and_what_is_turned_about_stays_in_view(self) -> None:
        tender = line_tender()
        tree = tender.tree()
        run = mooring.simulate(tender, motion="lay_line", seconds=4)
        states = run.positions()[::20]
        poses = np.asarray(link_poses(tree, states))
        clouds = [row[:, :3, 3] for row in poses]
        row = tree.link("clamp")
        follows = Operator(Filming(follow="clamp"), tree, states, clouds)
        turns = Operator(Filming(turn=1.0), tree, states, clouds)
        seen = []
        for number, (q, cloud) in enumerate(zip(states, clouds, strict=True)):
            eye = follows.camera(q, number / 25)
            seen.append(eye.project(cloud[[row]], 960, 600, 1e4)[0, :2])
            spots = turns.camera(q, number / 2).project(cloud, 960, 600, 1e4)
            self.assertTrue(((spots[:, :2] > 0) & (spots[:, :2] < [960, 600])).all())
        self.assertLess(np.ptp(seen, axis=0).max(), 1e-6)


class Reports(unittest.TestCase):
    def test_a_report_holds_everything_and_needs_nothing(self) -> None:
        folder = folder_for(self)
        tender = mooring.read(LINE_TENDER.document)
        report_robot(tender, mooring.check(tender), folder / "tender.html")
        text = (folder / "tender.html").read_text()
        for name in (*tender.links, *tender.joints, *tender.postures):
            self.assertIn(name, text)
        self.assertIn("969 kg", text)
        self.assertEqual(re.findall(r"(?:src|href)=\"(?!data:)", text), [])
        self.assertEqual(unclosed(text), [])

    def test_of_a_run_by_the_command_line(self) -> None:
        folder = folder_for(self)
        done = run_mooring(
            "run", LINE_TENDER.document, "-o", folder, "--seconds", "0.5", "--report", "--no-plot"
        )
        self.assertEqual(done.returncode, 0, done.stderr)
        text = (folder / "report.html").read_text()
        for words in ("What went wrong", "slew", "RMS", "Kinematic tree"):
            self.assertIn(words, text)
        self.assertEqual(unclosed(text), [])
        done = run_mooring("check", LINE_TENDER.document, "--report", folder / "report.docx")
        self.assertEqual(done.returncode, 2)
        self.assertIn("written as .html", done.stderr)


def unclosed(text: str) -> list[str]:
    """Elements that are not closed, or closed and never opened."""
    open_, wrong = [], []

    class Reader(HTMLParser):
        def handle_starttag(self, tag: str, *_: object) -> None:
            if tag not in ("meta", "img", "br"):
                open_.append(tag)

        def handle_endtag(self, tag: str) -> None:
            if not open_ or open_.pop() != tag:
                wrong.append(tag)

    Reader().feed(text)
    return wrong + open_


if __name__ == "__main__":
    unittest.main()
