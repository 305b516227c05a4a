"""Find what is wrong with a description, and mend it."""

import tempfile
from pathlib import Path

import mooring

BROKEN = """\
mooring: 1
name: gangway
links:
  quay: {}
  gangway: {mass: 180 kg, centre: [3 m, 0, 0], inertia: [12, 540, 548]}
  handrail: {mass: 22 kg, centre: [3 m, 0, 1 m], inertia: [4.5, 66, 70]}
joints:
  hinge:
    type: revolute
    parent: quay
    child: gangway
    axis: -y
    limits: {lower: -20, upper: 30 deg}
  rail_mount: {type: fixed, parent: gangwy, child: handrail}
"""

with tempfile.TemporaryDirectory() as folder:
    document = Path(folder) / "gangway.yaml"

    # The lower limit lacks its unit, and one joint hangs on a link that is not there.
    document.write_text(BROKEN)
    report = mooring.check(mooring.read(document))
    print(report)
    assert report.codes() == {"missing-link", "limits-unlikely"}

    # Each finding has its line and a remedy; with both followed nothing is left.
    document.write_text(
        BROKEN.replace("lower: -20,", "lower: -20 deg,").replace("gangwy", "gangway")
    )
    gangway = mooring.read(document)
    report = mooring.check(gangway)
    print(report)
    assert not report.findings

    # What the hinge has to hold when the gangway is level.
    tree = gangway.tree()
    (torque,) = mooring.dynamics.inverse_dynamics(tree, [0.0], [0.0], [0.0])
    print(f"the hinge holds {torque / 1000:.2f} kN*m")
    assert abs(torque - (180 + 22) * 3 * 9.80665) < 1e-6
