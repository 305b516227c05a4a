"""Joints that give, or have play, in the directions that they hold: made of simple joints."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from pydantic import Field, model_validator

from mooring.geometry import frame_along
from mooring.model.definition.described import Value, needs
from mooring.model.definition.fields import (
    Angle,
    AngularDamping,
    AngularStiffness,
    Length,
    LinearDamping,
    LinearStiffness,
)
from mooring.model.joint import Joint


class JointGive(Value):
    """How a joint gives in the directions that it holds.

    Attributes:
        stiffness: force per length [N/m].
        damping: force per speed, with stiffness [N s/m].
        turning_stiffness: moment per angle [N m/rad].
        turning_damping: moment per turning speed, with turning_stiffness [N m s/rad].
        play: how far it can be off its middle, freely [m].
        turning_play: how far it can be tilted, freely [rad].
    """

    stiffness: LinearStiffness | None = Field(default=None, gt=0)
    damping: LinearDamping = Field(default=0.0, ge=0)
    turning_stiffness: AngularStiffness | None = Field(default=None, gt=0)
    turning_damping: AngularDamping = Field(default=0.0, ge=0)
    play: Length | None = Field(default=None, gt=0)
    turning_play: Angle | None = Field(default=None, gt=0)

    @model_validator(mode="after")
    def _one_of_both(self) -> JointGive:
        for stiff, play in (("stiffness", "play"), ("turning_stiffness", "turning_play")):
            if getattr(self, stiff) is not None and getattr(self, play) is not None:
                raise ValueError(f"give either {stiff} or {play}")
        if not any((self.stiffness, self.turning_stiffness, self.play, self.turning_play)):
            raise ValueError("say how it gives: stiffness, turning_stiffness, play or turning_play")
        needs(self, damping="stiffness", turning_damping="turning_stiffness")
        return self


class GivingJoint(Joint):
    """A joint that gives, or has play, in the directions that it holds.

    It is made of simple joints without limits but its play, with springs, and of links without
    mass between them: `pin_along_x`, `pin_along_y`, `pin_along_z`, `pin_about_x`, `pin_about_y`,
    then `pin` itself.

    Attributes:
        give: how.
    """

    give: JointGive


class Flexure(NamedTuple):
    """One of the simple joints.

    Attributes:
        name: added to the joint's name.
        slides: whether it slides; otherwise it turns.
        axis: unit vector in the joint's frame.
        entry: limits, stiffness and damping.
    """

    name: str
    slides: bool
    axis: tuple[float, ...]
    entry: dict[str, object]


def flexures(joint: GivingJoint) -> list[Flexure]:
    """The simple joints that stand for how a joint gives, from the parent on."""
    give = joint.give
    frame = frame_along(np.array(joint.axis))
    found = []
    for slides, word, stiffness, damping, play in (
        (True, "along", give.stiffness, give.damping, give.play),
        (False, "about", give.turning_stiffness, give.turning_damping, give.turning_play),
    ):
        if stiffness is None and play is None:
            continue
        # What the joint itself does is not held.
        own = joint.has_axis and slides == (joint.motion == "translation")
        for k, way in enumerate("xyz"[: 2 if own else 3]):
            entry: dict[str, object] = {"damping": damping}
            if stiffness is not None:
                entry["stiffness"] = stiffness
            else:
                entry["limits"] = {"lower": -play, "upper": play}  # type: ignore[operator]
            axis = tuple(float(value) for value in frame[:, k])
            found.append(Flexure(f"{word}_{way}", slides, axis, entry))
    return found
