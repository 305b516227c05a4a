"""The robot: what a user builds in Python and what a document describes."""

from __future__ import annotations

import pathlib
from collections.abc import Mapping
from os import PathLike
from typing import TYPE_CHECKING

import numpy as np

from mooring.cad import Part
from mooring.errors import Place
from mooring.geometry import Array
from mooring.model.inertia import Inertia
from mooring.model.robot.building import Driving, Joints, Links, Mounting, Ties
from mooring.model.robot.combining import Combining
from mooring.model.robot.contents import ItemPath
from mooring.model.robot.editing import Editing

if TYPE_CHECKING:
    import pandas as pd

    from mooring.tree import Tree


class Robot(Links, Joints, Ties, Driving, Mounting, Combining, Editing):
    """A robot description.

    Build it link by link and joint by joint; `mooring.check` says what is missing.

    Attributes:
        name: of the robot.
        base: whether its root is `"fixed"` to the world or `"floating"`.
        links, joints, couplings, closures, springs, motors, sensors, frames, postures, motions,
            materials: by name.
        allowances: why two links may overlap, by their names in alphabetical order.
        assemblies: the CAD whose parts the robot is made of, to find parts left over.
        places: where things were written, by path, e.g. `("joints", "slew", "limits")`.
        checks: how findings about it are judged.
        missing_meshes: links, and files of theirs that were not there.
        notes: what a reader assumed, changed or left out.
        unused: parts that robots it includes left over.

    Example:
        >>> robot = Robot("crane")
        >>> robot.add_link("base")
        >>> robot.add_link("arm", mass="12 kg", centre=("0.5 m", 0, 0), inertia=(0.1, 1.1, 1.1))
        >>> robot.add_joint("slew", "revolute", parent="base", child="arm",
        ...                 lower="-90 deg", upper="90 deg", velocity="10 deg/s", effort="2 kN*m")
        >>> robot.coordinates
        ['slew']
    """

    @property
    def coordinates(self) -> list[str]:
        """Names of the moving joints, in the order of q.

        Raises:
            UnsoundRobotError: the robot is no tree.
        """
        return list(self.tree().coordinates)

    def tree(self) -> Tree:
        """The robot compiled to arrays.

        Raises:
            UnsoundRobotError: the robot is no tree; the message says why.
        """
        from mooring.tree import compile_tree

        return compile_tree(self)

    def write(
        self,
        file: str | PathLike[str],
        *,
        posture: str | Mapping[str, float | str] | None = None,
    ) -> list[str]:
        """Write the robot in the format of the file's suffix.

        Args:
            file: .urdf; .json (resolved, for programs); .dot or .svg (the tree, drawn); .glb, .stl,
                .obj or .ply (its geometry).
            posture: for geometry, how it stands: a posture's name, or positions by joint.

        Returns:
            What the format could not carry, a sentence each.

        Raises:
            InputError: the suffix is of no format that can be written.
            ModelError: no such posture or joint.
            UnsoundRobotError: the robot is no tree.
        """
        from mooring.formats import write

        return write(self, pathlib.Path(file), posture)

    def link_frames(self) -> dict[str, Array]:
        """Each link's frame in CAD coordinates with every joint at zero, (4, 4) by name.

        Raises:
            UnsoundRobotError: the robot is no tree.
        """
        return dict(zip(self.tree().links, self.tree().neutral_frames, strict=True))

    def inertia(self, link: str, frame: Array | None = None) -> Inertia | None:
        """Mass properties of a link in its own coordinates; None where something is not known.

        Args:
            link: its name.
            frame: the link's frame in CAD coordinates; found from the tree when not given.
        """
        place = self.link_frames()[link] if frame is None else frame
        return self.links[link].inertia(place, self.materials)

    def mass(self) -> float:
        """Total mass of the links whose mass is known [kg]."""
        known = (self.inertia(name, np.eye(4)) for name in self.links)
        return sum(inertia.mass for inertia in known if inertia is not None)

    @property
    def collision_table(self) -> pd.DataFrame:
        """How well the fitted collision shapes fit, a row for each rule of each link.

        Columns: link, rule (for auto the one chosen), shapes, excess (their volume over that of
        the parts' convex hull, less one), overhang [m].
        """
        import pandas as pd

        rows = [
            {
                "link": name,
                "rule": found.rule,
                "shapes": len(found.shapes),
                "excess": found.judgement.excess,
                "overhang": found.judgement.overhang,
            }
            for name, link in self.links.items()
            for found in link.collision_fits
        ]
        columns = ["link", "rule", "shapes", "excess", "overhang"]
        return pd.DataFrame(rows, columns=columns)

    def leftover_parts(self) -> list[Part]:
        """The parts of the robot's assemblies that no link took."""
        taken = {id(part) for link in self.links.values() for part in link.parts}
        own = [p for cad in self.assemblies for p in cad.parts if id(p) not in taken]
        return own + self.unused

    def place(self, item: ItemPath) -> Place | None:
        """Where an item, or the nearest thing it is part of, was written."""
        for length in range(len(item), -1, -1):
            if item[:length] in self.places:
                return self.places[item[:length]]
        return None
