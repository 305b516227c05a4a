"""Proposals: the machine's true joints are found with their axes, and nothing that is not there."""

import shutil
import unittest
from dataclasses import replace

import numpy as np

import mooring
from mooring import check, kinematics, read_cad
from mooring.cad import Assembly
from mooring.cad.features import find_surfaces
from mooring.cad.proposing import Proposal, propose
from mooring.cad.sampling import Sampling
from mooring.cad.step.read import read_here
from mooring.demo import DRUM_CART, LINE_TENDER, WALKER_LEG, modelling
from mooring.errors import DocumentError, ModelError
from tests.machines import all_machines
from tests.machines.judging import faults
from tests.machines.linkages import parallelogram
from tests.parts import made
from tests.support import folder_for, line_tender, run_mooring


def true_joints(robot: mooring.Robot) -> list[tuple[str, np.ndarray, np.ndarray]]:
    """The moving joints of a machine's own document, by their axes in the CAD."""
    frames = robot.link_frames()
    return [
        (joint.type, frames[joint.child][:3, 3], frames[joint.child][:3, :3] @ np.array(joint.axis))
        for joint in robot.joints.values()
        if joint.moves
    ]


def unmatched(test: unittest.TestCase, true: list, proposal: Proposal) -> list[str]:
    """The names of proposed joints that are none of the true ones, all of which must be there."""
    left = list(proposal.joints)
    for kind, origin, axis in true:
        for joint in left:
            off = joint.origin - origin
            aside = np.linalg.norm(off - axis * (off @ axis))
            slides = kind == "prismatic"
            # A slide is a direction; where it is drawn does not matter.
            placed = slides or aside < 1e-4
            if (
                (joint.kind == "prismatic") == slides
                and abs(joint.axis @ axis) > 0.99999
                and placed
            ):
                left.remove(joint)
                break
        else:
            test.fail(f"no {kind} joint at {origin} along {axis}")
    return [joint.name for joint in left]


def blind(assembly: Assembly) -> Assembly:
    """As triangles would be read: without exact surfaces."""
    meshes = {
        id(g): replace(g, source="mesh", surfaces=find_surfaces(g.mesh))
        for g in (copies[0].geometry for copies in assembly.kinds())
    }
    parts = tuple(replace(p, geometry=meshes[id(p.geometry)]) for p in assembly.parts)
    return replace(assembly, parts=parts)


class Strangers(unittest.TestCase):
    def test_machines_of_many_kinds_however_their_files_are_sorted(self) -> None:
        folder = folder_for(self)
        for number, machine in enumerate(all_machines()):
            how = ("links", "flat", "one", "odd")[number % 4]
            # In this process: three dozen others would each take a second to start.
            file = machine.write(folder, how)
            assembly = replace(
                read_here(file, Sampling(), lambda *_: None), sources=((file, None),)
            )
            for seen in (assembly, blind(assembly)) if number in (5, 13, 14) else (assembly,):
                with self.subTest(machine=machine.name, how=how, exact=seen is assembly):
                    found = list(faults(machine, how, seen, propose(seen)))
                    self.assertEqual(found, [])

    def test_only_what_the_cad_leaves_open_is_guessed_and_any_name_is_written(self) -> None:
        folder = folder_for(self)
        machine = parallelogram()
        names = ("=1+1", "a[1] b", "a[1] b", "x/y", "名前", "null", "top: 3", "#p")
        for item, name in zip(machine.items, names, strict=True):
            item.name = item.product.name = name
        machine.items[4].product.material = ""
        made = machine.write(folder, "flat")
        done = run_mooring("draft", made, "-o", folder / "m.yaml")
        self.assertEqual(done.returncode, 0, done.stderr)
        robot = mooring.read(folder / "m.yaml")
        self.assertEqual(robot.leftover_parts(), [])
        volumes = sum(part.volume for part in read_cad(made).parts)
        self.assertAlmostEqual(robot.mass(), 7850 * volumes, delta=1e-3 * 7850 * volumes)
        text = (folder / "m.yaml").read_text()
        self.assertEqual((text.count("part_materials:"), text.count(" material: ")), (2, 0))


