"""Mooring turns CAD parts into a robot that moves.

Everything a script needs is here, loaded when first used, so that importing Mooring is quick.
"""

from __future__ import annotations

import logging
from importlib import import_module
from typing import TYPE_CHECKING, Any

from mooring import outlet
from mooring.version import VERSION

if TYPE_CHECKING:
    from pathlib import Path

    from mooring import demo, dynamics, kinematics
    from mooring.bridge.connection import connect
    from mooring.cad import Assembly, read_cad
    from mooring.checks import check
    from mooring.drawing import picture
    from mooring.errors import MooringError
    from mooring.exercising import exercise
    from mooring.formats import read, read_scene
    from mooring.formats.document import DocumentEditor
    from mooring.formats.urdf import UrdfEditor
    from mooring.model import Robot
    from mooring.model.comparing import differences
    from mooring.model.definition.variants import register
    from mooring.model.scene import Ground, Scene
    from mooring.simulation import Recording, Simulation, simulate

__version__ = VERSION
logging.getLogger("mooring").addHandler(logging.NullHandler())

_HOMES = {
    "Assembly": "mooring.cad",
    "DocumentEditor": "mooring.formats.document",
    "UrdfEditor": "mooring.formats.urdf",
    "Ground": "mooring.model.scene",
    "MooringError": "mooring.errors",
    "Recording": "mooring.simulation",
    "Robot": "mooring.model",
    "Scene": "mooring.model.scene",
    "Simulation": "mooring.simulation",
    "check": "mooring.checks",
    "connect": "mooring.bridge.connection",
    "demo": "",
    "differences": "mooring.model.comparing",
    "dynamics": "",
    "exercise": "mooring.exercising",
    "kinematics": "",
    "picture": "mooring.drawing",
    "read": "mooring.formats",
    "read_cad": "mooring.cad",
    "read_scene": "mooring.formats",
    "register": "mooring.model.definition.variants",
    "simulate": "mooring.simulation",
}

__all__ = [
    "Assembly",
    "DocumentEditor",
    "Ground",
    "MooringError",
    "Recording",
    "Robot",
    "Scene",
    "Simulation",
    "UrdfEditor",
    "check",
    "connect",
    "demo",
    "differences",
    "dynamics",
    "exercise",
    "kinematics",
    "picture",
    "read",
    "read_cad",
    "read_scene",
    "register",
    "simulate",
]


def _write(robot: Robot, file: Path, posture: outlet.Posture, copy_meshes: bool) -> list[str]:
    from mooring.formats import write

    return write(robot, file, posture, copy_meshes)


def _cell(thing: object) -> str | None:
    from mooring.notebook import cell

    return cell(thing)


def _view(robot: Robot, **how: Any) -> outlet.View:
    from mooring.notebook.view import view

    return view(robot, **how)


def _advance(done: float, total: float) -> None:
    from mooring.notebook.bar import advance

    advance(done, total)


outlet.provide(outlet.Doors(_write, _cell, _view, _advance))


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module 'mooring' has no attribute {name!r}")
    home = _HOMES[name]
    value = getattr(import_module(home), name) if home else import_module(f"mooring.{name}")
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    # What is loaded when first used is there from the start.
    return [*__all__, "__doc__", "__version__"]
