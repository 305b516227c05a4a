"""Scenes: robots, obstacles and free bodies on their ground."""

from mooring.model.scene.scene import WORLD, Scene, describe_settings, lifted
from mooring.model.scene.settings import LONGEST_STEP, SHORTEST_STEP, Ground, SceneSettings

__all__ = [
    "LONGEST_STEP",
    "SHORTEST_STEP",
    "WORLD",
    "Ground",
    "Scene",
    "SceneSettings",
    "describe_settings",
    "lifted",
]
