"""What is known while a definition is read: the robot it is for, and files it may take from."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

from mooring.cad import Axis, Frame, Part
from mooring.model.definition.problems import EntryError

if TYPE_CHECKING:
    from mooring.model.robot import Robot
    from mooring.model.shapes import PlacedShape


class Context:
    """What definitions are read with; a document's reader knows its CAD besides.

    Args:
        robot: the robot that they are for; None where there is none.
    """

    def __init__(self, robot: Robot | None = None) -> None:
        self.robot = robot

    def parts(self, patterns: Sequence[str]) -> tuple[Part, ...]:
        """The CAD parts of some name patterns.

        Raises:
            ModelError: there are none, or there is no CAD.
        """
        del patterns
        raise self._without_cad("parts")

    def place(self, entry: Mapping[str, Any]) -> Axis | Frame | None:
        """A place that is found in the CAD; None where the entry has numbers.

        Raises:
            ModelError: it is not found, or there is no CAD.
        """
        del entry
        return None

    def mesh(self, entry: Mapping[str, Any]) -> PlacedShape:
        """A mesh from a file.

        Raises:
            ModelError: it cannot be read, or there are no files to read from.
        """
        raise EntryError(
            "mesh", [((next(iter(entry)),), "only a document takes meshes from files")]
        )

    @staticmethod
    def _without_cad(key: str) -> EntryError:
        text = f"{key!r} needs a CAD file; add a section cad: with - file: ..."
        return EntryError(key, [((), text)])
