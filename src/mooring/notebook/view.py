"""A robot in three dimensions in a notebook's cell: the page in one file, framed."""

from __future__ import annotations

import html
from base64 import b64encode
from os import PathLike
from typing import TYPE_CHECKING, Any

from mooring.drawing import picture
from mooring.errors import ModelError
from mooring.files import write_text
from mooring.kinematics import configuration
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.outlet import Posture
from mooring.page.saving import page_file, page_text

if TYPE_CHECKING:
    from mooring.simulation import Recording

_LEAST, _MOST = 200, 4000
_STILL = (880, 550)


class ModelView:
    """What `robot.show()` gives: alone on the last line of a cell it is the model to turn.

    All of it is in the cell, with nothing to load, and stays in the saved notebook. Where a
    notebook may run no scripts a picture stands in its place.
    """

    def __init__(self, name: str, page: str, still: bytes | None, height: int) -> None:
        self._name = name
        self._page = page
        self._still = still
        self._height = height

    def __repr__(self) -> str:
        size = f"{len(self._page) / 1e6:.1f} MB"
        return f"<ModelView of {self._name!r}: {size}; a notebook shows it, save(file) writes it>"

    def save(self, file: str | PathLike[str]) -> None:
        """Write it as a page of its own.

        Raises:
            ModelError: the suffix is not .html.
            InputError: it cannot be written.
        """
        write_text(page_file(file), self._page)

    def _repr_mimebundle_(self, **_: Any) -> dict[str, Any]:
        style = f"width: 100%; height: {self._height}px; border: 1px solid #d6dde1"
        frame = (
            f'<iframe title="{html.escape(self._name)} in three dimensions" style="{style}" '
            f'srcdoc="{html.escape(self._page)}"></iframe>'
        )
        shown: dict[str, Any] = {"text/plain": repr(self), "text/html": frame}
        return (
            shown if self._still is None else shown | {"image/png": b64encode(self._still).decode()}
        )


def view(
    robot: Robot, *, posture: Posture, recording: Recording | None, ground: Ground | None,
    height: int,
) -> ModelView:  # fmt: skip
    """See `Robot.show`."""
    if not _LEAST <= height <= _MOST:
        raise ModelError(f"height is in pixels, {_LEAST} to {_MOST}, got {height}")
    if recording is not None and posture is not None:
        raise ModelError("a recording shows its own positions; leave the posture out")
    q = None if posture is None else configuration(robot, posture)
    if recording is not None and ground is None:
        ground = recording.ground
    page = page_text(robot, recording=recording, q=q, ground=ground)
    try:
        still = picture(robot, posture=posture, size=_STILL)._repr_png_()
    except ModelError:
        # Its links have no shapes that could be drawn; frames and axes are there to be turned.
        still = None
    return ModelView(robot.name, page, still, height)
