"""A rope over a sheave on a drum: it pulls, goes slack, and never pushes. A belt drives the drum.

Run it: python examples/hoist_by_rope.py
"""

import mooring

crane = mooring.Robot("crane")
crane.add_link("mast")
for name in ("pulley", "drum"):
    crane.add_link(name, mass=2, inertia=(0.02, 0.02, 0.02))
crane.add_link("load", mass="15 kg", inertia=(0.1, 0.1, 0.1))
crane.add_joint("shaft", "continuous", parent="mast", child="pulley", at=(1, 0, 0), axis="y")
crane.add_joint("wind", "continuous", parent="mast", child="drum", at=(0.5, 0, 0), axis="y")
crane.add_joint("hoist", "prismatic", parent="mast", child="load", at=(0, 0, 1), axis="z", lower=0)
crane.add_frame("sheave", link="mast", at=(0, 0, 3))
crane.add_frame("hook", link="load", at=(0, 0, 0.2))
crane.add_cable("belt", winds={"shaft": "40 mm", "wind": "-120 mm"}, both_ways=True)
crane.add_cable("rope", through=("hook", "sheave"), winds={"wind": "80 mm"}, stiffness="80 kN/m",
                damping="400 N*s/m")  # fmt: skip
crane.add_motor("drive", joint="shaft", mode="velocity", d=5)

up_and_down = [{"speeds": {"shaft": 15.0}, "ramp": 0.5, "over": 3},
               {"speeds": {"shaft": -15.0}, "ramp": 0.5, "over": 4}]  # fmt: skip
run = mooring.simulate(crane, motion=up_and_down)
height = run.table["hoist.position"]
print(f"the load went {height.max():.2f} m up and stands at {height.iloc[-1]:.3f} m again")
assert height.max() > 1.0
assert height.iloc[-1] < 0.01
