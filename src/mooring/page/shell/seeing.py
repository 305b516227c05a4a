"""What is shown of the model: layers, section, scans and cameras."""

from __future__ import annotations

import asyncio
import base64
import io
from typing import TYPE_CHECKING, Any

from nicegui import ui
from PIL import Image

from mooring.drawing.cameras import exposure

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell

LAYERS = {
    "visual": "parts", "edges": "edges", "collision": "collision shapes", "axes": "joint axes",
    "names": "names of links", "centres": "centres of mass", "inertia": "inertias as blocks",
    "forces": "contact forces", "ghost": "zero posture behind",
}  # fmt: skip
_CAMERA_PERIOD = 0.5


class Seeing:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.place = ui.element("div")
        self.camera = ""
        self.cut: dict[str, Any] = {"axis": "", "share": 0.5, "flip": False}
        self.following = False
        self._drawn = (-1, -1, -1, "")
        ui.timer(_CAMERA_PERIOD, self._expose)

    def refresh(self) -> None:
        """After a new model, or when something else changed what is shown."""
        window = self.window
        said: dict[str, Any] = window.settings["layers"]
        structure = window.host.structure
        self.place.clear()
        with self.place:
            for key, text in LAYERS.items():
                ui.checkbox(
                    text, value=said[key],
                    on_change=lambda e, k=key: window.show_layers(**{k: e.value}),
                ).props("dense").classes("full-width")  # fmt: skip
            ui.checkbox(
                "overlaps in red", value=window.wants_overlaps, on_change=self._overlaps
            ).props("dense").classes("full-width")
            self.overlaps = ui.label().style("color: var(--bad); white-space: pre-wrap")
            ui.label("Frames").classes("m-heading")
            ui.toggle(
                {"none": "none", "chosen": "of the chosen link", "all": "all"},
                value=said["frames"], on_change=lambda e: window.show_layers(frames=e.value),
            ).props("dense no-caps unelevated")  # fmt: skip
            ui.label("Parts see-through").classes("m-heading")
            ui.slider(
                min=0.1, max=1.0, step=0.05, value=said["opacity"],
                on_change=lambda e: window.show_layers(opacity=e.value),
            ).props('aria-label="how solid parts are drawn"')  # fmt: skip
            with ui.element("div").classes("m-ends"):
                ui.label("nearly invisible")
                ui.label("solid")
            ui.label("Section").classes("m-heading")
            self._section()
            ui.checkbox(
                "keep the chosen link where it is on the screen",
                value=self.following,
                on_change=self._follow,
            ).props("dense")
            if structure["scanners"]:
                ui.label("Range scanner").classes("m-heading")
                ui.select(
                    ["", *structure["scanners"]], value=window.scanner, on_change=self._scanner
                ).props("dense options-dense")
            if structure["cameras"]:
                ui.label("Camera").classes("m-heading")
                ui.select(
                    ["", *structure["cameras"]], value=self.camera, on_change=self._camera
                ).props("dense options-dense")
            self.picture = ui.image().style("width: 100%; margin-top: 6px")
            self.picture.set_visibility(False)

    def _section(self) -> None:
        with ui.row().classes("items-center no-wrap full-width"):
            axis = ui.toggle({"": "none", "x": "x", "y": "y", "z": "z"}, value=self.cut["axis"])
            axis.props("dense no-caps unelevated")
            flip = ui.checkbox("other side", value=self.cut["flip"]).props("dense")
        share = ui.slider(min=0.0, max=1.0, step=0.005, value=self.cut["share"])
        share.props('aria-label="where it is cut"')

        def cut() -> None:
            self.cut = {"axis": axis.value, "share": share.value, "flip": flip.value}
            self.window.tell("section", self.cut if axis.value else None)

        for control in (axis, flip, share):
            control.on_value_change(cut)

    def _overlaps(self, event: Any) -> None:
        self.window.wants_overlaps = bool(event.value)
        if not event.value:
            self.window.show_overlaps([])

    def say_overlaps(self, pairs: list[tuple[str, str, float]]) -> None:
        """Which links overlap, in words."""
        if not self.window.wants_overlaps:
            self.overlaps.text = ""
            return
        lines = [f"{a} and {b}: {1000 * depth:.1f} mm" for a, b, depth in pairs]
        self.overlaps.text = "\n".join(lines) or "nothing overlaps"

    def _follow(self, event: Any) -> None:
        self.following = bool(event.value)
        self.window.tell("follow", self.following)

    def _scanner(self, event: Any) -> None:
        self.window.scanner = event.value or ""
        if not event.value:
            self.window.tell("scan", None)

    def _camera(self, event: Any) -> None:
        self.camera = event.value or ""
        self.picture.set_visibility(bool(self.camera))

    async def _expose(self) -> None:
        """What the chosen camera sees now."""
        desk = self.window.desk
        sensor = desk.robot.sensors.get(self.camera)
        standing = self.window.standing
        state = (desk.model_number, id(standing), standing.number, self.camera)
        if sensor is None or sensor.view is None or state == self._drawn:
            return
        self._drawn = state
        q = standing.q.copy()
        seen = await asyncio.to_thread(
            exposure, desk.robot, desk.tree, sensor, q, desk.ground, 0.0, ("color",)
        )
        if seen.color is not None and not self.picture.is_deleted:
            self.picture.set_source(_address(Image.fromarray(seen.color)))


def _address(image: Image.Image) -> str:
    """A picture as an address that holds it."""
    stream = io.BytesIO()
    image.save(stream, "PNG")
    return "data:image/png;base64," + base64.b64encode(stream.getvalue()).decode("ascii")
