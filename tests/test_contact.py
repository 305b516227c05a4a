"""Contact against closed forms: slopes, rolling, impacts, stacks, ground that is not level."""

import unittest

import numpy as np
from scipy.spatial.transform import Rotation

from mooring import Robot, Scene, Simulation, simulate
from mooring.dynamics import STANDARD_GRAVITY as G
from mooring.model.scene import Ground


def scene(ground: bool = False, friction: float = 0.6, **more: object) -> Scene:
    """An empty scene with a material called "stuff"."""
    made = Scene("scene", ground=Ground() if ground else None)
    made.robot.add_material("stuff", density=1000, friction=friction, **more)  # type: ignore[arg-type]
    if made.ground is not None:
        made.ground.material = "stuff"
    return made


def slope(angle: float, friction: float) -> tuple[Scene, np.ndarray]:
    """A ramp that falls along x, and its normal; its surface is 0.1 m from the origin."""
    made = scene(friction=friction)
    made.add_obstacle("ramp", box=(10, 3, 0.2), at={"rpy": (0, angle, 0)}, material="stuff")
    return made, np.array([np.sin(angle), 0, np.cos(angle)])


def way(run: object, name: str) -> np.ndarray:
    """How far something has come from where it began."""
    table = run.table  # type: ignore[attr-defined]
    places = table[[f"{name}.{k}" for k in "xyz"]].to_numpy()
    return np.linalg.norm(places - places[0], axis=1)


class Slopes(unittest.TestCase):
    def test_a_block_holds_below_the_friction_angle_and_slides_above_as_coulomb_says(self) -> None:
        friction = 0.4
        for share in (0.99, 1.01, 1.5):
            angle = share * np.arctan(friction)
            # Across the ramp's axes as well: the cone is round.
            for turned in (0.0, np.pi / 5):
                made, normal = slope(angle, friction)
                turn = Rotation.from_rotvec(turned * normal) * Rotation.from_euler("y", angle)
                made.add_body(
                    "block", mass=5, box=(0.3, 0.2, 0.1), material="stuff",
                    at={"xyz": normal * 0.15, "rpy": turn.as_euler("xyz")},
                )  # fmt: skip
                gone = way(simulate(made, seconds=0.5), "block")[-1]
                rate = G * (np.sin(angle) - friction * np.cos(angle))
                expected = max(0.0, rate) * 0.5**2 / 2
                self.assertAlmostEqual(gone, expected, delta=1e-5 + 0.01 * expected)

    def test_balls_and_cylinders_roll_at_the_textbooks_rates(self) -> None:
        angle = np.radians(12)
        for shape, share in (
            ({"sphere": 0.1}, 5 / 7),
            ({"cylinder": {"radius": 0.1, "length": 0.12}}, 2 / 3),
        ):
            made, normal = slope(angle, 0.7)
            turn = {"xyz": normal * 0.2, "rpy": (np.pi / 2, 0, 0)}
            made.add_body("roller", mass=2, at=turn, material="stuff", **shape)
            run = simulate(made, seconds=1)
            rate = 2 * np.polyfit(run.table.index[10:], way(run, "roller")[10:], 2)[0]
            self.assertAlmostEqual(rate / (share * G * np.sin(angle)), 1, delta=0.005)

    def test_rolling_and_spinning_friction_brake_by_their_levers(self) -> None:
        radius, lever = 0.1, 2e-3
        for start, column, rate in (
            ({"ball.vx": 1.0, "ball.wy": 10.0}, "ball.wy", -5 / 7 * G * lever / radius**2),
            ({"ball.wz": 10.0}, "ball.wz", -G * lever / (0.4 * radius**2)),
        ):
            made = scene(ground=True, rolling_friction=lever, spinning_friction=lever)
            made.add_body("ball", mass=2, sphere=radius, at=(0, 0, radius), material="stuff")
            table = simulate(made, seconds=0.5, velocities=start).table
            # What rolls turns its own axes; y stays where it is.
            found = (table[column].loc[0.4] - table[column].loc[0.1]) / 0.3
            self.assertAlmostEqual(found / rate, 1, delta=0.01)

    def test_a_capsule_meets_a_ball_and_uneven_ground_is_as_good_as_a_ramp(self) -> None:
        angle = np.radians(10)
        fall = np.tan(angle)
        heights = [[-fall * (0.1 * i - 0.5)] * 11 for i in range(31)]
        made = Scene("land", ground=Ground(heights=heights, cell=0.1, corner=(-0.5, -0.5)))
        made.robot.add_material("stuff", density=1000, friction=0.8)
        made.ground.material = "stuff"  # type: ignore[union-attr]
        normal = np.array([np.sin(angle), 0, np.cos(angle)])
        made.add_body("ball", mass=2, sphere=0.1, at=normal * 0.1, material="stuff")
        made.add_body("block", mass=2, box=(0.2, 0.2, 0.1), material="stuff",
                      at={"xyz": normal * 0.05 + (0, 0.35, 0), "rpy": (0, angle, 0)})  # fmt: skip
        run = simulate(made, seconds=0.6)
        rate = 2 * np.polyfit(run.table.index[5:], way(run, "ball")[5:], 2)[0]
        self.assertAlmostEqual(rate / (5 / 7 * G * np.sin(angle)), 1, delta=0.01)
        self.assertLess(way(run, "block")[-1], 1e-4)

    def test_what_lands_on_rough_ground_comes_to_rest_on_it(self) -> None:
        heights = np.random.default_rng(0).uniform(0, 0.05, (22, 22)).tolist()
        ground = Ground(heights=heights, cell=0.2, corner=(-2.1, -2.1))
        made = Scene("rough", ground=ground)
        made.add_body("crate", mass=5, box=(0.5, 0.4, 0.2), at=(0, 0, 0.3))
        made.add_body("drum", mass=5, cylinder={"radius": 0.1, "length": 0.3}, at=(0.5, 0.5, 0.3))
        run = simulate(made, seconds=2)
        self.assertLess(abs(run.table["crate.vz"].iloc[-1]), 1e-4)
        self.assertGreater(run.contacts["gap"].min(), -3e-3)
        weight = run.contacts.groupby("time")["fz"].sum().iloc[-1]
        self.assertAlmostEqual(weight, 10 * G, delta=1.0)


