"""Two-valued signals of devices, and what motors are told beside a motion: courses, hold, relax."""

import math
import unittest

import numpy as np

import mooring
from mooring import Recording, Robot
from mooring.errors import ModelError
from tests.support import folder_for, line_tender
from tests.test_bridge import plant


def vice() -> Robot:
    robot = Robot("vice")
    robot.add_link("frame")
    robot.add_link("jaw", mass=0.2, inertia=(1e-4, 1e-4, 1e-4))
    robot.add_joint(
        "slide",
        "prismatic",
        parent="frame",
        child="jaw",
        axis="x",
        lower=0,
        upper=0.05,
        velocity=0.5,
        effort=200,
    )
    robot.add_motor("drive", joint="slide", p=2e4, d=100)
    robot.add_device(
        "vice",
        inputs={
            "open": {
                "joints": {"slide": "40 mm"},
                "otherwise": {"slide": 0},
                "delay": "50 ms",
                "travel": "0.4 s",
            }
        },
        outputs={
            "opened": {"above": {"slide": "39 mm"}, "delay": "20 ms"},
            "shut": {"below": {"slide": "1 mm"}},
            "loaded": {"load": {"slide": "50 N"}},
        },
    )
    return robot


class Signals(unittest.TestCase):
    def test_a_device_moves_after_its_delay_for_its_travel_and_reports(self) -> None:
        simulation = mooring.Simulation(vice(), ground="none", gravity=(0, 0, 0))
        self.assertEqual(
            simulation.signals,
            {"vice.open": False, "vice.opened": False, "vice.shut": True, "vice.loaded": False},
        )
        simulation.signal("vice.open", True)
        simulation.step(250)
        # Half the way after the delay and half the travel: a quintic is symmetric.
        self.assertAlmostEqual(simulation.state.positions["slide"], 0.02, delta=5e-4)
        simulation.step(350)
        changes = {name: time for time, name, value in simulation.devices.changes if value}
        # The quintic is 1 mm from its end at s with 10 s^3 - 15 s^4 + 6 s^5 = 39/40.
        s = max(
            r.real
            for r in np.roots([6, -15, 10, 0, 0, -39 / 40])
            if abs(r.imag) < 1e-9 and r.real < 1
        )
        self.assertAlmostEqual(changes["vice.opened"], 0.05 + 0.4 * s + 0.02, delta=0.008)
        simulation.signal("vice.open", False)
        simulation.step(600)
        self.assertTrue(simulation.signals["vice.shut"])
        self.assertAlmostEqual(simulation.state.positions["slide"], 0.0, delta=1e-4)
        simulation.push("jaw", (80, 0, 0))
        simulation.step(300)
        self.assertTrue(simulation.signals["vice.loaded"])

    def test_a_motion_sets_signals_and_a_recording_keeps_them(self) -> None:
        motion = [{"hold": 0.2}, {"signals": {"vice": {"open": True}}, "hold": 0.8}]
        run = mooring.simulate(vice(), motion=motion, ground="none")
        self.assertIn((0.2, "vice.open", True), [(round(t, 3), n, v) for t, n, v in run.signals])
        folder = folder_for(self)
        run.write(folder)
        again = Recording.read(folder)
        self.assertEqual(again.signals, run.signals)
        self.assertEqual(again.signals_at(0.0), {"vice.shut": True})
        self.assertEqual(
            again.signals_at(0.9), {"vice.shut": False, "vice.open": True, "vice.opened": True}
        )
        with self.assertRaisesRegex(ModelError, "did you mean 'open'"):
            mooring.simulate(vice(), motion=[{"signals": {"vice": {"opne": True}}, "hold": 1}])

    def test_a_saved_state_has_signals_courses_and_what_waits(self) -> None:
        for steps in (10, 100, 300):
            simulation = mooring.Simulation(vice(), ground="none")
            simulation.signal("vice.open", True)
            simulation.step(steps)
            kept = simulation.save()
            file = folder_for(self) / "kept.state"
            kept.write(file)
            simulation.step(400)
            ended = simulation.native.q.tobytes(), simulation.devices.changes
            other = mooring.Simulation(vice(), ground="none")
            other.restore(type(kept).read(file))
            other.step(400)
            self.assertEqual((other.native.q.tobytes(), other.devices.changes), ended)

    def test_a_gripped_load_is_reported(self) -> None:
        scene = plant()
        scene.robot.add_device(
            "vacuum", inputs={"on": {"grip": "cup"}}, outputs={"has": {"holds": "cup"}}
        )
        simulation = mooring.Simulation(scene)
        simulation.go({"lift": "-4 mm"}, over=0.1)
        simulation.signal("vacuum.on", True)
        simulation.step(300)
        self.assertEqual(simulation.held, {"cup": "crate"})
        self.assertTrue(simulation.signals["vacuum.has"])
        simulation.signal("vacuum.on", False)
        simulation.step(20)
        self.assertFalse(simulation.signals["vacuum.has"])

    def test_signals_that_come_to_nothing_are_told(self) -> None:
        robot = vice()
        robot.motors.clear()
        self.assertEqual(
            len(
                [
                    n
                    for n in mooring.simulate(robot, seconds=0.1, ground="none").notes
                    if "comes to nothing" in n
                ]
            ),
            2,
        )
        slow = vice()
        slow.joints["slide"].limits.velocity = None
        slow.devices["vice"] = slow.devices["vice"].with_fields(
            inputs={"open": {"joints": {"slide": 0.04}}}
        )
        run = mooring.simulate(
            slow, motion=[{"signals": {"vice": {"open": True}}, "hold": 0.2}], ground="none"
        )
        self.assertIn("no travel is given, and 'slide' has no velocity limit", " ".join(run.notes))
        self.assertTrue(run.complete)
        off = mooring.Simulation(vice(), powered=False, ground="none", gravity=(0, 0, 0))
        off.signal("vice.open", True)
        off.step(300)
        self.assertEqual(off.state.positions["slide"], 0.0)
        simulation = mooring.Simulation(robot, ground="none")
        for name, value, words in (
            ("vice.opne", True, "did you mean"),
            ("vice.opened", True, "the device sets it"),
            ("vice.open", 1, "True or False"),
        ):
            with self.assertRaisesRegex(ModelError, words):
                simulation.signal(name, value)
        for entry, words in (({}, "inputs or outputs"), ({"inputs": {"a": {}}}, "moves joints"), ({"outputs": {"a": {}}}, "tells of"),
                             ({"inputs": {"a": {"joints": {"slide": 0}}}, "outputs": {"a": {"below": {"slide": 0}}}}, "an input and an output")):  # fmt: skip
            with self.assertRaisesRegex(ModelError, words):
                vice().add_device("wrong", **entry)


