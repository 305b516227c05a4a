"""The findings; a click takes the view to the place."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from nicegui import ui

from mooring.checks import Finding
from mooring.kinematics import link_poses

if TYPE_CHECKING:
    from mooring.page.shell.shell import Shell


class Findings:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self.place = ui.element("div")

    def refresh(self) -> None:
        """After a check."""
        report = self.window.desk.report
        self.place.clear()
        with self.place:
            if report is None:
                ui.label("checking ...")
                return
            ui.label(report.summary()).style("margin-bottom: 6px")
            for finding in report.findings:
                self._one(finding)

    def _one(self, finding: Finding) -> None:
        kind = finding.severity if finding.accepted is None else "accepted"
        row = ui.element("button").classes(f"m-finding {kind}")
        row.on("click", lambda: self._go(finding))
        with row:
            ui.label(f"{kind}: {'.'.join(finding.item)}").style("font-weight: 600")
            ui.label(finding.message)
            remedy = finding.accepted and f"accepted: {finding.accepted}"
            ui.label(remedy or finding.remedy).classes("remedy")
            if finding.place is not None:
                ui.label(f"{finding.place.file.name}, line {finding.place.line}").classes("remedy")

    def _go(self, finding: Finding) -> None:
        """Choose what the finding is about, and look at it."""
        window, desk = self.window, self.window.desk
        link, joint = items_of(window, finding)
        window.select(link, joint)
        window.show_tab("Findings")
        if finding.code.startswith("overlap"):
            window.show_layers(collision=True)
            window.refresh_layers()
        if link is not None:
            body = desk.tree.link(link)
            pose = np.asarray(link_poses(desk.tree, window.standing.q))[body]
            at = pose[:3, :3] @ desk.tree.arrays.centre[body] + pose[:3, 3]
            if joint is not None:
                at = pose[:3, 3]
            window.tell("go", {"at": at.tolist(), "size": 0.0})


def items_of(window: Shell, finding: Finding) -> tuple[str | None, str | None]:
    """The link, and the joint if it is one, that a finding is about."""
    robot = window.desk.robot
    section, name = (*finding.item, "", "")[:2]
    if section == "joints" and name in robot.joints:
        return robot.joints[name].child, name
    if section == "links" and name in robot.links:
        return name, None
    owner: object = getattr(robot, section, {}).get(name) if section in (
        "frames", "sensors", "motors", "couplings", "closures", "springs"
    ) else None  # fmt: skip
    joint = getattr(owner, "joint", None)
    if joint in robot.joints:
        return robot.joints[joint].child, joint
    link = getattr(owner, "link", None) or (getattr(owner, "between", None) or (None,))[0]
    if link in robot.links:
        return link, None
    # Findings about two links name them in the item or in the message.
    words = [*finding.item, *finding.message.replace(",", " ").split()]
    return next((word for word in words if word in robot.links), None), None
