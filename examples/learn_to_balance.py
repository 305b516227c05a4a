"""Learn to balance a pole on a sled in less than a minute, over many copies at once.

A linear policy is bettered by evolution: each copy tries its own, and the better ones count more.

Run it: python examples/learn_to_balance.py
"""

import time

import numpy as np

import mooring
from mooring.bridge.environments import Environments, Seen, Task

sled = mooring.Robot("signal_mast")
sled.add_link("rail")
sled.add_link("sled", mass="3 kg", inertia=(0.02, 0.02, 0.02))
sled.add_link("mast", mass="0.4 kg", centre=(0, 0, 0.5), inertia=(0.033, 0.033, 1e-4))
sled.add_joint("slide", "prismatic", parent="rail", child="sled", axis="x", lower=-2, upper=2,
               effort="30 N", damping=0.5)  # fmt: skip
sled.add_joint("tilt", "continuous", parent="sled", child="mast", axis="y", damping=0.002)
sled.add_motor("drive", joint="slide", mode="effort")


def reward(seen: Seen, actions: np.ndarray) -> np.ndarray:
    """Upright, in the middle, without much effort."""
    return (
        np.cos(seen["tilt.position"])
        - 0.1 * seen["slide.position"] ** 2
        - 1e-4 * actions[:, 0] ** 2
    )


def fallen(seen: Seen) -> np.ndarray:
    """The mast has tipped, or the sled is at its end."""
    return (np.abs(seen["tilt.position"]) > 0.5) | (np.abs(seen["slide.position"]) > 1.9)


task = Task(
    ["slide.position", "slide.velocity", "tilt.position", "tilt.velocity"],
    {"slide.effort": None}, reward, fallen, rate="50 Hz", seconds=6,
    start={"tilt.position": (-0.15, 0.15)},
)  # fmt: skip
COPIES, STEPS = 64, 300
environments = Environments(sled, task, COPIES)
random = np.random.default_rng(5)
policy, spread = np.zeros(4), 15.0

began = time.perf_counter()
for generation in range(14):
    tried = policy + spread * random.standard_normal((COPIES, 4))
    seen, _facts = environments.reset(seed=generation)
    total, alive = np.zeros(COPIES), np.ones(COPIES, dtype=bool)
    for _ in range(STEPS):
        seen, rewards, ended, cut, _facts = environments.step(np.sum(tried * seen, axis=1)[:, None])
        total += rewards * alive
        alive &= ~(ended | cut)
        if not alive.any():
            break
    best = np.argsort(total)[-COPIES // 4 :]
    policy, spread = tried[best].mean(axis=0), 0.88 * spread
    if generation % 4 == 0:
        print(f"generation {generation:2}: {total[best].mean():6.1f} of {STEPS}")
print(f"learnt in {time.perf_counter() - began:.0f} s: {policy.round(1)}")

# What was learnt, from starts that were not tried.
seen, _facts = environments.reset(seed=99)
stands = np.ones(COPIES, dtype=bool)
for _ in range(STEPS - 1):
    seen, _rewards, ended, _cut, _facts = environments.step((seen @ policy)[:, None])
    stands &= ~ended
print(f"{stands.sum()} of {COPIES} stand for {STEPS / 50:.0f} s")
assert stands.mean() > 0.9