class Told(unittest.TestCase):
    def test_courses_pass_through_their_points(self) -> None:
        simulation = mooring.Simulation(line_tender(), posture="stowed")
        simulation.follow(
            {"slew": [(0.5, "10 deg"), (1.0, "10 deg"), (2.0, 0.0)], "telescope": [(1.0, 0.1)]}
        )
        for time, slew in ((0.5, 10.0), (0.8, 10.0), (2.0, 0.0), (2.5, 0.0)):
            simulation.step(round((time - simulation.time) * 1000))
            motor = simulation.drives["slew"].motor
            self.assertAlmostEqual(
                math.degrees(simulation.commands.position[motor]), slew, delta=0.05
            )
        self.assertAlmostEqual(simulation.state.positions["telescope"], 0.1, delta=2e-3)
        self.assertEqual(simulation.courses.on, {})

    def test_postures_loops_and_limits_of_speed(self) -> None:
        simulation = mooring.Simulation(line_tender(), posture="stowed")
        simulation.go("over_ship")
        fastest = dict.fromkeys(simulation.driven, 0.0)
        for _ in range(120):
            simulation.step(100)
            speeds = simulation.state.velocities
            fastest = {joint: max(f, abs(speeds[joint])) for joint, f in fastest.items()}
        for joint, speed in fastest.items():
            self.assertLess(speed, 1.02 * simulation.drives[joint].limits["velocity"][1], joint)
        self.assertAlmostEqual(math.degrees(simulation.state.positions["luff"]), 18.0, delta=0.3)
        for goal, words in (("over_shop", "did you mean"), ({"luff": 0.1}, "no motor drives")):
            with self.assertRaisesRegex(ModelError, words):
                simulation.go(goal)
        with self.assertRaisesRegex(ModelError, "greater than zero"):
            simulation.go("stowed", over=-1)

    def test_what_is_relaxed_gives_nothing_and_falls_like_free(self) -> None:
        for stepper in ("robust", "accurate"):
            robot = Robot("arm")
            robot.add_link("post")
            robot.add_link("bob", mass=2, centre=(0.5, 0, 0), inertia=(0.01, 0.01, 0.01))
            robot.add_joint("swing", "continuous", parent="post", child="bob", axis="-y")
            robot.add_motor("drive", joint="swing", p=1e4, d=300)
            simulation = mooring.Simulation(robot, ground="none", stepper=stepper)
            simulation.step(200)
            held = simulation.state
            self.assertAlmostEqual(held.efforts["swing"], 2 * 9.80665 * 0.5, delta=0.02)
            simulation.relax()
            simulation.step(300)
            free = mooring.Simulation(
                robot,
                powered=False,
                ground="none",
                stepper=stepper,
                posture=held.positions,
                velocities=held.velocities,
            )
            free.step(300)
            self.assertAlmostEqual(
                simulation.state.positions["swing"], free.state.positions["swing"], places=6
            )
            self.assertEqual(simulation.state.efforts["swing"], 0.0)
            simulation.hold("swing")
            simulation.step(500)
            self.assertLess(abs(simulation.state.velocities["swing"]), 1e-3)
            simulation.follow_motion("swing")
            simulation.step(1500)
            self.assertAlmostEqual(simulation.state.positions["swing"], 0.0, delta=2e-3)
