"""What cameras see, drawn beside the simulation unless somebody waits for it."""

from __future__ import annotations

import io
import threading
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.bridge.session.peer import Peer
from mooring.errors import MooringError
from mooring.geometry import Array

if TYPE_CHECKING:
    from mooring.drawing import Exposure
    from mooring.simulation.simulation import Simulation

DEPTH_UNIT = 1e-3
"""Of a pixel of a depth picture [m]."""
_Job = tuple[str, float, Array, list[Peer], int]


class Pictures:
    """Draws pictures in a thread, the newest of each camera."""

    def __init__(self, simulation: Simulation) -> None:
        """Nothing to draw yet; the thread begins with the first picture."""
        self.simulation = simulation
        self._bell = threading.Condition()
        self._jobs: dict[str, _Job] = {}
        self._over = False
        self._thread: threading.Thread | None = None

    def take(self, name: str, time: float, q: Array, peers: list[Peer], *, waiting: bool) -> None:
        """Draw what a camera saw, now if somebody waits, else as soon as there is time."""
        job: _Job = (name, time, q.copy(), peers, 0)
        if waiting:
            self._draw(job)
            return
        with self._bell:
            older = self._jobs.get(name)
            self._jobs[name] = (*job[:4], 0 if older is None else older[4] + 1)
            self._bell.notify()
        if self._thread is None:
            self._thread = threading.Thread(target=self._run, name="pictures", daemon=True)
            self._thread.start()

    def close(self) -> None:
        """End the thread, when the picture it draws is done."""
        with self._bell:
            self._over = True
            self._bell.notify()
        if self._thread is not None:
            self._thread.join()

    def _run(self) -> None:
        while True:
            with self._bell:
                self._bell.wait_for(lambda: bool(self._jobs) or self._over)
                if self._over:
                    return
                jobs, self._jobs = list(self._jobs.values()), {}
            for job in jobs:
                try:
                    self._draw(job)
                except MooringError as error:
                    words = f"the picture of {job[0]} cannot be drawn: {error}"
                    for peer in job[3]:
                        peer.send({"kind": "event", "time": job[1], "what": "fault",
                                   "words": words, "who": None})  # fmt: skip

    def _draw(self, job: _Job) -> None:
        from mooring.drawing.cameras import exposure

        name, time, q, peers, left_out = job
        simulation = self.simulation
        camera = simulation.robot.sensors[name]
        seen = exposure(simulation.robot, simulation.tree, camera, q, simulation.ground, time)
        made: dict[tuple[str, str], dict[str, Any]] = {}
        for peer in peers:
            for channel in peer.watching.pictures:
                key = channel, peer.watching.format if channel == "color" else "png"
                if key not in made:
                    file = _file(seen, *key)
                    if file is None:
                        continue
                    made[key] = {
                        "kind": "image", "time": time, "sensor": name, "channel": channel,
                        "format": key[1], "unit": DEPTH_UNIT if channel == "depth" else None,
                        "data": file, "left_out": left_out,
                    }  # fmt: skip
                peer.send(made[key], f"{name}.{channel}")


def _file(seen: Exposure, channel: str, format: str) -> bytes | None:
    from PIL import Image

    stream = io.BytesIO()
    if channel == "color":
        if seen.color is None:
            return None
        Image.fromarray(np.asarray(seen.color)).convert("RGB").save(stream, format)
    else:
        if seen.depth is None:
            return None
        far = np.where(np.isfinite(seen.depth), seen.depth / DEPTH_UNIT, 0.0)
        pixels = np.where(far < 65535.5, np.round(far), 0).astype(np.uint16)
        Image.fromarray(pixels).save(stream, "png")
    return stream.getvalue()
