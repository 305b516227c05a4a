"""Scenes: robots, obstacles and free bodies on their ground."""

from mooring.model.scene.scene import BASE, HELD_BY, WORLD, Scene, describe_settings, lifted
from mooring.model.scene.settings import LONGEST_STEP, SHORTEST_STEP, Ground, SceneSettings

__all__ = [
    "BASE",
    "HELD_BY",
    "LONGEST_STEP",
    "SHORTEST_STEP",
    "WORLD",
    "Ground",
    "Scene",
    "SceneSettings",
    "describe_settings",
    "lifted",
]
