"""Writers killed at random moments: what they leave is whole, and of one piece.

A child writes the same thing in two versions in turns for as long as it lives; the parent kills it,
looks, and lets the next child write over what was left.
"""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

from mooring import Recording, Robot, caching, read, read_cad, simulate
from mooring.cad import Mesh
from mooring.formats.editing import editor_of
from mooring.model import MeshShape, PlacedShape
from mooring.model.placement import Placement

_LONGEST = 0.3
"""How long a child writes before it is killed [s]."""


def kills(mode: str, count: int, seed: int) -> list[str]:
    """Kill a writer so often; what was wrong afterwards."""
    chance = random.Random(seed)
    wrong = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        for number in range(count):
            _killed(mode, folder, chance.uniform(0, _LONGEST))
            try:
                _CHECKS[mode](folder)
            except Exception as error:
                wrong.append(f"{mode}, kill {number}: {type(error).__name__}: {error}")
    return wrong


def _killed(mode: str, folder: Path, after: float) -> None:
    command = [sys.executable, "-m", "fuzz.kills", mode, str(folder)]
    environment = {**os.environ, "MOORING_CACHE_DIR": str(folder / "cache")}
    with subprocess.Popen(command, stdout=subprocess.PIPE, env=environment) as child:
        assert child.stdout is not None
        # It says so when it has written once; then it may be killed at any moment.
        if not child.stdout.readline():
            raise RuntimeError(f"the writer of {mode} came to nothing")
        time.sleep(after)
        child.send_signal(signal.SIGKILL)


def _tower(storeys: int) -> Robot:
    """A robot whose numbers, meshes and length of description tell which one it is."""
    robot = Robot(f"tower_{storeys}")
    points = np.random.default_rng(storeys).uniform(-1, 1, (400, 3))
    faces = np.arange(399).reshape(-1, 3)
    robot.add_link("storey_0", mass=1, inertia=(1, 1, 1))
    for number in range(1, storeys):
        robot.add_link(
            f"storey_{number}",
            mass=storeys,
            inertia=(1, 1, 1),
            shapes=[PlacedShape(MeshShape(Mesh(points + number, faces), "wall"), Placement())],
            collision="none",
        )
        robot.add_joint(
            f"joint_{number}",
            "revolute",
            parent=f"storey_{number - 1}",
            child=f"storey_{number}",
            limits={"lower": -1.0, "upper": storeys},
        )
    return robot


def _write_document(folder: Path) -> Callable[[int], object]:
    file = folder / "tower.yaml"
    if not file.exists():
        _tower(20).write(file)

    def save(turn: int) -> None:
        editor = editor_of(file)
        editor.set(("joints", "joint_7", "limits", "upper"), 1.0 + turn % 2)
        editor.save()

    return save


def _check_document(folder: Path) -> None:
    robot = read(folder / "tower.yaml")
    assert len(robot.links) == 20, len(robot.links)


def _write_export(folder: Path) -> Callable[[int], object]:
    towers = _tower(12), _tower(17)
    return lambda turn: towers[turn % 2].write(folder / "tower.glb")


def _check_export(folder: Path) -> None:
    parts = len(read_cad(folder / "tower.glb").parts)
    assert parts in (11, 16), parts


def _write_meshes(folder: Path) -> Callable[[int], object]:
    towers = _tower(12), _tower(17)
    return lambda turn: towers[turn % 2].write(folder / "tower.urdf")


def _check_meshes(folder: Path) -> None:
    robot = read(folder / "tower.urdf")
    storeys = len(robot.links)
    assert storeys in (12, 17), storeys
    wanted = _tower(storeys)
    for name, link in robot.links.items():
        for seen, meant in zip(link.visuals, wanted.links[name].shapes, strict=True):
            gap = np.abs(seen.shape.mesh.corners - meant.shape.mesh.corners).max()
            assert gap < 1e-5, f"{name} has a mesh of another tower"


def _write_run(folder: Path) -> Callable[[int], object]:
    runs = [simulate(_tower(n), seconds=0.2, ground="none") for n in (3, 4)]
    return lambda turn: runs[turn % 2].write(folder / "run")


def _check_run(folder: Path) -> None:
    recording = Recording.read(folder / "run")
    joints = {"tower_3": 2, "tower_4": 3}[recording.robot]
    assert len(recording.coordinates) == joints, recording.coordinates
    assert recording.end is not None, recording.notes
    assert not list(folder.glob("run.before-*")), "an old run was left"


def _write_cache(_: Path) -> Callable[[int], object]:
    contents = [bytes([65 + n]) * 2_000_000 for n in (0, 1)]
    return lambda turn: caching.keep("kills", "entry", contents[turn % 2])


def _check_cache(folder: Path) -> None:
    os.environ["MOORING_CACHE_DIR"] = str(folder / "cache")
    content = caching.kept("kills", "entry")
    assert content is not None, "no entry"
    assert len(set(content)) == 1, "half an entry"


_WRITERS = {
    "document": _write_document,
    "export": _write_export,
    "meshes": _write_meshes,
    "run": _write_run,
    "cache": _write_cache,
}
MODES = tuple(_WRITERS)
_CHECKS = {
    "document": _check_document,
    "export": _check_export,
    "meshes": _check_meshes,
    "run": _check_run,
    "cache": _check_cache,
}


def _write_for_ever(mode: str, folder: Path) -> None:
    write = _WRITERS[mode](folder)
    turn = 0
    while True:
        write(turn)
        if turn == 0:
            print("writing", flush=True)
        turn += 1


if __name__ == "__main__":
    _write_for_ever(sys.argv[1], Path(sys.argv[2]))
