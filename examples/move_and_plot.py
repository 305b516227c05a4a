"""Move the line tender through its motion, and plot what its motors had to do.

Run it with a folder for what comes out: python examples/move_and_plot.py out
"""

import sys
from pathlib import Path

import mooring
from mooring.demo import LINE_TENDER
from mooring.drawing.plots import save_plots

folder = Path(sys.argv[1] if len(sys.argv) > 1 else "out")
tender = mooring.read(LINE_TENDER.document)

# The motors follow the motion of the document; the boom is raised by its cylinder through a loop.
recording = mooring.simulate(tender, motion="lay_line")
table = recording.table
print(f"{table.index[-1]:.1f} s, {len(table)} instants")
for note in (*recording.notes, *recording.diagnose()):
    print("note:", note)

# Everything is found by name.
worst = table.iloc[int(table["extension.effort"].abs().argmax())]
print(
    f"the cylinder pushes hardest at {worst.name:.2f} s: {worst['extension.effort'] / 1000:.2f} kN "
    f"of {recording.limits['extension'] / 1000:.1f}, the boom at "
    f"{worst['luff.position'] * 180 / 3.14159265:.0f} deg"
)
assert table["loops.gap"].max() < 1e-5

for path in save_plots(recording, folder, ["effort", "motion", "contacts"]):
    print("wrote", path)
