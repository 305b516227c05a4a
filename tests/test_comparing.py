"""Differences between robots: each change is found, named and measured, and nothing else is."""

import json
import shutil
import unittest

import numpy as np

import mooring
from mooring import kinematics
from mooring.demo import LINE_TENDER
from mooring.model.comparing import differences
from tests.support import folder_for, line_tender, random_robot, run_mooring
from tests.urdf_set import FOLDER


class Changes(unittest.TestCase):
    def test_what_is_only_called_otherwise_is_told_as_renamed(self) -> None:
        file = folder_for(self) / "other.urdf"
        text = (FOLDER / "pile_walker.urdf").read_text()
        file.write_text(text.replace("FL_", "LF_").replace("FR_", "RF_").replace('"1.1"', '"1.1"'))
        found = differences(mooring.read(FOLDER / "pile_walker.urdf"), mooring.read(file))
        self.assertEqual({d.what for d in found}, {"renamed"})
        self.assertEqual(len(found), 16)
        file.write_text(
            text.replace("FL_calf", "shin").replace(
                '<mass value="0.06"/>', '<mass value="0.07"/>', 1
            )
        )
        found = [
            str(d)
            for d in differences(mooring.read(FOLDER / "pile_walker.urdf"), mooring.read(file))
        ]
        self.assertEqual(found[:2], ["link 'FL_calf' is called 'shin' now",
                                     "joint 'FL_calf_joint' is called 'shin_joint' now"])  # fmt: skip
        self.assertEqual(len(found), 3)

    def test_each_change_in_the_document_is_one_sentence(self) -> None:
        folder = folder_for(self)
        shutil.copy(LINE_TENDER.step, folder)
        text = LINE_TENDER.document.read_text()
        file = folder / "changed.yaml"
        for wrong, right, expected in (
            ("", "", []),
            ("mass: 19.5 kg", "mass: 20.5 kg", ["link 'clamp': 19.5 kg -> 20.5 kg (+5.13%)"]),
            ("axis: -y\n    limits: {lower: -5 deg", "axis: y\n    limits: {lower: -5 deg",
             ["joint 'luff': its axis points the other way"]),
            ("upper: 170 deg, velocity: 20 deg/s, effort: 400", "upper: 3 rad, velocity: 20 deg/s, effort: 410",
             ["joint 'slew': its upper limit 170 deg -> 171.9 deg", "joint 'slew': its effort limit 400 N*m -> 410 N*m"]),
            ("type: continuous", "type: revolute", ["joint 'rotator': type continuous -> revolute"]),
            ("damping: 120 N*m*s/rad", "damping: 0.2 kN*m*s/rad", ["joint 'slew': damping 120 N*m*s/rad -> 200 N*m*s/rad"]),
            ("ratio: -1", "ratio: -0.9", ["coupling of 'starboard_jaw_hinge': ratio -1 -> -0.9"]),
            ("p: 4000 kN/m", "p: 4001 kN/m", ["motor 'luff_cylinder': p 4000 kN/m -> 4001 kN/m"]),
            ("  wrist_drive:", "  wrist_motor:", ["motor 'wrist_drive' is called 'wrist_motor' now"]),
            ("kind: hinge", "kind: ball", ["closure 'rod_pin': kind hinge -> ball"]),
            ("luff: 50 deg, wrist", "luff: 49 deg, wrist", ["posture 'stowed': luff 50 deg -> 49 deg"]),
            ("material: painted_steel, collision: box", "material: painted_steel, collision: sphere",
             ["link 'wrist': collides as sphere, it was box"]),
            ("hold: 1 s", "hold: 2 s", ["motion 'lay_line': step 7: hold 1 s -> 2 s"]),
        ):  # fmt: skip
            self.assertIn(wrong, text)
            file.write_text(text.replace(wrong, right, 1))
            found = [str(d) for d in differences(line_tender(), mooring.read(file))]
            self.assertEqual(found, expected)

    def test_moved_and_turned_joints_are_measured(self) -> None:
        before, after = random_robot(4), random_robot(4)
        name = next(n for n, j in after.joints.items() if j.moves)
        joint = after.joints[name]
        turn = np.eye(4)
        turn[:3, :3] = [[np.cos(0.1), -np.sin(0.1), 0], [np.sin(0.1), np.cos(0.1), 0], [0, 0, 1]]
        turn[:3, 3] = (0.003, 0, 0.004)
        place = mooring.model.Placement(joint.at.matrix @ turn)
        after.joints[name] = joint.model_copy(update={"at": place})
        found = {d.what: str(d) for d in differences(before, after)}
        self.assertIn("moved by 5 mm", found["position"])
        self.assertIn("its frame turned by 5.73 deg", found["orientation"])

    def test_a_urdf_of_the_same_robot_differs_in_what_urdf_cannot_hold(self) -> None:
        folder = folder_for(self)
        tender = line_tender()
        tender.write(folder / "tender.urdf")
        again = mooring.read(folder / "tender.urdf")
        found = differences(tender, again)
        self.assertLessEqual({d.kind for d in found if d.what in ("added", "removed")},
                             {"closure", "motor", "device", "posture", "motion", "allowance", "link", "joint", "frame", "material"})  # fmt: skip
        # A frame comes back as a link without mass on a fixed joint.
        self.assertEqual({d.name for d in found if d.kind in ("joint", "link") and d.what == "added"},
                         {"grip", "grip_frame"})  # fmt: skip
        self.assertEqual({d.what for d in found if d.kind == "joint"}, {"added"})
        moved = [d for d in found if d.what in ("mass", "centre", "inertia", "position")]
        self.assertEqual(moved, [])
        q = np.zeros(len(tender.coordinates))
        one, two = tender.tree(), again.tree()
        np.testing.assert_allclose(
            kinematics.link_poses(two, q)[[two.link(name) for name in one.links]],
            kinematics.link_poses(one, q),
            atol=1e-12,
        )

    def test_the_command_answers_by_exit_code_and_as_json(self) -> None:
        folder = folder_for(self)
        shutil.copy(LINE_TENDER.step, folder)
        file = folder / "changed.yaml"
        file.write_text(LINE_TENDER.document.read_text().replace("mass: 19.5 kg", "mass: 20 kg"))
        same = run_mooring("diff", LINE_TENDER.document, LINE_TENDER.document)
        self.assertEqual((same.returncode, same.stdout), (0, "no differences\n"))
        other = run_mooring("diff", LINE_TENDER.document, file, "--json")
        self.assertEqual(other.returncode, 1)
        (difference,) = json.loads(other.stdout)
        self.assertEqual(
            (difference["name"], difference["before"], difference["after"]), ("clamp", 19.5, 20)
        )
        self.assertEqual(run_mooring("diff", file, folder / "none.yaml").returncode, 2)