class TheOtherMachines(unittest.TestCase):
    def test_all_true_joints_are_proposed_and_no_others(self) -> None:
        for machine, base, why in (
            (WALKER_LEG, "hip", "4 of its bolts lead into something"),
            (DRUM_CART, "chassis", "4 others are joined to it"),
        ):
            robot = mooring.read(machine.document)
            report = check(robot)
            self.assertEqual(report.count("error") + report.count("warning"), 0, str(report))
            self.assertEqual(robot.leftover_parts(), [])
            proposal = propose(read_cad(machine.step))
            self.assertEqual(unmatched(self, true_joints(robot), proposal), [])
            ours = {frozenset(p.name for p in link.parts) for link in robot.links.values()}
            self.assertEqual({frozenset(link.parts) for link in proposal.links}, ours)
            self.assertEqual(proposal.base, base)
            self.assertIn(why, proposal.base_reason)
            if machine is DRUM_CART:
                kinds = {joint.child: joint.kind for joint in proposal.joints}
                # The caster's fork is no wheel, and meets nothing in a full turn.
                self.assertEqual(set(kinds.values()), {"continuous"})
                self.assertEqual({j.child for j in proposal.joints if not j.balanced},
                                 {"caster_fork"})  # fmt: skip
                self.assertEqual(len(proposal.pairs), 1)


class FlatFiles(unittest.TestCase):
    def test_neither_sub_assemblies_nor_exact_surfaces_are_needed(self) -> None:
        for machine in (WALKER_LEG, DRUM_CART, LINE_TENDER):
            assembly = read_cad(machine.step)
            # As a loose heap of triangle meshes would be read.
            parts = tuple(replace(p, path=p.name) for p in blind(assembly).parts)
            proposal = propose(replace(assembly, parts=parts))
            true = true_joints(mooring.read(machine.document))
            if machine is LINE_TENDER:
                true.append(("revolute", np.array([0.9, 0, 2.13]), np.array([0.0, 1, 0])))
            self.assertEqual(unmatched(self, true, proposal), [])


