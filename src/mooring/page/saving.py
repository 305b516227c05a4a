"""A page in one file: it needs no server and no network, and nothing installed but a browser."""

from __future__ import annotations

import base64
import html
import json
from os import PathLike
from pathlib import Path
from typing import Any

import numpy as np

from mooring.errors import ModelError, RunError
from mooring.files import write_text
from mooring.geometry import Array
from mooring.kinematics import configuration, link_poses
from mooring.model import Robot
from mooring.model.scene import Ground
from mooring.page.facts.geometry import geometry
from mooring.page.facts.poses import frame, pack_poses
from mooring.page.facts.structure import structure
from mooring.page.shell.part import CLIENT, THREE
from mooring.simulation import Recording

_RATE = 30.0
"""Instants of a recording that are carried along [1/s]."""
_SHELL = """\
<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<title>{title}</title>
<style>
{style}
</style>
<script type="importmap">
{imports}
</script>
</head>
<body>
<div class="m-page saved">
<div class="m-head-bar"><span class="m-title">{title}</span>\
<span class="m-file" style="flex: 1">{caption}</span></div>
<div class="m-left"><div class="m-postures"></div>\
<div class="m-scroll"><div class="m-chain-place"></div></div></div>
<div class="m-view"><div class="m-fill"></div></div>
<div class="m-foot"></div>
</div>
<script type="application/json" id="model">
{model}
</script>
<script type="module">
import "mooring-page/saved.js";
</script>
</body>
</html>
"""


def save_page(
    robot: Robot,
    file: str | PathLike[str],
    *,
    recording: Recording | None = None,
    q: Array | None = None,
    ground: Ground | None = None,
) -> None:
    """Write a page that shows a robot, jogs its open chains, or plays a recording.

    Args:
        robot: what is shown.
        file: .html.
        recording: of the robot, to be looked through.
        q: how it stands at first, (n,); neutral if not given.
        ground: what it stands on.

    Raises:
        ModelError: the recording is of another robot, or the suffix is not .html.
        UnsoundRobotError: the robot is no tree.

    Example:
        `save_page(tender, "tender.html", recording=mooring.simulate(tender, motion="lay_line"))`
    """
    path = Path(file)
    if path.suffix.lower() not in (".html", ".htm"):
        raise ModelError(f"{path}: a page is written as .html")
    tree = robot.tree()
    if recording is not None and list(tree.coordinates) != recording.coordinates:
        raise ModelError(f"the recording of {recording.robot!r} is not one of {robot.name!r}")
    model: dict[str, Any] = {
        "structure": structure(robot, tree, ground),
        "neutral": pack_poses(np.asarray(link_poses(tree, _posture(robot, None)))),
        "frame": frame(tree, _posture(robot, None) if q is None else q),
        "glb": base64.b64encode(geometry(robot, ground)).decode("ascii"),
        "postures": {
            name: frame(tree, _posture(robot, name)) for name in ("neutral", *robot.postures)
        },
        "recording": None if recording is None else _played(robot, recording),
    }
    caption = "saved with Mooring; drag to turn the view"
    if recording is not None and len(recording.table):
        caption = f"a recording of {recording.table.index[-1]:.2f} s, {caption}"
    text = _SHELL.format(
        title=html.escape(robot.name),
        caption=html.escape(caption),
        style=(CLIENT / "page.css").read_text("utf-8"),
        imports=json.dumps({"imports": _imports()}),
        # No text of the model can end the script it stands in.
        model=json.dumps(model, separators=(",", ":")).replace("<", "\\u003c"),
    )
    write_text(path, text)


def _posture(robot: Robot, name: str | None) -> Array:
    """A posture; neutral where its loops cannot be closed, and for the name of none."""
    known = name if name in robot.postures else None
    try:
        return configuration(robot, known)
    except RunError:
        return robot.tree().neutral()


def _played(robot: Robot, recording: Recording) -> dict[str, str]:
    """Some instants of a recording, packed as float32."""
    tree = robot.tree()
    times = recording.table.index.to_numpy(dtype=float)
    wanted = np.arange(times[0], times[-1] + 1e-9, 1 / _RATE)
    rows = np.unique(np.append(np.searchsorted(times, wanted + 1e-9) - 1, len(times) - 1).clip(0))
    states = recording.positions()[rows]
    poses = np.asarray(link_poses(tree, states))
    return {
        "times": _packed(times[rows]),
        "q": _packed(states),
        "poses": pack_poses(poses.reshape(-1, 4, 4)),
    }


def _packed(values: Array) -> str:
    return base64.b64encode(values.astype("<f4").tobytes()).decode("ascii")


def _imports() -> dict[str, str]:
    """The modules of the page as addresses that hold them."""
    found = {f"mooring-page/{file.name}": file for file in sorted(CLIENT.glob("*.js"))}
    found["nicegui-scene"] = THREE / "index.js"
    return {
        name: "data:text/javascript;base64," + base64.b64encode(file.read_bytes()).decode("ascii")
        for name, file in found.items()
    }
