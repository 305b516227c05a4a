"""What shows itself in a terminal and in a notebook: short lines, and cells with pictures."""

import re
import unittest
from html.parser import HTMLParser
from typing import Any

import mooring
from mooring import demo
from mooring.model.definition.described import Described
from mooring.model.registry import KINDS
from tests.support import line_tender
from tests.test_description import sample

VOID = ("br", "img", "meta")


class Balanced(HTMLParser):
    """Every element that is opened is closed, in order."""

    def __init__(self, text: str) -> None:
        super().__init__()
        self.open: list[str] = []
        self.feed(text)
        assert not self.open, self.open

    def handle_starttag(self, tag: str, _: Any) -> None:
        if tag not in VOID:
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        assert self.open.pop() == tag, tag


class Showing(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        robot = line_tender()
        run = mooring.simulate(robot, motion="lay_line", seconds=0.3)
        cls.things = {
            "robot": robot, "link": robot.links["boom"], "joint": robot.joints["slew"],
            "tree": robot.tree(), "assembly": robot.assemblies[0], "report": mooring.check(robot),
            "part": robot.assemblies[0].parts[0], "recording": run,
            "exercise": mooring.exercise(robot, samples=5),
            "scene": mooring.read_scene(demo.DRUM_CART.document.with_name("quay.yaml")),
            "simulation": mooring.Simulation(robot, posture="stowed"),
        }  # fmt: skip
        part = robot.assemblies[0].parts[0]
        cls.lines = cls.things | {
            "mesh": part.mesh, "geometry": part.geometry, "sweep": cls.things["exercise"].sweeps[0],
            "end": run.end, "state": cls.things["simulation"].state,
            "inertia": robot.inertia("boom"), "shape": robot.links["boom"].collisions[0],
            "picture": mooring.picture(robot, size=(64, 40)), "links": robot.links,
        }  # fmt: skip

    def test_public_names_are_offered(self) -> None:
        self.assertLessEqual(set(mooring.__all__), set(dir(mooring)))
        self.assertFalse([name for name in dir(mooring) if name in ("Any", "TYPE_CHECKING")])

    def test_nothing_prints_itself_as_a_book(self) -> None:
        robot = sample()
        items = {
            f"{kind.name} {name}": item
            for kind in KINDS.values() for name, item in robot.section(kind.name).items()
            if isinstance(item, Described)
        }  # fmt: skip
        self.assertGreater(len(items), 30)
        for name, thing in (self.lines | items).items():
            with self.subTest(name):
                self.assertLess(len(repr(thing)), 250)
                self.assertNotIn("array(", repr(thing))
                self.assertNotIn("\n", repr(thing))
        self.assertIn("109 parts", repr(self.things["assembly"]))
        self.assertIn("parent 'pedestal', child 'mast'", repr(self.things["joint"]))
        self.assertIn("0.3 s, 31 instants", repr(self.things["recording"]))

    def test_cells_say_what_is_there(self) -> None:
        said = {
            "robot": ("follows port_jaw_hinge", "969 kg"), "joint": ("-170 deg", "400 N*m"),
            "link": ("boom_tube",), "tree": ("translation",), "assembly": ("109 parts of 36 kinds",),
            "report": ("loop-over-constrained",), "part": ("structural steel",),
            "recording": ("31 recorded instants",), "exercise": ("telescope",), "scene": ("quay",),
            "simulation": ("it can go on",),
        }  # fmt: skip
        self.assertEqual(set(said), set(self.things))
        for name, thing in self.things.items():
            with self.subTest(name):
                cell = thing._repr_html_()
                Balanced(cell)
                for words in said[name]:
                    self.assertTrue(words in cell, words)
                self.assertLess(len(cell), 600_000)
                # What a cell brings touches nothing outside of it.
                style = re.search("<style>(.*?)</style>", cell, re.S)[1]
                rules = [rule for rule in re.split(r"\}\s*", style) if rule.strip()]
                for rule in rules:
                    for selector in rule.partition("{")[0].split(","):
                        self.assertTrue(selector.strip().startswith(".mooring-cell"), selector)
        self.assertEqual(self.lines["picture"]._repr_png_()[:4], b"\x89PNG")

    def test_names_are_never_markup_and_broken_robots_have_their_line(self) -> None:
        robot = mooring.Robot("<script>alert(1)</script>")
        robot.add_link("<b>post</b>", mass=1, inertia=(1, 1, 1))
        cell = robot._repr_html_()
        self.assertNotIn("<script>", cell)
        self.assertIn("&lt;b&gt;post", cell)
        robot.add_link("loose", mass=1)
        self.assertIsNone(robot._repr_html_())
        self.assertIn("2 links", repr(robot))
