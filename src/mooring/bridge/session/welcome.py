"""What is told to whoever connects: the robot's document, joints, sensors, frames, signals."""

from __future__ import annotations

import math
import tempfile
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Any

import orjson

from mooring.errors import MooringError
from mooring.formats.resolved import write_scene_json
from mooring.model.definition.described import Described
from mooring.model.sensors import Sensor

if TYPE_CHECKING:
    from mooring.model import Robot
    from mooring.simulation.simulation import Simulation

_OWN = {"name", "kind", "rate", "link", "frame"}


def facts_of(simulation: Simulation) -> dict[str, Any]:
    """The part of a welcome that does not change."""
    robot, tree = simulation.robot, simulation.tree
    document, left_out = _document(simulation)
    return {
        "name": robot.name,
        "step": simulation.settings.step,
        "document": document,
        "left_out": left_out,
        "joints": {
            name: _joint(simulation, name) for name in tree.freedoms if name in robot.joints
        },
        "sensors": {name: _sensor(sensor) for name, sensor in robot.sensors.items()},
        "frames": list(robot.frames),
        "links": list(tree.links),
        "postures": _postures(robot),
        "inputs": simulation.devices.inputs,
        "outputs": simulation.devices.outputs,
        "grips": list(robot.grips),
        "conveyors": list(robot.conveyors),
    }


def _document(simulation: Simulation) -> tuple[dict[str, Any], list[str]]:
    with tempfile.TemporaryDirectory() as folder:
        file = Path(folder) / "robot.json"
        try:
            write_scene_json(simulation.scene, file)
            said = orjson.loads(file.read_bytes())
        except MooringError as error:
            return {}, [f"the document: {error}"]
    count = 0
    for link in said.get("links", {}).values():
        for key in ("visuals", "collisions", "collision"):
            shapes = link.get(key)
            if isinstance(shapes, list):
                kept = [shape for shape in shapes if "mesh" not in shape]
                count += len(shapes) - len(kept)
                link[key] = kept
                if not kept:
                    del link[key]
    return said, [f"{count} shapes that are meshes"] if count else []


def _joint(simulation: Simulation, name: str) -> dict[str, Any]:
    tree = simulation.tree
    row = tree.freedom(name)
    limits, joint = simulation.robot.joints[name].limits, simulation.robot.joints[name]
    modes = {motor.joint: motor.mode for motor in simulation.robot.motors.values()}
    velocity, effort = tree.joints.velocity[row], tree.joints.effort[row]
    return {
        "type": joint.type,
        "unit": "rad" if tree.motions[row] == "rotation" else "m",
        "lower": None if limits is None else _finite(limits.lower),
        "upper": None if limits is None else _finite(limits.upper),
        "velocity": _finite(velocity),
        "effort": _finite(effort),
        "driven": modes.get(name) if name in simulation.driven else None,
    }


def _finite(value: float | None) -> float | None:
    return None if value is None or not math.isfinite(value) else float(value)


def _sensor(sensor: Sensor) -> dict[str, Any]:
    values = [] if sensor.fan or sensor.view else list(sensor.columns({}))
    return {
        "type": sensor.kind_name,
        "rate": sensor.rate,
        "values": values,
        "frame": sensor.place_name,
        "settings": {
            name: _plain(getattr(sensor, name))
            for name in type(sensor).model_fields
            if name not in _OWN
        },
    }


def _plain(value: Any) -> Any:
    if isinstance(value, Described):
        return value.model_dump()
    if isinstance(value, Iterable) and not isinstance(value, str):
        return list(value)
    return value


def _postures(robot: Robot) -> dict[str, dict[str, float]]:
    return {name: dict(positions) for name, positions in robot.postures.items()}
