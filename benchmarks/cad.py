"""Reading and understanding CAD files."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from benchmarks.timing import best_of
from mooring.cad import read_cad
from mooring.cad.proposing import propose
from mooring.cad.sampling import Sampling
from mooring.cad.step import read_step
from mooring.demo import LINE_TENDER
from mooring.demo.drum_cart.make_cad import drum_cart
from mooring.demo.line_tender.make_cad import line_tender
from mooring.demo.step_writer import Group, write_step
from mooring.demo.walker.make_cad import leg


def reading() -> None:
    """A second reading against the first."""
    fresh = best_of(lambda: read_step(LINE_TENDER.step, Sampling()), 1)
    again = best_of(lambda: read_cad(LINE_TENDER.step))
    print(f"reading the line tender's STEP file again: {fresh / again:.0f} times faster")


def a_quay_full() -> None:
    """Four tenders, two carts and a leg in one file, against one tender."""
    quay, tender, cart = Group("quay"), line_tender(), drum_cart()
    for number in range(4):
        quay.place(tender, (4000 * number, 0, 0), name=f"tender_{number}")
    for number in range(2):
        quay.place(cart, (1500 * number, 2500, 0), name=f"cart_{number}")
    quay.place(leg(), (0, -3000, 500))
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "quay.step"
        write_step(quay, file)
        small, whole = read_step(LINE_TENDER.step, Sampling()), read_step(file, Sampling())
        for what, call in (
            ("read", lambda a: read_step(file if a is whole else LINE_TENDER.step, Sampling())),
            ("searched for contacts", lambda a: a.touching()),
            ("drafted", propose),
        ):
            spent = []
            call(small)  # kernels are loaded and caches filled once
            for assembly in (small, whole):
                began = time.perf_counter()
                call(assembly)
                spent.append(time.perf_counter() - began)
            print(
                f"{len(whole.parts)} parts of {len(whole.kinds())} kinds {what}: "
                f"{spent[1]:.1f} s, {spent[1] / spent[0]:.1f} of the tender's {len(small.parts)}"
            )
