"""What the parts of a window ask of it, and what whoever serves windows tells one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any, Protocol

from nicegui import ui

if TYPE_CHECKING:
    from mooring.page.desk.desk import Desk
    from mooring.page.desk.runs import KeptRun
    from mooring.page.desk.standing import Standing
    from mooring.page.shell.host import Host
    from mooring.simulation import RunFinding

Overlaps = list[tuple[str, str, float]]


class Told(Protocol):
    """A window as it is told what has changed.

    Attributes:
        page: to build in.
        scanner: the range scanner whose rays it shows; empty if none.
        wants_overlaps: whether it shows what overlaps.
        own: how the model stands in it by itself; None where it stands as in all others.
    """

    page: ui.element
    scanner: str
    wants_overlaps: bool
    own: Standing | None

    @property
    def standing(self) -> Standing:
        """How the model stands in it."""

    def tell(self, kind: str, news: Any) -> None:
        """Tell the parts in the browser something."""

    def notify(self, text: str, kind: str = "negative") -> None:
        """Say something that passes."""

    def show_overlaps(self, pairs: Overlaps) -> None:
        """Color what overlaps, and say it."""

    def refresh_draft(self) -> None:
        """What was drafted, and what is pointed at."""

    def pass_time(self, seconds: float) -> None:
        """Move what moves in it alone."""

    def begin_run(self) -> None:
        """A run begins, from the start."""

    def say_findings(self, findings: Sequence[RunFinding]) -> None:
        """What went wrong in a run."""

    def refresh_all(self) -> None:
        """Everything that follows the model."""

    def refresh_findings(self) -> None:
        """What follows the findings."""

    def refresh_status(self) -> None:
        """What changes while time passes."""

    def refresh_steps(self) -> None:
        """What can be taken back and done again, and which runs are kept."""


class Shell(Told, Protocol):
    """A window as its parts see it.

    Attributes:
        host: what it looks at.
        desk: the model and what is done with it.
        settings: how this user likes it.
        selection: the link and the joint that are chosen, by name, or None.
        motion: the motion that is to be run.
    """

    host: Host
    desk: Desk
    settings: dict[str, Any]
    selection: dict[str, str | None]

    @property
    def motion(self) -> str:
        """The motion that is to be run."""

    async def new_run(self) -> bool:
        """Prepare a simulation; whether there is one then."""

    async def look_at(self, run: KeptRun) -> None:
        """Look through a run that is kept."""

    async def go_on_from(self, run: KeptRun, at: float) -> None:
        """Simulate on from an instant of a run [s]."""

    def refresh_properties(self) -> None:
        """What is said of what is chosen."""

    @property
    def tab(self) -> str:
        """The tab that is in front."""

    async def step_back(self) -> str:
        """Take the last step back; what it was."""

    async def step_on(self) -> str:
        """Do again what was taken back last; what it was."""

    def show_far(self) -> None:
        """Where everything is after a move by numbers or names, which stays in sight."""

    def stand_alone(self, alone: bool) -> None:
        """Hold a posture of its own from now on, or no longer."""

    def refresh_units(self) -> None:
        """What is told in the units of the page."""

    def refresh_layers(self) -> None:
        """What says which layers are shown."""

    def show_tab(self, name: str) -> None:
        """Bring a tab to the front."""

    def choose(self, link: str | None, joint: str | None = None) -> None:
        """Choose a link, or a joint with its child link."""

    def select(self, link: str | None, joint: str | None = None) -> None:
        """Choose, and show what is known of it."""

    def keep(self, key: str, value: Any) -> None:
        """Remember how this user likes it."""

    def set_theme(self, name: str) -> None:
        """Light or dark."""

    def show_layers(self, **changed: Any) -> None:
        """Change what is shown."""