class Impacts(unittest.TestCase):
    def test_a_ball_bounces_to_the_square_of_its_restitution(self) -> None:
        made = scene(ground=True, restitution=0.8)
        made.add_body("ball", mass=1, sphere=0.05, at=(0, 0, 1.05), material="stuff")
        run = simulate(made, seconds=2, rate=1000)
        z = run.table["ball.z"].to_numpy() - 0.05
        tops = np.flatnonzero((z[1:-1] >= z[:-2]) & (z[1:-1] > z[2:])) + 1
        for number, top in enumerate(tops[:3], start=1):
            self.assertAlmostEqual(z[top] / 0.8 ** (2 * number), 1, delta=0.01)

    def test_two_bodies_part_as_newton_says_and_the_loss_is_booked(self) -> None:
        made = scene(restitution=0.5)
        made.add_body("heavy", mass=3, sphere=0.1, at=(0, 0, 0), material="stuff")
        made.add_body("light", mass=1, sphere=0.1, at=(0.4, 0, 0), material="stuff")
        run = simulate(made, seconds=1, velocities={"heavy.vx": 1.0}, gravity=(0, 0, 0))
        last = run.table.iloc[-1]
        self.assertAlmostEqual(last["heavy.vx"], (3 - 0.5) / 4, places=6)
        self.assertAlmostEqual(last["light.vx"], 3 * 1.5 / 4, places=6)
        kinetic = run.table["energy.kinetic"]
        self.assertAlmostEqual(last["energy.contact"], kinetic.iloc[0] - kinetic.iloc[-1], places=6)

    def test_a_locked_wheel_brakes_by_friction_and_a_free_one_rolls_on(self) -> None:
        for locked, rate in ((True, -0.6 * G), (False, 0.0)):
            made = scene(ground=True)
            cart = Robot("cart")
            cart.base = "floating"
            cart.add_link("frame", mass=8, inertia=(0.2, 0.2, 0.2))
            for name, x, y in (
                ("a", 0.2, 0.2),
                ("b", 0.2, -0.2),
                ("c", -0.2, 0.2),
                ("d", -0.2, -0.2),
            ):
                cart.add_link(name, mass=0.5, inertia=(1e-3, 2e-3, 1e-3),
                              collision={"cylinder": {"radius": "80 mm", "length": "30 mm"},
                                         "at": {"rpy": (np.pi / 2, 0, 0)}})  # fmt: skip
                kind = "fixed" if locked else "continuous"
                at = (x, y, 0)
                cart.add_joint(f"{name}_axle", kind, parent="frame", child=name, at=at, axis="y")
            made.add_robot(cart, at=(0, 0, 0.08))
            speeds = {"base.vx": 2.0}
            if not locked:
                speeds |= {f"{name}_axle": 2.0 / 0.08 for name in "abcd"}
            run = simulate(made, seconds=0.25, velocities=speeds)
            v = run.table["base.vx"]
            self.assertAlmostEqual((v.loc[0.2] - v.loc[0.1]) / 0.1, rate, delta=0.06)


