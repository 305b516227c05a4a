"""Pictures: what is drawn is where geometry says it is."""

import os
import unittest
from unittest.mock import patch

import numpy as np
from PIL import Image

from mooring import Robot, picture
from mooring._native.drawing import rasterise
from mooring.drawing.camera import looking_at
from mooring.drawing.layers import LAYERS
from mooring.drawing.pieces import Layer, Piece
from mooring.drawing.plots import save_plots
from mooring.drawing.render import FAR, LevelGround, render
from mooring.errors import InputError, ModelError
from mooring.geometry import placement
from mooring.model import Box, Capsule, Cylinder, Sphere
from mooring.model.shapes.bodies import ball, box
from mooring.simulation import simulate
from tests.support import folder_for, line_tender, pendulum

SIZE = (320, 200)


def colored(image: np.ndarray) -> np.ndarray:
    """Which pixels are not grey, as the background is."""
    values = image.astype(float)
    return np.abs(values - values.mean(axis=2, keepdims=True)).max(axis=2) > 25


class Renderer(unittest.TestCase):
    def test_a_ball_covers_the_disc_it_should(self) -> None:
        piece = Piece(ball(0.5), placement((0.3, 0.2, 0.1)), "#d02020")
        for view in ("front", "top", "left"):
            camera = looking_at(piece.vertices, view, 1.6)
            image = render([piece], camera, SIZE, None)
            # A parallel view of extent e shows half a height of e metres.
            pixels = colored(image).sum()
            area = pixels * (2 * camera.extent / SIZE[1]) ** 2
            self.assertAlmostEqual(area / (np.pi * 0.25), 1, delta=0.015)

    def test_the_nearer_hides_the_farther_from_every_side(self) -> None:
        red = Piece(box((1.0, 1.0, 1.0)), placement((-1, 0, 0)), "#d02020")
        blue = Piece(box((1.0, 1.0, 1.0)), placement((1, 0, 0)), "#2020d0")
        points = np.vstack([red.vertices, blue.vertices])
        for view, strongest in (("front", 2), ("back", 0)):
            for order in ([red, blue], [blue, red]):
                image = render(order, looking_at(points, view, 1.6), SIZE, None)
                middle = image[SIZE[1] // 2, SIZE[0] // 2]
                self.assertEqual(int(np.argmax(middle)), strongest)

    def test_layers_on_top_and_glass_show_what_they_should(self) -> None:
        wall = Piece(box((0.1, 4.0, 4.0)), placement((1, 0, 0)), "#2020d0")
        hidden = Piece(ball(0.5), placement((-1, 0, 0)), "#d02020")
        on_top = Piece(ball(0.5), placement((-1, 0, 0)), "#d02020", Layer.ON_TOP)
        glass = Piece(box((0.1, 4.0, 4.0)), placement((1, 0, 0)), "#2020d0", Layer.GLASS)
        camera = looking_at(wall.vertices, "front", 1.6)
        middle = [
            render(pieces, camera, SIZE, None)[SIZE[1] // 2, SIZE[0] // 2].astype(int)
            for pieces in ([wall, hidden], [wall, on_top], [hidden, glass])
        ]
        self.assertGreater(middle[0][2], middle[0][0])
        self.assertGreater(middle[1][0], middle[1][2])
        self.assertGreater(min(middle[2][0], middle[2][2]), middle[2][1] + 20)

    def test_the_camera_has_everything_in_view_and_projects_as_it_draws(self) -> None:
        points = np.random.default_rng(2).normal(size=(50, 3)) * [3, 1, 2]
        for view in ("corner", "right", (30.0, -40.0)):
            at = looking_at(points, view, 1.6).project(points, *SIZE, FAR)
            self.assertTrue((at[:, :2] > 0).all() and (at[:, :2] < SIZE).all())
            margins = [
                at[:, 0].min(),
                SIZE[0] - at[:, 0].max(),
                at[:, 1].min(),
                SIZE[1] - at[:, 1].max(),
            ]
            self.assertLess(min(margins), 0.12 * max(SIZE))

    def test_any_number_of_threads_makes_the_same_picture(self) -> None:
        pieces = [Piece(ball(0.4), placement((k, 0.3 * k, 0.2)), "#3f6f8f", layer)
                  for k, layer in enumerate((Layer.SOLID, Layer.GLASS, Layer.ON_TOP))]  # fmt: skip
        camera = looking_at(np.concatenate([p.vertices for p in pieces]), "corner", 1.6)
        made = []
        for threads in (1, 2, 5):
            with patch.dict(os.environ, MOORING_THREADS=str(threads)):
                made.append(render(pieces, camera, SIZE, LevelGround(-0.5, 0.5)))
        for other in made[1:]:
            np.testing.assert_array_equal(made[0], other)

    def test_the_compiled_renderer_refuses_what_it_cannot_read(self) -> None:
        depth, owner = np.zeros((4, 4), np.float32), np.zeros((4, 4), np.int32)
        corners = np.array([[0.0, 0, 1], [3, 0, 1], [0, 3, 1]])
        rasterise(corners, np.array([[0, 1, 2]]), 0, depth, owner)
        self.assertEqual((owner[0, 0], owner[3, 3]), (0, -1))
        for faces, out, error in (
            (np.array([[0, 1, 3]]), depth, IndexError),
            (np.array([[0, 1, -1]]), depth, IndexError),
            (np.array([[0, 1]]), depth, ValueError),
            (np.array([[0, 1, 2]]), np.zeros((9, 9), np.float32), ValueError),
            (np.array([[0, 1, 2]]), depth.astype(float), TypeError),
            (np.array([[0, 1, 2]]), np.zeros((8, 8), np.float32)[::2, ::2], TypeError),
        ):
            with self.assertRaises(error):
                rasterise(corners, faces, 0, out, owner)

    def test_meshes_of_shapes_have_the_volume_of_the_shapes(self) -> None:
        for shape in (Box((1, 2, 3)), Sphere(0.7), Cylinder(0.3, 2), Capsule(0.3, 1)):
            mesh = shape.mesh
            self.assertTrue(mesh.closed, shape)
            self.assertAlmostEqual(mesh.solid.volume / shape.volume, 1, delta=0.02)


class Pictures(unittest.TestCase):
    def test_the_tender_is_drawn_in_every_layer(self) -> None:
        file = folder_for(self) / "tender.png"
        plain = np.asarray(picture(line_tender(), size=SIZE).image).astype(int)
        for layer in LAYERS:
            made = picture(line_tender(), layers=["visual", layer], size=SIZE)
            made.save(file)
            with Image.open(file) as image:
                self.assertEqual((image.size, image.format), (SIZE, "PNG"))
            if layer != "visual":
                changed = np.abs(np.asarray(made.image).astype(int) - plain).max(axis=2) > 30
                self.assertGreater(changed.mean(), 0.003, layer)

    def test_a_posture_moves_what_it_moves(self) -> None:
        views = [
            np.asarray(picture(line_tender(), posture=p, view="right", size=SIZE, caption="").image)
            for p in ({}, {"rotator": "90 deg"}, {"luff": "45 deg"})
        ]
        changes = [
            (np.abs(v.astype(int) - views[0].astype(int)).max(axis=2) > 30).mean()
            for v in views[1:]
        ]
        self.assertGreater(changes[0], 0)
        self.assertGreater(changes[1], 3 * changes[0])

    def test_what_cannot_be_drawn_is_said(self) -> None:
        for options, words in (
            ({"posture": "stwoed"}, "did you mean 'stowed'"),
            ({"posture": {"luff": "3 mm"}}, "is a length"),
            ({"view": "bakc"}, "did you mean 'back'"),
            ({"layers": ["visuals"]}, "did you mean 'visual'"),
            ({"size": (0, 10)}, "cannot be drawn"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                picture(line_tender(), **options)  # type: ignore[arg-type]
        with self.assertRaisesRegex(ModelError, "nothing to draw"):
            picture(pendulum(), size=SIZE)
        with self.assertRaisesRegex(InputError, "pictures are written as .png"):
            picture(line_tender(), size=SIZE).save("tender.bmp")

    def test_a_robot_of_primitives_is_drawn_and_plotted(self) -> None:
        folder = folder_for(self)
        robot = Robot("post")
        robot.add_link("post", mass=1, inertia=(1, 1, 1))
        frames = picture(robot, layers=["frames", "centres"], size=SIZE)
        self.assertEqual(frames.image.size, SIZE)
        run = simulate(pendulum(), posture={"swing": 1.0}, seconds=0.2)
        for path in save_plots(run, folder):
            with Image.open(path) as image:
                self.assertEqual(image.size, (1280, 800))
