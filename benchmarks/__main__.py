"""`make bench` or `python -m benchmarks`: what is fast and what is not, as ratios."""

from benchmarks.against_c import forward_dynamics_against_c
from benchmarks.bridge import copies, lock_step, soak
from benchmarks.cad import a_quay_full, reading
from benchmarks.many import calls, growing
from benchmarks.mechanics import (
    dynamics_per_joint,
    kinematics_of_an_arm,
    overlaps,
    poses_against_the_mass_matrix,
    simulation,
)
from benchmarks.page import frames, stalls
from benchmarks.pictures import rendering
from benchmarks.stepping import first_and_later_runs, memory, walking

if __name__ == "__main__":
    for measure in (
        forward_dynamics_against_c,
        dynamics_per_joint,
        poses_against_the_mass_matrix,
        kinematics_of_an_arm,
        overlaps,
        simulation,
        walking,
        growing,
        calls,
        memory,
        first_and_later_runs,
        reading,
        a_quay_full,
        rendering,
        frames,
        stalls,
        lock_step,
        copies,
        soak,
    ):
        measure()
