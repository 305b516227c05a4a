"""`Environments`: many copies of a scene to learn in, stepped together in compiled code."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from gymnasium import spaces
from gymnasium.vector import AutoresetMode, VectorEnv
from gymnasium.vector.utils import batch_space
from numpy.typing import NDArray

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import Array
from mooring.kinematics.loops import close_loops
from mooring.model import Robot
from mooring.model.scene import Scene
from mooring.simulation.batch import Batch
from mooring.simulation.simulation import Simulation
from mooring.units import to_si

_ACCURACY = 1e-3
"""Of contacts [m/s]; finer ones cost more than learning gains."""
Bounds = tuple[float, float]


class Seen(Mapping[str, Array]):
    """What is observed, by name: an array with an entry for each copy."""

    def __init__(self, names: Sequence[str], values: Array, times: Array) -> None:
        """Of values (count, names).

        Attributes:
            times: since each began, (count,) [s].
        """
        self._columns = {name: k for k, name in enumerate(names)}
        self._values = values
        self.times = times

    def __getitem__(self, name: str) -> Array:
        if name not in self._columns:
            hint = did_you_mean(name, list(self._columns))
            raise KeyError(f"{name!r} is not observed{hint}")
        return self._values[:, self._columns[name]]

    def __iter__(self) -> Any:
        return iter(self._columns)

    def __len__(self) -> int:
        return len(self._columns)


Reward = Callable[[Seen, Array], Array]
"""What a step was worth, (count,), from what is seen after it and the actions (count, k)."""
Ends = Callable[[Seen], NDArray[np.bool_]]
"""Which have come to an end, (count,)."""


@dataclass(frozen=True)
class Task:
    """What is to be learnt in a scene.

    Attributes:
        observations: names of what is observed: `tilt.position`, `base.vx`, `hull_imu.rate.y`, ...
        actions: names of what motors are told: `left.velocity`, `arm.effort`, ..., each with its
            lowest and highest value; the joint's limits if they are None.
        reward: what a step is worth.
        ends: which have come to an end; none ever if not given.
        rate: of actions [Hz].
        seconds: after which an episode is cut off; never if None.
        start: where it begins: `tilt.position`, `tilt.velocity`, `base.z`, ...: a value, or a pair
            from which it is drawn.
    """

    observations: Sequence[str]
    actions: Mapping[str, Bounds | None]
    reward: Reward
    ends: Ends | None = None
    rate: float | str = 50.0
    seconds: float | None = None
    start: Mapping[str, float | Bounds] | None = None


class Environments(VectorEnv[Array, Array, Array]):
    """Many copies of a scene, as a vector environment of Gymnasium.

    Observations and actions are arrays whose columns `observation_names` and `action_names` name.
    A copy that ended begins anew with the step after it, whose action counts for nothing. A sensor
    that has not measured yet is 0. A motion that explodes ends its copy, and is told in
    `infos["exploded"]`.

    Attributes:
        task: what is to be learnt.
        observation_names, action_names: of columns.
        batch: the copies.

    Example:
        >>> from mooring import Robot
        >>> robot = Robot("pole")
        >>> robot.add_link("post"); robot.add_link("rod", mass=1, centre=(0, 0, 0.5),
        ...                                        inertia=(0.1, 0.1, 0.01))
        >>> robot.add_joint("tilt", "continuous", parent="post", child="rod", axis="y", effort=5)
        >>> robot.add_motor("drive", joint="tilt", mode="effort")
        >>> task = Task(["tilt.position", "tilt.velocity"], {"tilt.effort": None},
        ...             lambda seen, actions: np.cos(seen["tilt.position"]))
        >>> environments = Environments(robot, task, 4)
        >>> observations, infos = environments.reset(seed=1)
        >>> observations.shape
        (4, 2)
    """

    metadata: dict[str, Any] = {"autoreset_mode": AutoresetMode.NEXT_STEP}  # noqa: RUF012

    def __init__(
        self,
        what: Robot | Scene,
        task: Task,
        count: int,
        *,
        threads: int | None = None,
        **options: Any,
    ) -> None:
        """Set everything up.

        Args:
            what: a robot, or a scene.
            task: what is to be learnt.
            count: how many copies.
            threads: that may work on them.
            options: of the `Simulation`: posture, step, gravity, ground, ...; its accuracy is
                1e-3 m/s here if nothing else is said.

        Raises:
            ModelError: there is nothing of such a name, or a value makes no sense.
        """
        usual = {"motion": [], "keep": 0.0, "threads": 1, "rate": 1.0, "accuracy": _ACCURACY}
        options = {**usual, **options}
        simulation = Simulation(what, **options)
        self.task, self.num_envs = task, count
        self.observation_names, self.action_names = tuple(task.observations), tuple(task.actions)
        hertz, h = to_si(task.rate, "frequency"), simulation.settings.step
        if not 0 < hertz <= 1 / h * (1 + 1e-9):
            raise ModelError(f"actions cannot come {task.rate} times a second in steps of {h} s")
        self._steps = max(1, round(1 / (hertz * h)))
        self._period = self._steps * h
        self._most = np.inf if task.seconds is None else round(task.seconds / self._period)
        self.batch = Batch(
            simulation, count, self.observation_names, self.action_names, threads=threads
        )
        low, high = np.array([self._bounds(name) for name in self.action_names]).reshape(-1, 2).T
        wide = np.full(len(self.observation_names), np.inf)
        self.single_observation_space = spaces.Box(-wide, wide, dtype=np.float64)
        self.single_action_space = spaces.Box(low, high, dtype=np.float64)
        self.observation_space = batch_space(self.single_observation_space, count)
        self.action_space = batch_space(self.single_action_space, count)
        self._ages = np.zeros(count, dtype=np.int64)
        self._over = np.ones(count, dtype=bool)
        self._start = self._starts(task.start or {})
        self._random = np.random.default_rng(simulation.seed)

    def _bounds(self, name: str) -> Bounds:
        given = self.task.actions[name]
        joint, _, what = name.rpartition(".")
        low, high = given or self.batch.simulation.drive(joint).limits[what]
        if not low < high:
            raise ModelError(f"the bounds of action {name!r} are from {low} to {high}")
        return low, high

    def _starts(self, said: Mapping[str, float | Bounds]) -> list[tuple[str, Bounds]]:
        simulation = self.batch.simulation
        tree, joints = simulation.tree, simulation.robot.joints
        places = {f"{name}.position" if name in joints else name for name in tree.coordinates}
        speeds = {f"{name}.velocity" if name in joints else name for name in tree.freedoms}
        found = []
        for name, value in said.items():
            if name not in places and name not in speeds:
                hint = did_you_mean(name, [*places, *speeds])
                raise ModelError(f"nothing that can start somewhere is called {name!r}{hint}")
            low, high = value if isinstance(value, tuple) else (value, value)
            if not (np.isfinite([low, high]).all() and low <= high):
                raise ModelError(f"the start of {name!r} is from {low} to {high}")
            found.append((name, (float(low), float(high))))
        return found

    def reset(
        self, *, seed: int | list[int | None] | None = None, options: dict[str, Any] | None = None
    ) -> tuple[Array, dict[str, Any]]:
        """Let all begin, or those of the array `options["reset_mask"]`.

        Args:
            seed: of where they begin; of a list the first counts, for all.
            options: of Gymnasium.
        """
        number = seed[0] if isinstance(seed, list) else seed
        if number is not None:
            self._random = np.random.default_rng(number)
            self.batch.seed(number)
        mask = None if options is None else options.get("reset_mask")
        self._begin(np.ones(self.num_envs, dtype=bool) if mask is None else np.asarray(mask))
        return self._observed(), {}

    def _begin(self, which: NDArray[np.bool_]) -> None:
        simulation = self.batch.simulation
        tree = simulation.tree
        for member in np.flatnonzero(which):
            q, v = simulation.start_q.copy(), simulation.start_v.copy()
            joints = []
            for name, (low, high) in self._start:
                value = self._random.uniform(low, high)
                joint, _, what = name.rpartition(".")
                if name in tree.coordinates:
                    q[tree.coordinate(name)] = value
                elif name in tree.freedoms:
                    v[tree.freedom(name)] = value
                elif what == "position":
                    q[tree.coordinate(joint)] = value
                    joints.append(joint)
                else:
                    v[tree.freedom(joint)] = value
            if joints:
                q = close_loops(tree, q, joints)
            self.batch.begin(int(member), q, v)
        self._ages[which] = 0
        self._over[which] = False

    def _observed(self) -> Array:
        return np.nan_to_num(self.batch.read(), copy=False, nan=0.0)

    def step(self, actions: Array) -> tuple[Array, Array, Any, Any, dict[str, Any]]:
        """Go on by one period.

        Args:
            actions: (count, actions); beyond their bounds they are at them.

        Returns:
            Observations, rewards, which ended, which were cut off, and infos.
        """
        space = self.single_action_space
        assert isinstance(space, spaces.Box)
        told = np.clip(np.asarray(actions, dtype=float), space.low, space.high)
        begins = self._over.copy()
        goes = ~begins
        if begins.any():
            self._begin(begins)
        self.batch.tell(told, goes)
        exploded = self.batch.run(self._steps, goes)
        self._ages[goes] += 1
        observations = self._observed()
        times = np.asarray(self._ages * self._period, dtype=np.float64)
        seen = Seen(self.observation_names, observations, times)
        rewards = np.where(goes, _array("reward", self.task.reward(seen, told), self.num_envs), 0.0)
        ended = exploded & goes
        if self.task.ends is not None:
            ended |= _array("ends", self.task.ends(seen), self.num_envs).astype(bool) & goes
        cut = (self._ages >= self._most) & ~ended & goes
        self._over = ended | cut
        infos = {"exploded": exploded & goes} if exploded.any() else {}
        return observations, rewards, ended, cut, infos


def _array(what: str, values: Any, count: int) -> Array:
    found = np.asarray(values, dtype=float)
    if found.shape != (count,):
        raise ModelError(f"{what} gives an array with one entry a copy, ({count},); "
                         f"it gave {found.shape}")  # fmt: skip
    return found
