"""Adding frames and sensors."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from mooring.errors import did_you_mean
from mooring.model.frame import LinkFrame
from mooring.model.placement import Where
from mooring.model.robot.contents import Contents
from mooring.model.sensor import SENSOR_KINDS
from mooring.model.validation import EntryError, define


class Mounting(Contents):
    """What sits on it; see `Robot`."""

    def add_frame(
        self,
        name: str,
        *,
        link: str,
        at: Where = None,
        role: str = "plain",
    ) -> None:
        """Fix a frame to a link.

        Args:
            name: a new name.
            link: the link it moves with.
            at: where it is on the link (or in the CAD); by default the link's own frame.
            role: `"plain"`, `"tool"`, `"mount"` or `"sensor"`.

        Raises:
            ModelError: the name is taken, the link is unknown, or a value is wrong.

        Example:
            `robot.add_frame("grip", link="clamp", at=(0, 0, "140 mm"), role="tool")`
        """
        entry = {"link": link, "role": role}
        self.describe_frame(name, entry if at is None else {**entry, "at": at})

    def describe_frame(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a frame from a mapping with the keys of `LinkFrame`, as in a document."""
        self._free("frame", name, self.frames)
        what = f"frame {name!r}"
        frame = define(LinkFrame, what, entry, name=name)
        if frame.link not in self.links:
            hint = did_you_mean(frame.link, list(self.links))
            raise EntryError(what, [(("link",), f"no link is called {frame.link!r}{hint}")])
        self.frames[name] = frame

    def add_sensor(self, name: str, kind: str, **entry: Any) -> None:
        """Add a sensor.

        Args:
            name: a new name.
            kind: `"imu"`, `"encoder"`, `"force_torque"`, `"contact"`, `"range_scanner"` or
                `"camera"`.
            entry: the keys of that kind, see `mooring.model.sensor`.

        Raises:
            ModelError: the name is taken, a link, frame or joint is unknown, or a value is wrong.

        Example:
            `robot.add_sensor("tip_imu", "imu", link="boom", rate="200 Hz")`
        """
        self.describe_sensor(name, {"kind": kind, **entry})

    def describe_sensor(self, name: str, entry: Mapping[str, Any]) -> None:
        """Add a sensor from a mapping with a kind and the keys of that kind, as in a document."""
        self._free("sensor", name, self.sensors)
        what = f"sensor {name!r}"
        kind = entry.get("kind")
        if kind not in SENSOR_KINDS:
            hint = did_you_mean(str(kind), list(SENSOR_KINDS))
            raise EntryError(what, [(("kind",), f"unknown kind of sensor {kind!r}{hint}")])
        sensor = define(SENSOR_KINDS[str(kind)], what, entry, name=name)
        for key, names, known in (
            ("link", sensor.links(), self.links),
            ("frame", sensor.frames(), self.frames),
            ("joint", sensor.joints(), self.joints),
        ):
            for other in names:
                if other not in known:
                    hint = did_you_mean(other, list(known))
                    raise EntryError(what, [((key,), f"no {key} is called {other!r}{hint}")])
        self.sensors[name] = sensor
