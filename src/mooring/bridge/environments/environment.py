"""`Environment`: a scene to learn in."""

from __future__ import annotations

from typing import Any

import numpy as np
from gymnasium import Env

from mooring.bridge.environments.environments import Environments, Task
from mooring.geometry import Array
from mooring.model import Robot
from mooring.model.scene import Scene


class Environment(Env[Array, Array]):
    """A scene as an environment of Gymnasium; `Environments` is many of it, much faster.

    Attributes:
        task: what is to be learnt.
        observation_names, action_names: of the columns of observations and actions.
    """

    metadata: dict[str, Any] = {"render_modes": []}  # noqa: RUF012

    def __init__(self, what: Robot | Scene, task: Task, **options: Any) -> None:
        """Set everything up; see `Environments`."""
        self._one = Environments(what, task, 1, **options)
        self.task = task
        self.observation_names = self._one.observation_names
        self.action_names = self._one.action_names
        self.observation_space = self._one.single_observation_space
        self.action_space = self._one.single_action_space

    def reset(
        self, *, seed: int | None = None, options: dict[str, Any] | None = None
    ) -> tuple[Array, dict[str, Any]]:
        """Begin."""
        super().reset(seed=seed)
        observations, infos = self._one.reset(seed=seed, options=options)
        return observations[0].copy(), infos

    def step(self, action: Array) -> tuple[Array, float, bool, bool, dict[str, Any]]:
        """Go on by one period."""
        seen, rewards, ended, cut, infos = self._one.step(np.asarray(action)[None])
        return seen[0].copy(), float(rewards[0]), bool(ended[0]), bool(cut[0]), infos
