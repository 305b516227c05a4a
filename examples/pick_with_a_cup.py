"""A suction cup takes a crate from a running belt, over rubber pads, and lets it go.

Run it: python examples/pick_with_a_cup.py
"""

import mooring

robot = mooring.Robot("picker")
robot.add_link("post")
robot.add_link("arm", mass=1, inertia=(0.01, 0.01, 0.01), collision={"box": (0.06, 0.06, 0.1)})
robot.add_joint("lift", "prismatic", parent="post", child="arm", at=(0.6, 0, 0.39), axis="z",
                velocity="1 m/s", acceleration="4 m/s^2", effort=400)  # fmt: skip
robot.add_motor("hoist", joint="lift", p=3e4, d=1500, feed_forward="gravity")
robot.add_frame("tip", link="arm", at={"xyz": (0, 0, -0.05), "rpy": (3.14159265, 0, 0)})
robot.add_grip("cup", frame="tip", force="60 N", shear="25 N", reach="1 mm")

line = mooring.Scene("line", ground=mooring.Ground())
line.robot.add_material("rubber", density=1100, friction=0.9,
                        give={"stiffness": "50 kN/m", "damping": "300 N*s/m"})  # fmt: skip
line.add_robot(robot)
line.add_obstacle("bed", box=(2, 0.4, 0.1), at=(0, 0, 0.05), material="rubber")
line.add_body("crate", box=(0.2, 0.2, 0.2), mass="2 kg", at=(0.1, 0, 0.2))
line.robot.add_conveyor("belt", link="bed", direction="x", speed="0.25 m/s")

motion: list[dict[str, object]] = [
    {"hold": "2.2 s"},
    {"conveyors": {"belt": 0.0}, "hold": "0.3 s"},
    {"joints": {"lift": "-39 mm"}, "over": "0.5 s"},
    {"grip": "cup", "joints": {"lift": "-40.5 mm"}, "over": "0.4 s"},
    {"joints": {"lift": "200 mm"}},
]
simulation = mooring.Simulation(line, motion=motion)
simulation.step(seconds=simulation.plan.seconds + 0.5)
print(f"the cup holds {simulation.grips.held['cup'] or 'nothing'}, "
      f"{simulation.state.positions['crate.z']:.2f} m up")  # fmt: skip
assert simulation.grips.held["cup"] == "crate"
simulation.grip("cup", False)
simulation.step(seconds=1)
assert simulation.state.positions["crate.z"] < 0.21
