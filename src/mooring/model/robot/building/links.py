"""Adding materials and links."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from fnmatch import fnmatchcase
from typing import Any

from mooring.cad import Assembly, Part
from mooring.errors import ModelError, did_you_mean
from mooring.model.collision import CollisionWords, chosen_parts, read_collision
from mooring.model.link import Link
from mooring.model.mass import PointMass
from mooring.model.material import COMMON_DENSITIES, Material, common_material
from mooring.model.robot.contents import Contents
from mooring.model.robot.values import given_inertia, read_value
from mooring.model.shapes import PlacedShape
from mooring.model.validation import EntryError, Path, define


class Links(Contents):
    """Bodies; see `Robot`."""

    def add_material(
        self,
        name: str,
        *,
        density: float | str,
        color: str | None = None,
        friction: float = 0.6,
        restitution: float = 0.0,
        rolling_friction: float | str = 0.0,
        spinning_friction: float | str = 0.0,
    ) -> None:
        """Add a material, or give a name of the built-in table another density.

        Args:
            name: a new name.
            density: of what is made of it.
            color: "#rrggbb", of parts that have none of their own.
            friction: sliding friction coefficient; two surfaces have the geometric mean of theirs.
            restitution: the share of the speed that an impact gives back; of two the larger counts.
            rolling_friction, spinning_friction: levers of what brakes rolling, and turning on the
                spot; of two surfaces the larger counts.

        Raises:
            ModelError: the name is taken, or a value is not what it should be.
        """
        entry = {
            "density": density, "color": color, "friction": friction, "restitution": restitution,
            "rolling_friction": rolling_friction, "spinning_friction": spinning_friction,
        }  # fmt: skip
        self.describe_material(name, entry)

    def describe_material(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a material from a mapping with the keys of `Material`, as in a document."""
        self._free("material", name, self.materials)
        self.materials[name] = define(Material, f"material {name!r}", entry, name=name)

    def add_link(
        self,
        name: str,
        *,
        parts: Sequence[Part] = (),
        cad: Assembly | None = None,
        material: str | None = None,
        mass: float | str | None = None,
        centre: Sequence[float | str] | None = None,
        inertia: Sequence[float | str] | None = None,
        density: float | str | None = None,
        part_materials: Mapping[str, str] | None = None,
        points: Sequence[Mapping[str, Any] | PointMass] = (),
        assumed: bool = False,
        collision: CollisionWords | Sequence[CollisionWords] | None = None,
        visuals: Sequence[PlacedShape] = (),
        carrier: bool = False,
        surface: str | None = None,
    ) -> None:
        """Add a link.

        Args:
            name: a new name.
            parts: the CAD parts that move together as this link.
            cad: the assembly they come from; parts of it that no link takes are then found by
                `mooring.check`.
            material: of the parts; without it each keeps the material its CAD file states.
            mass: as weighed; with parts it scales what their geometry gives.
            centre: the centre of mass in link coordinates [m], for a link whose mass properties are
                given instead of computed.
            inertia: about the centre of mass, in link axes [kg m^2]: three principal moments, or
                ixx, iyy, izz, ixy, ixz, iyz.
            density: of the parts, instead of a material.
            part_materials: materials of single parts, by name pattern; these come first.
            points: masses to add, each with `mass` and `at` in link coordinates.
            assumed: whether the mass is nothing but a guess, to be told wherever it is shown.
            collision: a rule for fitting shapes around the parts (`"box"`, `"cylinder"`,
                `"capsule"`, `"sphere"`, `"hull"`, `"pieces"`, `"mesh"`, `"auto"`, `"none"`), a
                mapping with the keys of `CollisionRule`, a shape, or a list of such.
            visuals: shapes to draw besides the parts.
            carrier: whether it only connects the simple joints of a compound one.
            surface: the material that it touches others with, where that is not `material`.

        Raises:
            ModelError: the name is taken, the material is unknown, or a value is wrong.
        """
        self._free("link", name, self.links)
        what = f"link {name!r}"
        self.know_material(what, ("material",), material)
        self.know_material(what, ("surface",), surface)
        for pattern, other in (part_materials or {}).items():
            self.know_material(what, ("part_materials", pattern), other)
        if material is not None and density is not None:
            raise EntryError(what, [(("density",), "give either a material or a density")])
        weighed = None if mass is None else read_value(what, "mass", mass, "mass")
        if weighed is not None and weighed <= 0:
            raise EntryError(what, [(("mass",), f"the mass must be greater than zero, got {mass}")])
        given = given_inertia(what, weighed, centre, inertia)
        link = Link(
            name,
            parts=tuple(parts),
            material=material,
            weighed=None if given else weighed,
            given_inertia=given,
            extra_visuals=list(visuals),
            density=None if density is None else read_value(what, "density", density, "density"),
            part_materials=tuple((part_materials or {}).items()),
            points=_read_points(what, points),
            assumed=assumed,
            carrier=carrier,
            surface=surface,
        )
        if collision is not None:
            _say_collision(what, link, collision)
        if cad is not None and cad not in self.assemblies:
            self.assemblies.append(cad)
        self.links[name] = link

    def know_material(self, what: str, path: Path, name: str | None) -> None:
        """Refuse a material that nobody knows.

        Raises:
            EntryError: the robot has none of that name, nor the built-in table.
        """
        if name is None or name in self.materials or common_material(name) is not None:
            return
        known = [*self.materials, *COMMON_DENSITIES]
        raise EntryError(what, [(path, f"unknown material {name!r}{did_you_mean(name, known)}")])

    def set_collision(
        self, pattern: str, collision: CollisionWords | Sequence[CollisionWords]
    ) -> None:
        """Say what all links of a pattern collide with that nothing was said of yet.

        Args:
            pattern: as in the shell, e.g. `"*_wheel"`; matched by names of links with parts.
            collision: as for `add_link`.

        Raises:
            ModelError: no link matches, or a rule cannot be followed.

        Example:
            `robot.set_collision("*", "auto")`
        """
        named = [link for name, link in self.links.items() if fnmatchcase(name, pattern)]
        if not named:
            raise ModelError(
                f"no link matches {pattern!r}{did_you_mean(pattern, list(self.links))}"
            )
        for link in named:
            if link.collision_rules is None and not link.given_collisions and link.parts:
                _say_collision(f"link {link.name!r}", link, collision)


def _read_points(
    what: str, points: Sequence[Mapping[str, Any] | PointMass]
) -> tuple[PointMass, ...]:
    made = []
    for number, point in enumerate(points):
        try:
            entry = point.model_dump() if isinstance(point, PointMass) else point
            made.append(define(PointMass, what, entry))
        except EntryError as error:
            raise error.inside("points", number, what=what) from None
    return tuple(made)


def _say_collision(
    what: str, link: Link, collision: CollisionWords | Sequence[CollisionWords]
) -> None:
    try:
        rules, shapes = read_collision(collision)
        for rule in rules:
            chosen_parts(rule, link.parts)
    except EntryError as error:
        raise error.inside("collision", what=what) from None
    except ModelError as error:
        raise EntryError(what, [(("collision",), str(error))]) from None
    link.collision_rules, link.given_collisions = rules, shapes
