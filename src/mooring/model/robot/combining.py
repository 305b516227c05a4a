"""Robots made of robots: included, attached, and cut out again."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING, cast

from mooring.errors import ModelError, did_you_mean
from mooring.geometry import inverse
from mooring.model.motion import named_in
from mooring.model.placement import Placement, Where
from mooring.model.robot.changed import mirrored, on_links, renamed
from mooring.model.robot.contents import Contents
from mooring.model.structure import roots

if TYPE_CHECKING:
    from mooring.model.robot.robot import Robot

_PREFIXED = ("link", "joint", "closure", "spring", "motor", "sensor", "frame")


class Combining(Contents):
    """Including other robots; see `Robot`."""

    def include(
        self,
        other: Robot,
        *,
        prefix: str = "",
        onto: str | None = None,
        at: Where = None,
        mirror: str | None = None,
        joint: str | None = None,
    ) -> None:
        """Add all of another robot, with its geometry shared and not copied.

        Names get the prefix, but for postures and motions: a posture that both have moves both.

        Args:
            other: stays as it is.
            prefix: put before the names of its links, joints, closures, springs, motors, sensors
                and frames.
            onto: the link it is fixed to; it may be left out only while this robot has no links.
            at: where its root's frame comes to be, on that link (or in the CAD).
            mirror: `"x"`, `"y"` or `"z"` to include its mirror image across that axis of its root.
            joint: name of the fixed joint; the prefix and `mount` if not given.

        Raises:
            ModelError: a name is taken, the link is unknown, or a material of the same name is
                another; nothing is added then.
            UnsoundRobotError: the other is no tree.

        Example:
            `robot.include(leg, prefix="left_", onto="hull", at=(0.2, 0.15, 0), mirror="y")`
        """
        if mirror is not None and mirror not in ("x", "y", "z"):
            raise ModelError(f"mirror: {mirror!r} is none of x, y, z")
        changed = on_links(other) if mirror is None else mirrored(other, mirror)
        added = renamed(changed, dict.fromkeys(_PREFIXED, lambda name: f"{prefix}{name}"))
        mount = joint or f"{prefix}mount"
        self._refuse_unfit(added, mount, onto)
        root = roots(added)[0]
        if onto is not None:
            cast("Robot", self).describe_joint(
                mount, {"type": "fixed", "parent": onto, "child": root, "at": Placement.of(at)}
            )
        for link in added.links.values():
            link.included_as = f"{prefix}{link.included_as}"
        for section in (*(f"{kind}s" for kind in _PREFIXED), "couplings"):
            getattr(self, section).update(getattr(added, section))
        self.allowances.update(added.allowances)
        self.materials.update(added.materials)
        for name, positions in added.postures.items():
            self.postures[name] = positions | self.postures.get(name, {})
        for name, steps in added.motions.items():
            if self.motions.setdefault(name, steps) != steps:
                self.notes.append(f"motion {name!r} of {other.name} is another one; left out")
        self.places.update({k: v for k, v in added.places.items() if len(k) > 1})
        self.unused += [part for part in added.unused if part not in self.unused]
        self.notes += [note for note in added.notes if note not in self.notes]

    def attach(
        self,
        other: Robot,
        *,
        at: str,
        mount: str | None = None,
        prefix: str = "",
        joint: str | None = None,
    ) -> None:
        """Add another robot so that a frame of it comes to lie on a frame of this one.

        Args:
            other: stays as it is.
            at: the frame of this robot.
            mount: the frame of the other; its only frame of role mount if not given.
            prefix, joint: as for `include`.

        Raises:
            ModelError: a frame is unknown, or as for `include`.
            UnsoundRobotError: the other is no tree.

        Example:
            `arm.attach(gripper, at="flange", prefix="gripper_")`
        """
        if at not in self.frames:
            raise ModelError(f"no frame is called {at!r}{did_you_mean(at, list(self.frames))}")
        found = mount or _only_mount(other)
        if found not in other.frames:
            hint = did_you_mean(found, list(other.frames))
            raise ModelError(f"no frame of {other.name} is called {found!r}{hint}")
        theirs, ours = other.frames[found], self.frames[at]
        frames = other.link_frames()
        root = frames[roots(other)[0]]
        carrier = frames[theirs.link]
        on_root = inverse(root) @ carrier @ theirs.at.in_link(carrier)
        place = Placement(ours.at.matrix @ inverse(on_root), ours.at.relative_to)
        self.include(other, prefix=prefix, onto=ours.link, at=place, joint=joint)

    def branch(self, link: str, name: str | None = None) -> Robot:
        """A link and everything that hangs on it, as a robot of its own.

        Couplings, closures and postures are taken along as far as all their joints and links are;
        what is left behind is told in its notes.

        Raises:
            ModelError: the link is unknown.
            UnsoundRobotError: the robot is no tree.
        """
        robot = cast("Robot", self)
        if link not in self.links:
            raise ModelError(f"no link is called {link!r}{did_you_mean(link, list(self.links))}")
        whole = on_links(robot)
        links = {link}
        waiting = [link]
        while waiting:
            here = waiting.pop()
            below = [j.child for j in whole.joints.values() if j.parent == here]
            links.update(below)
            waiting += below
        result = type(robot)(name or link)
        result.links = {n: x for n, x in whole.links.items() if n in links}
        result.joints = {n: j for n, j in whole.joints.items() if j.parent in links}
        joints = set(result.joints)
        result.couplings = {
            n: c for n, c in whole.couplings.items() if n in joints and c.follows in joints
        }
        result.closures = {n: c for n, c in whole.closures.items() if set(c.between) <= links}
        result.motors = {n: m for n, m in whole.motors.items() if m.joint in joints}
        result.frames = {n: f for n, f in whole.frames.items() if f.link in links}
        result.springs = {
            n: s for n, s in whole.springs.items() if {*s.between} <= {*result.frames}
        }
        result.allowances = {p: why for p, why in whole.allowances.items() if {*p} <= links}
        result.sensors = {
            n: s
            for n, s in whole.sensors.items()
            if {*s.links()} <= links
            and {*s.frames()} <= {*result.frames}
            and {*s.joints()} <= joints
        }
        result.materials = dict(whole.materials)
        result.places = dict(whole.places)
        for posture, positions in whole.postures.items():
            kept = {j: q for j, q in positions.items() if j in joints}
            if kept or not positions:
                result.postures[posture] = kept
        kept_items: dict[str, Collection[str]] = {
            "posture": result.postures, "joint": result.joints, "frame": result.frames,
            "link": result.links,
        }  # fmt: skip
        for motion, steps in whole.motions.items():
            if all(name in kept_items[kind] for kind, name in named_in(steps)):
                result.motions[motion] = steps
        for what, before, after in (
            ("coupling of", {n for n in whole.couplings if n in joints}, result.couplings),
            ("closure",
             {n for n, c in whole.closures.items() if set(c.between) & links}, result.closures),
            ("spring",
             {n for n, s in whole.springs.items() if set(s.between) & {*result.frames}},
             result.springs),
        ):  # fmt: skip
            for lost in sorted(before - set(after)):
                result.notes.append(f"{what} {lost!r} reaches out of the branch; left behind")
        return result

    def _refuse_unfit(self, added: Robot, mount: str, onto: str | None) -> None:
        """Refuse an inclusion before anything is changed."""
        if onto is None and self.links:
            raise ModelError(f"onto: name the link that {added.name} is fixed to")
        if onto is not None and onto not in self.links:
            raise ModelError(f"no link is called {onto!r}{did_you_mean(onto, list(self.links))}")
        if onto is not None and (mount in self.joints or mount in added.joints):
            raise ModelError(f"there is already a joint called {mount!r}; give joint= another name")
        for kind in _PREFIXED:
            ours, theirs = (set(getattr(robot, f"{kind}s")) for robot in (self, added))
            taken = sorted(ours & theirs)
            if taken:
                raise ModelError(
                    f"there is already a {kind} called {taken[0]!r}; include {added.name} with a "
                    "prefix"
                )
        for name, material in added.materials.items():
            if name in self.materials and self.materials[name] != material:
                raise ModelError(f"{added.name} means another material by {name!r}")


def _only_mount(robot: Robot) -> str:
    mounts = [name for name, frame in robot.frames.items() if frame.role == "mount"]
    if len(mounts) != 1:
        has = "no frame" if not mounts else f"{len(mounts)} frames ({', '.join(mounts)})"
        raise ModelError(f"{robot.name} has {has} of role mount; name one with mount=")
    return mounts[0]
