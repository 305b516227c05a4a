"""A page in one file: it needs no server and no network, and nothing installed but a browser."""

from __future__ import annotations

import base64
import gzip
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
<script type="application/json" id="packed">{packed}</script>
<script>
(async () => {{
  const packed = JSON.parse(document.getElementById("packed").textContent);
  const unpacked = async (text) => {{
    const stored = Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));
    const stream = new Blob([stored]).stream().pipeThrough(new DecompressionStream("gzip"));
    return new Response(stream).text();
  }};
  const imports = {{}};
  for (const [name, text] of Object.entries(packed.modules)) {{
    const code = new Blob([await unpacked(text)], {{ type: "text/javascript" }});
    imports[name] = URL.createObjectURL(code);
  }}
  window.model = JSON.parse(await unpacked(packed.model));
  const map = document.createElement("script");
  map.type = "importmap";
  map.textContent = JSON.stringify({{ imports }});
  document.head.append(map);
  await import("mooring-page/saved.js");
}})();
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
    write_text(page_file(file), page_text(robot, recording=recording, q=q, ground=ground))


def page_file(file: str | PathLike[str]) -> Path:
    """A file that a page can be written into.

    Raises:
        ModelError: its suffix is another.
    """
    path = Path(file)
    if path.suffix.lower() not in (".html", ".htm"):
        raise ModelError(f"{path}: a page is written as .html")
    return path


def page_text(
    robot: Robot,
    *,
    recording: Recording | None = None,
    q: Array | None = None,
    ground: Ground | None = None,
) -> str:
    """The page that `save_page` writes; its arguments are those."""
    tree = robot.tree()
    if recording is not None and list(tree.coordinates) != recording.coordinates:
        raise ModelError(f"the recording of {recording.robot!r} is not one of {robot.name!r}")
    if recording is not None and not len(recording.table):
        raise ModelError("nothing was recorded that could be shown")
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
    return _SHELL.format(
        title=html.escape(robot.name),
        caption=html.escape(caption),
        style=(CLIENT / "page.css").read_text("utf-8"),
        # Base64 in JSON has nothing in it that could end the script it stands in.
        packed=json.dumps({"modules": _modules(), "model": _zipped(json.dumps(model).encode())}),
    )


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


def _modules() -> dict[str, str]:
    """The modules of the page by the names they import each other by."""
    found = {f"mooring-page/{file.name}": file for file in sorted(CLIENT.glob("*.js"))}
    found["nicegui-scene"] = THREE / "index.js"
    return {name: _zipped(file.read_bytes()) for name, file in found.items()}


def _zipped(data: bytes) -> str:
    # The time it is made is left out, so that equal pages are equal files.
    return base64.b64encode(gzip.compress(data, mtime=0)).decode("ascii")
