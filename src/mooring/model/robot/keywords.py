"""What may be said of items in calls; made by `mooring.model.robot.keyword_types`."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Literal, TypedDict

from mooring.cad import Part
from mooring.model.collision import CollisionWords
from mooring.model.definition.described import Described
from mooring.model.placement import Where
from mooring.model.shapes import PlacedShape

Number = float | str
"""In SI, or with its unit."""
JointTypeName = Literal["fixed", "revolute", "continuous", "prismatic", "floating"]
"""A type of joint that Mooring has."""
Entry = Mapping[str, Any]
"""The fields of a definition that stands inside another."""


class LinkKeywords(TypedDict, total=False):
    at: Where
    color: str | None
    opacity: float
    finish: str
    texture: str
    vendor: Sequence[str]
    parts: Sequence[Part]
    shapes: Sequence[PlacedShape | Mapping[str, Any]]
    material: str | None
    density: Number | None
    part_materials: Mapping[str, str]
    points: Sequence[Entry | Described]
    assumed: bool
    mass: Number | None
    centre: Sequence[Number] | None
    inertia: Sequence[Number] | None
    visuals: Sequence[PlacedShape | Mapping[str, Any]]
    carrier: bool
    surface: str | None
    collision: CollisionWords | Sequence[CollisionWords] | None
    box: Sequence[Number]
    sphere: Number
    cylinder: Entry
    capsule: Entry


class JointKeywords(TypedDict, total=False):
    at: Where
    axis: str | Sequence[float]
    second_axis: str | Sequence[float] | None
    slide: Entry | Described | None
    turn: Entry | Described | None
    first: Entry | Described | None
    second: Entry | Described | None
    yaw: Entry | Described | None
    pitch: Entry | Described | None
    roll: Entry | Described | None
    along_x: Entry | Described | None
    along_y: Entry | Described | None
    lower: Number | None
    upper: Number | None
    velocity: Number | None
    effort: Number | None
    acceleration: Number | None
    soft: Entry | Described | None
    limits: Entry | Described
    damping: Number
    friction: Number
    stiffness: Number
    rest: Number
    rotor_inertia: Number
    calibration: Entry | Described | None
    vendor: Sequence[str]
    give: Entry | Described


class ChainKeywords(TypedDict, total=False):
    at: Where
    end: Where
    frame: str | None


class CouplingKeywords(TypedDict, total=False):
    ratio: float
    offset: Number
    also: Mapping[str, float]


class ClosureKeywords(TypedDict, total=False):
    at: Where
    axis: str | Sequence[float]
    stiffness: Number | None
    damping: Number
    turning_stiffness: Number | None
    turning_damping: Number
    play: Number


class TableKeywords(TypedDict, total=False):
    at: Where
    convention: Literal["standard", "modified"]
    end: str | None
    within: Number
    within_angle: Number


class LimitsKeywords(TypedDict, total=False):
    lower: Number | None
    upper: Number | None
    velocity: Number | None
    effort: Number | None
    acceleration: Number | None
    damping: Number | None
    friction: Number | None
    rotor_inertia: Number | None


class SpringKeywords(TypedDict, total=False):
    stiffness: Number
    damping: Number
    rest_length: Number | None


class CableKeywords(TypedDict, total=False):
    through: Sequence[str]
    winds: Mapping[str, Number]
    length: Number | None
    stiffness: Number | None
    damping: Number
    both_ways: bool


class ConveyorKeywords(TypedDict, total=False):
    direction: str | Sequence[float]
    speed: Number


class GripKeywords(TypedDict, total=False):
    kind: Literal["suction", "magnet"]
    shear: Number | None
    moment: Number | None
    reach: Number
    on: bool


class MotorKeywords(TypedDict, total=False):
    mode: Literal["position", "velocity", "effort", "motion"]
    p: Number | None
    i: Number | None
    d: Number | None
    gear_ratio: float
    rotor_inertia: Number
    torque: Number | None
    continuous_torque: Number | None
    curve: Entry | Described | None
    winding: Entry | Described | None
    efficiency: float
    backlash: Number
    gear_stiffness: Number | None
    feedback: Literal["joint", "motor"]
    delay: Number
    period: Number
    resolution: Number
    feed_forward: Literal["none", "gravity"]
    at_limit: Literal["hold", "trip"]
    vendor: Sequence[str]


class FrameKeywords(TypedDict, total=False):
    role: Literal["plain", "tool", "mount", "sensor"]
    at: Where
    outward: bool
    xyz: Sequence[Number]
    rpy: Sequence[Number]
    relative_to: Literal["link", "cad"]


class MaterialKeywords(TypedDict, total=False):
    color: str | None
    friction: float
    restitution: float
    rolling_friction: Number
    spinning_friction: Number
    give: Entry | Described | None