class TheLineTender(unittest.TestCase):
    proposal: Proposal

    @classmethod
    def setUpClass(cls) -> None:
        cls.assembly = read_cad(LINE_TENDER.step)
        cls.proposal = propose(cls.assembly)

    def test_all_true_joints_are_proposed_and_no_others(self) -> None:
        true = true_joints(line_tender())
        true.append(("revolute", np.array([0.9, 0, 2.13]), np.array([0.0, 1, 0])))
        self.assertEqual(unmatched(self, true, self.proposal), [])
        self.assertEqual([j.name for j in self.proposal.joints if j.closes], ["rod_pin"])
        self.assertEqual(self.proposal.pairs, (("port_jaw_pin", "starboard_jaw_pin"),))

    def test_links_are_those_of_the_machine(self) -> None:
        robot = line_tender()
        ours = {frozenset(p.name for p in link.parts) for link in robot.links.values()}
        # Whether the cabinet is a link of its own, only its maker knows.
        pedestal = {p.name for n in ("pedestal", "cabinet") for p in robot.links[n].parts}
        ours = {parts for parts in ours if not parts <= pedestal} | {frozenset(pedestal)}
        self.assertEqual({frozenset(link.parts) for link in self.proposal.links}, ours)
        self.assertEqual(self.proposal.base, "pedestal")
        for item in (*self.proposal.links, *self.proposal.joints):
            self.assertTrue(item.reason)

    def test_the_document_loads_checks_and_jogs(self) -> None:
        folder = folder_for(self)
        file = folder / "tender.yaml"
        done = run_mooring("draft", LINE_TENDER.step, "-o", file)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertIn("10 links, 9 joints, 1 closure", done.stdout)
        # The CAD is elsewhere, which the draft says, and which whoever reads it has to allow.
        self.assertIn("outside the folder of tender.yaml", " ".join(done.stdout.split()))
        with self.assertRaisesRegex(mooring.MooringError, "outside the document's folder"):
            mooring.read(file)
        robot = mooring.read(file, allow_outside=True)
        report = check(robot)
        # How far joints go is a guess, and what they run into then is found.
        rules = {f.code for f in report.findings if f.severity != "note"}
        self.assertLessEqual(rules, {"overlap-in-range"}, str(report))
        self.assertEqual(robot.leftover_parts(), [])
        q = kinematics.configuration(robot, {"luff_pin": "-20 deg", "mast_turn": "30 deg"})
        tree = robot.tree()
        poses = kinematics.link_poses(tree, q)
        # The rod's eye stays on the boom's pin.
        place = (*(tree.link(n) for n in ("boom", "piston_rod")),)
        neutral = kinematics.link_poses(tree, np.zeros(len(q)))
        pin = [poses[k] @ np.linalg.inv(neutral[k]) @ np.array([0.9, 0, 2.13, 1]) for k in place]
        np.testing.assert_allclose(pin[0], pin[1], atol=1e-8)
        text = file.read_text()
        for words in ("# high confidence: turntable and column share an axis",
                      "at: {bore: [column, turntable]}",
                      "# or continuous, if nothing stops it; or fixed,", "#   starboard_jaw_pin: {follows: port_jaw_pin", "# pedestal is the base"):  # fmt: skip
            self.assertIn(words, text)
        again = run_mooring("draft", LINE_TENDER.step, "-o", file)
        self.assertEqual((again.returncode, "nothing changed" in again.stdout), (0, True))

    def test_without_names_and_colors_the_same_is_found(self) -> None:
        parts = tuple(
            replace(p, name=f"p{k}", color=None) for k, p in enumerate(self.assembly.parts)
        )
        blind = propose(replace(self.assembly, parts=parts))
        kinds = sorted(joint.kind for joint in blind.joints)
        self.assertEqual(kinds, sorted(joint.kind for joint in self.proposal.joints))

    def test_a_slide_can_be_asked_for_by_name(self) -> None:
        axis = self.assembly.slide("*_wear_pad_*", "jib_tube")
        np.testing.assert_allclose(axis.direction, (1, 0, 0), atol=1e-12)
        for first, second, words in (
            ("base_plate", "column", "more than one way to slide"),
            ("base_plate", "boom_tube", "no faces of"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                self.assembly.slide(first, second)
        folder = folder_for(self)
        shutil.copy(LINE_TENDER.step, folder)
        file = folder / "boom.yaml"
        text = (
            "mooring: 1\ncad: [{file: line_tender.step}]\nlinks:\n  boom: {parts: boom_tube}\n"
            "  jib: {parts: jib_tube}\njoints:\n  telescope: {type: prismatic, parent: boom, "
            'child: jib, at: {slide: ["*_wear_pad_*", jib_tube]}, limits: {lower: 0, upper: 1}}\n'
        )
        file.write_text(text)
        self.assertEqual(mooring.read(file).joints["telescope"].axis, (1, 0, 0))
        file.write_text(text.replace("jib_tube]}", "boom_tube]}").replace('"*_wear', '"top_wear'))
        with self.assertRaisesRegex(DocumentError, ":7: joint 'telescope': the faces of"):
            mooring.read(file)


class Relations(unittest.TestCase):
    def assembly(self, *solids: tuple[str, object]) -> mooring.Assembly:
        return made(folder_for(self), *solids)

    def test_a_shaft_with_a_collar_turns_and_one_without_slides(self) -> None:
        block = modelling.cut(
            modelling.box((-50, 50), (-50, 50), (0, 40)), modelling.cylinder("z", (0, 40), 30)
        )
        rod = modelling.fuse(
            modelling.cylinder("z", (-150, 200), 30), modelling.box((-8, 8), (-8, 8), (200, 240))
        )
        collar = modelling.fuse(
            modelling.cylinder("z", (0, 60), 30), modelling.cylinder("z", (40, 60), 60)
        )
        crank = modelling.fuse(collar, modelling.box((0, 90), (-9, 9), (50, 60)))
        for name, solid, kind, wheel in (
            ("rod", rod, "prismatic", False),
            ("crank", crank, "continuous", False),  # nothing stops it
            ("rotor", collar, "continuous", True),
        ):
            proposal = propose(self.assembly(("block", block), (name, solid)))
            (joint,) = proposal.joints
            self.assertEqual((joint.kind, joint.balanced), (kind, wheel))
            np.testing.assert_allclose(np.abs(joint.axis), (0, 0, 1), atol=1e-9)

    def test_motors_on_the_axes_of_joints_are_named(self) -> None:
        block = modelling.cut(
            modelling.box((-50, 50), (-50, 50), (0, 40)), modelling.cylinder("z", (0, 40), 30)
        )
        crank = modelling.fuse(
            modelling.cylinder("z", (0, 60), 29.5), modelling.cylinder("z", (40, 60), 60),
            modelling.box((0, 90), (-9, 9), (50, 60)),
        )  # fmt: skip
        motor = modelling.cylinder("z", (-60, 0), 42)
        aside = modelling.cylinder("z", (-60, 0), 12, (40, 40, 0))
        proposal = propose(
            self.assembly(("block", block), ("crank", crank), ("Getriebe-Motor 7", motor),
                          ("servo", aside), ("motor bracket", modelling.cylinder("z", (-70, -60), 42)))
        )  # fmt: skip
        (joint,) = [joint for joint in proposal.joints if joint.kind != "fixed"]
        self.assertEqual(proposal.motors, ((joint.name, "Getriebe-Motor 7"),))

    def test_two_pins_or_a_key_hold(self) -> None:
        plate = modelling.cut(
            modelling.box((-60, 60), (-30, 30), (0, 20)),
            *(modelling.cylinder("z", (0, 20), 16, (x, 0, 0)) for x in (-40, 40)),
        )
        yoke = modelling.fuse(
            modelling.box((-60, 60), (-30, 30), (20, 40)),
            *(modelling.cylinder("z", (0, 20), 16, (x, 0, 0)) for x in (-40, 40)),
        )
        assembly = self.assembly(("plate", plate), ("yoke", yoke))
        proposal = propose(assembly)
        self.assertEqual((len(proposal.links), proposal.joints), (1, ()))

    def test_a_drawer_slides_the_way_it_can(self) -> None:
        frame = modelling.cut(
            modelling.box((0, 400), (-120, 120), (-60, 60)),
            modelling.box((-1, 401), (-100, 100), (-40, 40)),
        )
        drawer = modelling.box((-50, 350), (-100, 100), (-40, 40))
        (joint,) = propose(self.assembly(("frame", frame), ("drawer", drawer))).joints
        self.assertEqual((joint.kind, joint.confidence), ("prismatic", "high"))
        np.testing.assert_allclose(joint.axis, (1, 0, 0), atol=1e-9)

    def test_what_touches_nothing_is_held_and_told(self) -> None:
        floor = modelling.box((0, 500), (0, 500), (0, 20))
        kite = modelling.box((0, 50), (0, 50), (900, 950))
        proposal = propose(self.assembly(("floor", floor), ("kite", kite)))
        (joint,) = proposal.joints
        self.assertEqual(
            (joint.kind, joint.confidence, proposal.base), ("fixed", "low", "floor_group")
        )
        self.assertIn("kite", proposal.notes[0])
