"""A scene: robots, obstacles and free bodies on their ground."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from mooring import outlet
from mooring.arguments import proven_methods
from mooring.errors import ModelError, did_you_mean, told
from mooring.model.definition.context import Context
from mooring.model.definition.described import Described
from mooring.model.definition.problems import EntryError, define
from mooring.model.motion import MotionStep
from mooring.model.placement import Where
from mooring.model.robot import Robot
from mooring.model.robot.head import Base
from mooring.model.robot.references import problems_inside
from mooring.model.scene.settings import Ground, SceneSettings

if TYPE_CHECKING:
    from mooring.simulation import Recording

WORLD = "world"
"""What the link is called that everything in a scene stands on."""
BASE = "base"
"""How the joint that holds a robot is called, behind the prefix of its names."""
HELD_BY = {"bodies": "", "obstacles": "_stands"}
"""How the joint that holds a body or an obstacle is called: like it, with this behind."""


@proven_methods
class Scene(outlet.Shown):
    """Robots, obstacles and free bodies, put together into one robot whose root is the world.

    A robot by itself is a scene, too, under its own names: `Scene.of(robot)`.

    Attributes:
        robot: everything in it; what floats has coordinates such as `line_eye.x`.
        settings: how it is run, its ground and its motion; each can also be set on the scene.
        alone: whether it is a robot by itself, with no world around it.

    Example:
        >>> scene = Scene("quay", ground=Ground())
        >>> scene.add_body("crate", mass="20 kg", box=("0.4 m", "0.4 m", "0.3 m"), at=(0, 0, 0.15))
        >>> scene.robot.coordinates[:3]
        ['crate.x', 'crate.y', 'crate.z']
        >>> scene.add_obstacle("wall", box=("2 m", "0.1 m", "1 m"), at=(0, "1.5 m", "0.5 m"))
        >>> davit = Robot("davit")
        >>> davit.add_link("post")
        >>> scene.add_robot(davit, at=(1, 0, 0), prefix="north_")
        >>> list(scene.robot.links)
        ['world', 'crate', 'wall', 'north_post']
    """

    def __init__(
        self, name: str, *, ground: Ground | Mapping[str, Any] | None = None, **settings: Any
    ) -> None:
        """Begin with nothing but the ground.

        Args:
            name: of the scene.
            ground: a `Ground`, or its fields; None for none.
            settings: the other fields of `SceneSettings`: gravity, seconds, step, rate, seed.

        Raises:
            ModelError: a value is wrong.
        """
        robot = Robot(name)
        robot.add_link(WORLD)
        self._hold(robot, alone=False)
        self.settings.change(ground=ground, **settings)

    @classmethod
    def of(cls, robot: Robot, ground: Ground | None = None) -> Scene:
        """A robot by itself, under its own names.

        Args:
            robot: it is not copied.
            ground: what it stands on; None where there is none, or where that is to be found: a run
                puts level ground just below what floats.
        """
        scene = cls.__new__(cls)
        scene._hold(robot, alone=True)
        scene.settings.ground = ground
        return scene

    def _hold(self, robot: Robot, alone: bool) -> None:
        self.robot = robot
        self.alone = alone
        self.settings = SceneSettings()
        self.settings.belong_to(self)
        robot.in_scene(self)

    def __repr__(self) -> str:
        return f"<Scene {self.name!r}: {len(self.robot.links)} links>"

    @property
    def name(self) -> str:
        """Of the scene."""
        return self.robot.name

    def __setattr__(self, name: str, value: Any) -> None:
        if name in SceneSettings.model_fields:
            setattr(self.settings, name, value)
        elif name in ("robot", "alone", "settings") and not hasattr(self, name):
            object.__setattr__(self, name, value)
        else:
            hint = did_you_mean(name, list(SceneSettings.model_fields))
            raise ModelError(f"a scene has no {name!r} that could be set{hint}")

    @property
    def ground(self) -> Ground | None:
        """What everything stands on."""
        return self.settings.ground

    @property
    def motion(self) -> str | tuple[MotionStep, ...] | None:
        """What motors do: the name of a motion of the robots, or steps."""
        return self.settings.motion

    @property
    def start(self) -> Mapping[str, float]:
        """Where joints and what floats are at the beginning, by coordinate."""
        return self.settings.start

    def show(self, *, recording: Recording | None = None, height: int = 560) -> outlet.View:
        """The scene in three dimensions in a notebook's cell; see `Robot.show`.

        Args:
            recording: a run of it, which plays there.
            height: of the cell [px].

        Raises:
            ModelError: the recording is of another scene.
            UnsoundRobotError: a robot in it is no tree.

        Example:
            `scene.show(recording=mooring.simulate(scene))`
        """
        start = None if recording is not None or not self.start else self.start
        return outlet.view(
            self.robot, posture=start, recording=recording, ground=self.ground, height=height
        )

    def add_robot(
        self,
        robot: Robot,
        *,
        at: Where = None,
        base: Base | None = None,
        prefix: str = "",
        posture: str | Mapping[str, float | str] | None = None,
    ) -> None:
        """Put a robot into the scene.

        Args:
            robot: stays as it is.
            at: where its root's frame comes to be.
            base: `"fixed"` or `"floating"`; the robot's own if not given.
            prefix: put before its names; needed where two robots have the same.
            posture: in which it starts: a name, or positions by its joints' own names.

        Raises:
            ModelError: a name is taken, or there is no such posture.
            UnsoundRobotError: the robot is no tree.
        """
        if base not in (None, "fixed", "floating"):
            raise ModelError(f"base must be fixed or floating, got {told(base)}")
        if isinstance(posture, str):
            posture = robot.posture(posture)
        positions = robot.read_positions(f"the posture of {robot.name}", posture or {})
        joint = prefix + BASE
        if joint in self.robot.joints:
            raise ModelError(
                f"there is already a robot whose names begin with {prefix!r}; give {robot.name} "
                "another prefix"
            )
        self.robot.include(robot, prefix=prefix, onto=WORLD, at=at, joint=joint)
        if (base or robot.base) == "floating":
            self.robot.joints[joint].type = "floating"
        start = {f"{prefix}{name}": value for name, value in positions.items()}
        self.settings.start = {**self.settings.start, **start}

    def add_body(
        self, name: str, *, at: Where = None, context: Context | None = None, **link: Any
    ) -> None:
        """Add a free body.

        Args:
            name: of its link and of what floats with it.
            at: where its frame is at the beginning.
            context: what its fields are read with, besides the scene.
            link: the fields of `Link`, such as `box` with a `color`, and a `mass` or `density`.

        Raises:
            ModelError: the name is taken, or a value is wrong.
        """
        self._add(name, name, "floating", at, context, link)

    def add_obstacle(
        self, name: str, *, at: Where = None, context: Context | None = None, **link: Any
    ) -> None:
        """Add something that never moves.

        Args:
            name: of its link.
            at: where its frame is.
            context: what its fields are read with, besides the scene.
            link: the fields of `Link`; it needs no mass.

        Raises:
            ModelError: the name is taken, or a value is wrong.
        """
        self._add(name, name + HELD_BY["obstacles"], "fixed", at, context, link)

    def _add(
        self,
        name: str,
        joint: str,
        type: str,
        at: Where,
        context: Context | None,
        link: Mapping[str, Any],
    ) -> None:
        self.robot.joints.refuse_taken(joint)
        said = {key: value for key, value in link.items() if value is not None}
        self.robot.add("link", name, said, context=context)
        entry = {"type": type, "parent": WORLD, "child": name, "at": at}
        try:
            self.robot.add("joint", joint, entry, context=context)
        except EntryError as error:
            self.robot.remove("link", name)
            raise error.inside(what=f"body {name!r}") from None

    # What its head asks.

    @property
    def context(self) -> Context:
        """What values are read with."""
        return self.robot.context

    def refuse_unfit(self, old: Described, new: Described) -> None:
        """Refuse what is said of it as a whole, where it names what is not there.

        Args:
            old, new: before and after.

        Raises:
            EntryError: with what it names.
        """
        del old
        problems = list(problems_inside(self.robot, type(new), new))
        if problems:
            raise EntryError(f"scene {self.name!r}", problems)

    def note_change(self) -> None:
        """Something of it as a whole has changed: nothing is remembered that would."""


def lifted(what: Robot | Scene) -> Scene:
    """A scene as it is, or a robot as a scene by itself."""
    return what if isinstance(what, Scene) else Scene.of(what)


def describe_settings(scene: Scene, said: Mapping[str, Any], context: Context) -> None:
    """Say of a scene as a whole what a document does.

    Raises:
        EntryError: what is wrong with it.
    """
    head = define(SceneSettings, "", said, context)
    scene.refuse_unfit(scene.settings, head)
    scene.settings.change(**{name: getattr(head, name) for name in head.model_fields_set})
