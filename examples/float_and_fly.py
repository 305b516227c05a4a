"""Forces with a law: a pontoon in water, and a lifter on two rotors; and one by a function.

Run it: python examples/float_and_fly.py
"""

import math

import mooring

basin = mooring.Scene("basin")
basin.add_body("pontoon", box=(1.2, 0.8, 0.4), mass="150 kg", at=(0, 0, 0.3))
basin.robot.add_force("water", "buoyancy", link="pontoon", level="0 m")
basin.robot.add_force("drag", "drag", link="pontoon", linear=400, turning=60)


def gust(simulation: mooring.Simulation) -> None:
    """A wind that comes and goes, renewed a hundred times a second."""
    simulation.push("pontoon", force=(60 * math.sin(simulation.time), 0, 0))


run = mooring.simulate(basin, seconds=10, controllers=[(gust, "100 Hz")])
depth = 0.2 - run.table["pontoon.z"].iloc[-1]
print(f"it lies {depth:.3f} m deep, as {150 / 1025 / 1.2 / 0.8:.3f} m of water weigh")
assert abs(depth - 150 / 1025 / 1.2 / 0.8) < 0.01

lifter = mooring.Robot("lifter")
lifter.base = "floating"
lifter.add_link("hull", mass=1.8, inertia=(0.02, 0.02, 0.04))
for side, y in (("left", 0.2), ("right", -0.2)):
    lifter.add_link(f"{side}_prop", mass=0.1, inertia=(1e-4, 1e-4, 1e-4))
    lifter.add_joint(side, "continuous", parent="hull", child=f"{side}_prop", at=(0, y, 0.1))
    lifter.add_frame(f"{side}_hub", link="hull", at=(0, y, 0.1))
    lifter.add_motor(side, joint=side, mode="velocity", d=0.05)
    lifter.add_force(f"{side}_thrust", "rotor", frame=f"{side}_hub", joint=side, thrust=1e-4)
climb = [{"speeds": {"left": 330.0, "right": 330.0}, "ramp": "0.3 s"}]
run = mooring.simulate(lifter, motion=climb, seconds=3, ground="none")
print(f"it climbs at {run.table['base.vz'].iloc[-1]:.2f} m/s after 3 s")