class Standing(unittest.TestCase):
    def test_a_stack_of_five_boxes_stands_for_a_minute(self) -> None:
        made = scene(ground=True)
        for k in range(5):
            made.add_body(
                f"box_{k}", mass=10, box=(0.3, 0.3, 0.2), at=(0.004 * k, 0, 0.1 + 0.2 * k)
            )
        run = simulate(made, seconds=60, rate=10)
        for k in range(5):
            settled = run.table[[f"box_{k}.{c}" for c in "xyz"]]
            moved = np.abs(settled.iloc[-1] - settled.iloc[20]).max()
            self.assertLess(moved, 1e-5, k)
        last = run.contacts[run.contacts["time"] == run.table.index[-1]]
        on_ground = last[last["first"] == "ground"]["fz"].sum()
        self.assertAlmostEqual(on_ground, 50 * G, delta=0.01)

    def test_an_even_slide_is_exact_whatever_the_step(self) -> None:
        for step in (2e-3, 1e-3):
            made, normal = slope(np.radians(30), 0.3)
            made.add_body("block", mass=5, box=(0.3, 0.2, 0.1), material="stuff",
                          at={"xyz": normal * 0.15, "rpy": (0, np.radians(30), 0)})  # fmt: skip
            rate = G * (np.sin(np.radians(30)) - 0.3 * np.cos(np.radians(30)))
            gone = way(simulate(made, seconds=1, step=step), "block")[-1]
            self.assertAlmostEqual(gone, rate / 2, delta=1e-5)

    def test_what_spins_freely_keeps_its_momentum(self) -> None:
        made = Scene("space", gravity=(0, 0, 0))
        made.robot.add_link("stone", mass=2, inertia=(0.01, 0.02, 0.03))
        made.robot.add_joint("stone", "floating", parent="world", child="stone")
        spin = {"stone.wx": 0.1, "stone.wy": 10, "stone.wz": 0.05, "stone.vx": 2.0}
        run = simulate(made, seconds=5, velocities=spin)
        tensor = made.robot.inertia("stone", np.eye(4)).tensor  # type: ignore[union-attr]
        turns = Rotation.from_quat(run.table[[f"stone.q{k}" for k in "xyzw"]].to_numpy(copy=True))
        rates = run.table[[f"stone.w{k}" for k in "xyz"]].to_numpy(copy=True)
        momentum = turns.apply(rates @ tensor)
        self.assertLess(float(np.ptp(momentum, axis=0).max()), 1e-9)
        # It flips about its middle axis all the same.
        self.assertLess(rates[:, 1].min(), -9)
        energy = run.table["energy.kinetic"]
        self.assertLess(float(np.ptp(energy)), 0.03 * energy.iloc[0])

    def test_links_hit_each_other_unless_they_are_allowed_to(self) -> None:
        for allowed in (False, True):
            robot = Robot("shears")
            robot.add_link("post")
            for name, side in (("left", 1), ("right", -1)):
                robot.add_link(name, mass=1, centre=(0.5, 0, 0), inertia=(0.01, 0.1, 0.1),
                               collision={"capsule": {"radius": 0.05, "length": 0.8},
                                          "at": {"xyz": (0.5, 0, 0), "rpy": (0, np.pi / 2, 0)}})  # fmt: skip
                place = {"xyz": (0, 0.1 * side, 0), "rpy": (0, 0, 0.5 * side)}
                robot.add_joint(name, "continuous", parent="post", child=name, at=place)
            if allowed:
                robot.allow_overlap("left", "right", "they pass")
            run = simulate(robot, seconds=0.5, velocities={"left": -2.0, "right": 2.0},
                           gravity=(0, 0, 0))  # fmt: skip
            met = run.table["left.velocity"].iloc[-1]
            self.assertEqual(abs(met) < 0.1, not allowed)
            self.assertEqual(len(run.contacts) > 0, not allowed)


class ByHand(unittest.TestCase):
    def test_pushing_commanding_attaching_and_going_back(self) -> None:
        made = scene(ground=True, friction=0.5)
        made.add_body("crate", mass=10, box=(0.4, 0.4, 0.4), at=(0, 0, 0.2), material="stuff")
        made.add_obstacle("hook", box=(0.1, 0.1, 0.1), at=(0, 0, 1.0))
        simulation = Simulation(made)
        simulation.step(seconds=0.2)
        simulation.push("crate", (0.5 * 10 * G + 20, 0, 0))
        simulation.step(seconds=0.5)
        self.assertAlmostEqual(simulation.state.velocities["crate.vx"], 2 * 0.5, delta=5e-3)
        simulation.push("crate")
        simulation.attach("hook", "crate")
        held = simulation.pose("crate")
        simulation.step(seconds=0.3)
        np.testing.assert_allclose(simulation.pose("crate"), held, atol=2e-3)
        simulation.reset()
        self.assertEqual(simulation.state.time, 0.0)
        self.assertEqual(simulation.state.positions["crate.x"], 0.0)
