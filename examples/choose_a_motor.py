"""A winch with a motor as it is bought: its winding, its gear with losses and play, its heat.

Run it: python examples/choose_a_motor.py
"""

import mooring

winch = mooring.Robot("winch")
winch.add_link("frame")
winch.add_link("drum", mass="40 kg", inertia=(0.5, 0.5, 0.8))
winch.add_joint("spin", "continuous", parent="frame", child="drum", axis="z", damping=0.5)
winch.add_motor(
    "drive", joint="spin", mode="velocity", d=200, gear_ratio=25, rotor_inertia="2e-4 kg*m^2",
    winding={"torque_constant": "0.08 N*m/A", "resistance": "0.35 ohm", "voltage": "48 V",
             "largest_current": "30 A"},
    continuous_torque="0.6 N*m", efficiency=0.85, backlash="0.2 deg",
)  # fmt: skip

# Half a turn a second to and fro, written as it would stand in a document.
motion = [{"cycle": [{"speeds": {"spin": "30 rpm"}, "over": 2},
                     {"speeds": {"spin": "-30 rpm"}, "over": 2}], "times": 3}]  # fmt: skip
run = mooring.simulate(winch, motion=motion)
print(run.motor_table().T.round(3).to_string())
for finding in run.findings:
    print("found:", finding)
assert run.motor_table()["peak_current"]["spin"] < 30.01
