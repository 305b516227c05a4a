"""Timelines and recordings: the way, the speed and the time of a motion, and what is written."""

import unittest

import numpy as np
import pandas as pd

from mooring import Robot, simulate
from mooring.errors import ModelError
from mooring.kinematics import configuration
from mooring.model import MotionStep
from mooring.simulation.timeline.build import plan
from tests.support import folder_for, line_tender
from tests.test_simulation import slider


def driven_slider(**joint: object) -> Robot:
    """A slide with a motor so stiff that it is where its target is."""
    robot = slider(effort=1e9, **joint)
    robot.add_motor("drive", joint="slide", p=1e9, d=1e7)
    robot.add_posture("near", {})
    robot.add_posture("far", {"slide": "2 m"})
    return robot


class Timelines(unittest.TestCase):
    def test_the_shortest_way_reaches_the_speed_limit_and_no_more(self) -> None:
        robot = driven_slider(velocity="500 mm/s")
        run = simulate(robot, motion=[MotionStep(to="near"), MotionStep(to="far")], rate=1000)
        # A quintic's greatest speed is 15/8 of its mean.
        self.assertAlmostEqual(run.table.index[-1], 15 / 8 * 2 / 0.5, delta=2e-3)
        self.assertAlmostEqual(run.table["slide.velocity"].max(), 0.5, delta=1e-4)
        self.assertAlmostEqual(run.table["slide.position"].iloc[-1], 2, delta=1e-4)
        self.assertEqual(run.notes, [])

    def test_way_speed_and_acceleration_are_smooth(self) -> None:
        robot = driven_slider()
        steps = [MotionStep(to="near"), MotionStep(to="far", over="2 s")]
        t = simulate(robot, motion=steps, rate=1000).table
        s = t.index.to_numpy() / 2
        np.testing.assert_allclose(
            t["slide.target"], 2 * (10 * s**3 - 15 * s**4 + 6 * s**5), atol=1e-9
        )
        # What the motor has to do for it is the mass times the second derivative.
        effort = 10 * 2 * (60 * s - 180 * s**2 + 120 * s**3) / 4
        middle = slice(20, -20)
        np.testing.assert_allclose(t["slide.effort"][middle], effort[middle], atol=0.2)

    def test_haste_is_told_and_waiting_counts(self) -> None:
        robot = driven_slider(velocity="500 mm/s")
        tree = robot.tree()
        steps = [
            MotionStep(to="near", hold="0.5 s"),
            MotionStep(to="far", over="1 s", hold="2 s"),
            MotionStep(hold="1 s"),
        ]
        planned = plan(robot, tree, steps, configuration(robot, "near"))
        timeline = planned.timeline
        self.assertAlmostEqual(planned.seconds, 0.5 + 1 + 2 + 1)
        self.assertEqual((timeline.starts.tolist(), timeline.ends.tolist()), ([0.5], [1.5]))
        self.assertIn("asks slide for 3.75 m/s, above its limit of 500 mm/s", planned.notes[0])
        with self.assertRaisesRegex(ModelError, "gives no duration, and no joint it moves has"):
            simulate(driven_slider(), motion=[MotionStep(to="near"), MotionStep(to="far")])

    def test_every_way_of_the_tender_keeps_all_its_limits(self) -> None:
        robot = line_tender()
        tree = robot.tree()
        steps = robot.motions["lay_line"]
        start = configuration(robot, steps[0].to)
        planned = plan(robot, tree, steps, start)
        self.assertEqual(planned.notes, [])
        for point in planned.timeline.points:
            self.assertTrue((point >= tree.joints.lower - 1e-9).all())
            self.assertTrue((point <= tree.joints.upper + 1e-9).all())
            # Every target is a posture the mechanism can be in.
            again = configuration(robot, dict(zip(tree.coordinates, point, strict=True)))
            np.testing.assert_allclose(again, point, atol=1e-8)


class Recordings(unittest.TestCase):
    def test_the_file_is_the_table(self) -> None:
        run = simulate(driven_slider(), posture="far", seconds=0.2)
        file = folder_for(self) / "run.csv"
        run.write_csv(file)
        table = pd.read_csv(file, index_col="time")
        self.assertEqual(list(table.columns), list(run.table.columns))
        np.testing.assert_array_equal(table, run.table)
        self.assertEqual(
            (run.joints, run.driven, run.units), (["slide"], ["slide"], {"slide": "m"})
        )

    def test_what_makes_no_sense_is_refused(self) -> None:
        robot = driven_slider()
        for options, words in (
            ({"seconds": 0}, "longer than 0 s"),
            ({"step": "0 s"}, "greater than zero"),
            ({"rate": "-1 Hz"}, "greater than zero"),
            ({"seconds": "3 m"}, "is a length"),
            ({"motion": "dance"}, "no motion is called 'dance'"),
            ({"posture": "farr"}, "did you mean 'far'"),
            ({"velocities": {"slid": 1}}, "did you mean 'slide'"),
            ({"stepper": "quick"}, "there are 'robust' and 'accurate'"),
        ):
            with self.subTest(words), self.assertRaisesRegex(ValueError, words):
                simulate(robot, **options)  # type: ignore[arg-type]

    def test_stopping_keeps_what_was_recorded(self) -> None:
        def impatient(reached: float, _: float) -> None:
            if reached >= 1.0:
                raise KeyboardInterrupt

        run = simulate(driven_slider(), posture="far", seconds=60, progress=impatient)
        self.assertFalse(run.complete)
        self.assertIn("stopped by the user at 1.000 s", run.notes)
        self.assertEqual(len(run.table), 100)

    def test_an_explosion_ends_the_run_and_is_told(self) -> None:
        robot = slider(damping=1e9)
        run = simulate(robot, velocities={"slide": 1.0}, seconds=1, stepper="accurate")
        self.assertFalse(run.complete)
        self.assertIn("the motion exploded at", run.notes[0])
        # The robust stepper takes the same damper in its stride.
        self.assertTrue(simulate(robot, velocities={"slide": 1.0}, seconds=1).complete)
