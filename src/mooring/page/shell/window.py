"""`Window`: one window of a browser: its layout, what it asks and what it is told."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from contextlib import suppress
from inspect import isawaitable
from typing import Any

from nicegui import context, ui
from nicegui.events import GenericEventArguments

from mooring.drawing.camera import VIEWS
from mooring.errors import MooringError
from mooring.model.definition.fields import dimension_of
from mooring.page.desk.remembered import remember, remembered
from mooring.page.desk.runs import KeptRun
from mooring.page.desk.standing import Standing
from mooring.page.desk.typed import typed_quantity
from mooring.page.facts.poses import frame
from mooring.page.shell.drafting import Drafting
from mooring.page.shell.findings import Findings
from mooring.page.shell.heading import Heading
from mooring.page.shell.host import Host
from mooring.page.shell.part import CLIENT, ClientPart
from mooring.page.shell.postures import Postures
from mooring.page.shell.properties import Properties
from mooring.page.shell.running import Running
from mooring.page.shell.seeing import Seeing
from mooring.page.shell.time_bar import TimeBar
from mooring.page.shell.whereabouts import Whereabouts
from mooring.simulation import RunFinding

USUAL: dict[str, Any] = {
    "layers": {"visual": True, "collision": False, "edges": True, "ghost": False, "axes": False,
               "frames": "none", "centres": False, "inertia": False, "forces": True,
               "names": False, "opacity": 1.0},
    "units": {"rotation": "deg", "translation": "mm"},
    "theme": "light",
    "camera": None,
    "visited": False,
}  # fmt: skip
WELCOME = """\
Drag to turn the view, with the right button to shift it; the wheel goes nearer.
Sliders on the left move joints; click on a part to see what it is made of.
Play simulates from here. Ctrl Z takes back; Keys, at the top, has the rest."""
BRANDS = {
    "light": {"primary": "#2f6db3", "info": "#4a5963", "negative": "#b3261e", "warning": "#b8651b",
              "positive": "#237a4b"},
    "dark": {"primary": "#6ea8e6", "info": "#4a5963", "negative": "#f08a80", "warning": "#e09a55",
             "positive": "#6cc496"},
}  # fmt: skip
SKIPS = {"To the joints": ".m-left", "To the panels": ".m-right", "To the time": ".m-foot"}
"""For those who go by keys: past what stands before."""
VIEW_KEYS = {str(number): name for number, name in enumerate(VIEWS, 1)}


def _camera(said: Any) -> dict[str, Any]:
    """Where a camera is, and how large [m] what it looks at was, of what a browser says.

    Raises:
        KeyError, TypeError, ValueError: it says something else.
    """
    at, to = ([float(x) for x in said[key]] for key in ("at", "to"))
    rest = {key: float(said[key]) for key in ("half", "zoom", "reach")}
    if len(at) != 3 or len(to) != 3 or not all(map(math.isfinite, (*at, *to, *rest.values()))):
        raise ValueError("a camera is at a place and looks at one")
    return {"at": at, "to": to, "flat": bool(said["flat"]), **rest}


def _as_kept(kept: dict[str, Any]) -> dict[str, Any]:
    """The settings that were kept, and the usual ones where what was kept is none."""
    settings = dict(USUAL)
    for key in ("layers", "units"):
        held = kept.get(key)
        if isinstance(held, dict):
            known = {k: v for k, v in held.items() if type(v) is type(USUAL[key].get(k))}
            settings[key] = USUAL[key] | known
    settings["visited"] = kept.get("visited") is True
    if kept.get("theme") in BRANDS:
        settings["theme"] = kept["theme"]
    with suppress(KeyError, TypeError, ValueError):
        settings["camera"] = _camera(kept["camera"])
    return settings


class Window:
    """Built once for each window that is opened.

    Attributes:
        host: what it looks at.
        settings: how this user likes it, kept from day to day.
        selection: the link and the joint that are chosen, by name, or None.
        scanner: the range scanner whose rays are shown; empty if none.
        own: how the model stands in it by itself; None where it stands as in all others.
    """

    def __init__(self, host: Host) -> None:
        self.host = host
        self.desk = host.desk
        self.settings = _as_kept(remembered(self.desk.source.file))
        self.selection: dict[str, str | None] = {"link": None, "joint": None}
        self.scanner = ""
        self.wants_overlaps = False
        self.own: Standing | None = None
        self.client = context.client
        self.dark = ui.dark_mode(self.settings["theme"] == "dark")
        self._brand = ui.colors(**BRANDS[self.settings["theme"]])
        ui.add_css(CLIENT / "page.css")
        self._lay_out()
        host.windows.add(self)
        self.client.on_delete(lambda: host.left(self))
        self.refresh_all()

    def _lay_out(self) -> None:
        with ui.element("div").classes("m-page") as self.page:
            for text, target in SKIPS.items():
                with ui.element("button").classes("m-skip").props(f"data-to={target}"):
                    ui.label(text)
            self.heading = Heading(self)
            with ui.element("div").classes("m-left").props("tabindex=-1"):
                self.postures = Postures(self)
                with ui.element("div").classes("m-scroll"):
                    ClientPart("chain")
            with ui.element("div").classes("m-view"):
                self.stage = ClientPart("stage").classes("m-fill").on("ask", self._asked)
                self.banner = ui.element("div").classes("m-banner").props("role=alert")
                if not self.settings["visited"]:
                    self._welcome()
            with ui.element("div").classes("m-right").props("tabindex=-1"):
                with ui.tabs().props("dense align=justify no-caps") as self.tabs:
                    names = ("Draft", "Properties", "Findings", "Show", "Run")
                    tabs = [ui.tab(name) for name in names]
                with (
                    ui.element("div").classes("m-scroll"),
                    ui.tab_panels(self.tabs, value="Show", animated=False).props("keep-alive"),
                ):
                    with ui.tab_panel(tabs[0]):
                        self.drafting = Drafting(self)
                    with ui.tab_panel(tabs[1]):
                        self.whereabouts = Whereabouts(self)
                        self.properties = Properties(self)
                    with ui.tab_panel(tabs[2]):
                        self.findings = Findings(self)
                    with ui.tab_panel(tabs[3]):
                        self.seeing = Seeing(self)
                    with ui.tab_panel(tabs[4]):
                        self.running = Running(self)
            self.foot = TimeBar(self)

    def _welcome(self) -> None:
        """Three lines for whoever is here for the first time."""
        with ui.element("div").classes("m-welcome") as welcome:
            ui.label(WELCOME)

            def leave() -> None:
                self.keep("visited", True)
                welcome.delete()

            ui.button("Got it", on_click=leave).props("flat dense no-caps")

    # What it is told.

    def tell(self, kind: str, news: Any) -> None:
        """Tell the parts in the browser something."""
        self.stage.tell(kind, news)

    def notify(self, text: str, kind: str = "negative") -> None:
        """Say something that passes."""
        with self.page:
            ui.notify(text, type=kind, multi_line=True, position="bottom",  # type: ignore[arg-type]
                      timeout=6000)  # fmt: skip

    def refresh_all(self) -> None:
        """Everything that follows the model."""
        if self.own is not None and self.own.tree is not self.desk.tree:
            # A new model: what was moved stands as in the old one, as far as it is there.
            self._stand_anew(self.own.moved())
        self._refresh_banner()
        self.heading.refresh()
        self.postures.refresh()
        self.drafting.refresh()
        self.properties.refresh()
        self.whereabouts.refresh()
        self.findings.refresh()
        self.seeing.refresh()
        self.running.refresh()
        self.refresh_status()

    def _refresh_banner(self) -> None:
        """What keeps the file from being shown as it is."""
        opened, problem = self.desk.opened, self.desk.problem
        if problem and opened.refused is not None:
            words = f"The file cannot be read; it is followed until it is mended.\n{problem}"
        elif problem:
            words = (
                "The file cannot be read as it is now; the last good model is shown.\n" + problem
            )
        else:
            words = "\n".join(("It is no tree, and shown patched up:", *opened.patches))
        self.banner.clear()
        self.banner.set_visibility(bool(problem or opened.patches))
        with self.banner:
            ui.label(words)

    def refresh_steps(self) -> None:
        self.heading.refresh_steps()
        self.running.refresh_runs()

    async def new_run(self) -> bool:
        return await self.foot.new_run()

    async def look_at(self, run: KeptRun) -> None:
        await self.foot.look_at(run)

    async def go_on_from(self, run: KeptRun, at: float) -> None:
        await self.foot.go_on_from(run, at)

    def begin_run(self) -> None:
        self.running.begin()

    def say_findings(self, findings: Sequence[RunFinding]) -> None:
        self.running.say(findings)

    def refresh_properties(self) -> None:
        self.properties.refresh()

    def refresh_draft(self) -> None:
        self.drafting.refresh()

    def refresh_layers(self) -> None:
        self.seeing.refresh()

    def refresh_findings(self) -> None:
        self.heading.refresh()
        self.findings.refresh()

    def refresh_status(self) -> None:
        """What changes while time passes."""
        self.foot.refresh()
        self.heading.refresh_status()
        self.running.refresh_live()
        self.whereabouts.refresh_live()

    def show_overlaps(self, pairs: list[tuple[str, str, float]]) -> None:
        """Color what overlaps, and say it."""
        mine = pairs if self.wants_overlaps else []
        self.tell("overlaps", sorted({name for a, b, _ in mine for name in (a, b)}))
        self.seeing.say_overlaps(mine)

    # What it asks.

    async def _asked(self, event: GenericEventArguments) -> None:
        said = event.args
        what = said.get("do") if isinstance(said, dict) else None
        answers: dict[str, Callable[[dict[str, Any]], Any]] = {
            "hello": self._hello, "jog": self._jog, "type": self._type, "pull": self._pull,
            "select": self._select, "swing": self._swing, "keep": self._keep, "key": self._key,
            "change": self._change,
            "place": lambda said: self.properties.place(str(said["path"])),
        }  # fmt: skip
        answer = answers.get(what) if isinstance(what, str) else None
        if answer is None:
            return
        try:
            done = answer(said)
            if isawaitable(done):
                await done
        except MooringError as error:
            self.notify(str(error))
        except (KeyError, TypeError, ValueError, OverflowError):
            self.notify(f"the page asked for {what} in a way that cannot be understood")

    def _hello(self, _: dict[str, Any]) -> None:
        """The browser is ready, for the first time or after it was away."""
        for kind in ("theme", "units", "layers"):
            self.tell(kind, self.settings[kind])
        if self.settings["camera"]:
            self.tell("camera", self.settings["camera"])
        self.tell("model", self.host.model_news())
        self.show_own()

    @property
    def standing(self) -> Standing:
        """How the model stands in this window."""
        return self.own or self.desk.standing

    def stand_alone(self, alone: bool) -> None:
        """Hold a posture of its own from now on, or no longer."""
        self.own = self.desk.standing.own() if alone else None
        self.show_own()
        self.heading.refresh_steps()

    def _stand_anew(self, before: dict[str, float]) -> None:
        own = self.desk.standing.own()
        own.move_to(own.of(before).q)
        self.own = own
        self.show_own()

    def show_own(self) -> None:
        """Where everything is, and what the last move of its own met."""
        own = self.own
        self.tell("frame", self.host.frame_news() if own is None else frame(own.tree, own.q))
        if own is not None:
            why, joint = own.refused
            self.tell("refused", {"joint": joint, "why": why})
            self.heading.refresh_steps()

    def show_far(self) -> None:
        """Show where everything is after a move by numbers or names.

        What that takes out of sight comes into view, in all windows that show it.
        """
        if self.own is not None:
            self.tell("bring", None)
            self.show_own()
            return
        for other in self.host.each():
            if other.own is None:
                other.tell("bring", None)
                other.tell("frame", self.host.frame_news())
        self.host.tell_refused()

    def pass_time(self, seconds: float) -> None:
        """Move what runs to and fro in this window alone."""
        own = self.own
        if own is None or own.swing is None:
            return
        number = own.number
        own.pass_time(seconds)
        if own.number != number:
            self.tell("frame", frame(own.tree, own.q))
        if own.swing is None:
            self.tell("swing", None)
            self.show_own()

    def _type(self, said: dict[str, Any]) -> None:
        """Jog to what was typed at a joint."""
        joint = str(said["joint"])
        self.desk.tree.coordinate(joint)
        dimension = dimension_of("position", self.desk.robot.joints[joint].motion)
        values = self.desk.documents.values
        try:
            value = typed_quantity(str(said["text"]), str(said["unit"]), dimension, values)
        except MooringError as error:
            self.tell("refused", {"joint": joint, "why": str(error)})
            return
        (self.own or self.desk).jog(joint, value)
        self.show_far()

    def _jog(self, said: dict[str, Any]) -> None:
        joint, value = str(said["joint"]), float(said["value"])
        (self.own or self.desk).jog(joint, value)
        if self.own is None:
            self.host.tell_refused()
        else:
            self.show_own()

    def _pull(self, said: dict[str, Any]) -> None:
        link, turned = str(said["link"]), bool(said.get("turned"))
        if self.own is not None:
            if said["target"] is not None:
                self.own.pull(link, said["point"], said["target"], turned=turned)
                self.show_own()
            return
        self.desk.pull(link, said["point"], said["target"], turned=turned)
        self.host.tell_refused()

    def _swing(self, said: dict[str, Any]) -> None:
        if self.own is not None:
            self.own.start_swing(said["joint"])
            self.tell("swing", said["joint"])
            self.show_own()
            return
        self.desk.start_swing(said["joint"])
        self.host.tell("swing", said["joint"])

    async def step_back(self) -> str:
        """Take the last step back: a move of its own, or what was done for all; what it was.

        Raises:
            InputError: that is not possible.
        """
        if self.own is not None and self.own.history.past:
            return self._stepped(self.own.undo)
        return await self.host.step_back()

    async def step_on(self) -> str:
        """Do again what was taken back last; raises as `step_back`."""
        if self.own is not None and self.own.history.future:
            return self._stepped(self.own.redo)
        return await self.host.step_on()

    def _stepped(self, do: Callable[[], str]) -> str:
        what = do()
        self.tell("swing", None)
        self.show_far()
        return what

    async def _change(self, said: dict[str, Any]) -> None:
        with self.page:
            await self.properties.change(str(said["path"]), str(said["value"]))

    def _select(self, said: dict[str, Any]) -> None:
        point = said.get("point")
        in_the_tree = point is None and bool(said.get("link") or said.get("joint"))
        if not in_the_tree and self.properties.placing.point(said.get("link"), point):
            return
        self.choose(said.get("link"), said.get("joint"))
        self.drafting.point(self.selection["link"], None if point is None else list(point))
        if (said.get("link") or said.get("joint")) and self.tabs.value != "Draft":
            self.show_tab("Properties")

    def select(self, link: str | None, joint: str | None = None) -> None:
        """Choose a link, or a joint with its child link, and show what is known of it."""
        self.choose(link, joint)
        if link or joint:
            self.show_tab("Properties")

    def choose(self, link: str | None, joint: str | None = None) -> None:
        """Choose a link, or a joint with its child link."""
        robot = self.desk.robot
        link = link if link in robot.links else None
        joint = joint if joint in robot.joints else None
        self.selection = {"link": link, "joint": joint}
        self.tell("selection", self.selection)
        self.whereabouts.look_at(link)
        self.properties.refresh()

    @property
    def tab(self) -> str:
        """The tab that is in front."""
        return str(self.tabs.value)

    def refresh_units(self) -> None:
        self.whereabouts.refresh()

    def show_tab(self, name: str) -> None:
        """Bring a tab to the front."""
        self.tabs.set_value(name)

    @property
    def motion(self) -> str:
        """The motion that is to be run."""
        return self.running.motion

    def _keep(self, said: dict[str, Any]) -> None:
        if said["key"] == "camera":
            self.keep("camera", _camera(said["value"]))

    def keep(self, key: str, value: Any) -> None:
        """Remember how this user likes it."""
        self.settings[key] = value
        remember(self.desk.source.file, self.settings)

    def set_theme(self, name: str) -> None:
        """Light or dark."""
        self.keep("theme", name)
        self.dark.set_value(name == "dark")
        with self.page:
            self._brand.delete()
            self._brand = ui.colors(**BRANDS[name])
        self.tell("theme", name)

    def show_layers(self, **changed: Any) -> None:
        """Change what is shown."""
        self.keep("layers", self.settings["layers"] | changed)
        self.tell("layers", self.settings["layers"])

    async def _key(self, said: dict[str, Any]) -> None:
        key = str(said["key"])
        if said["ctrl"]:
            again = key == "y" or bool(said["shift"])
            await (self.heading.step_on() if again else self.heading.step_back())
        elif key in VIEW_KEYS:
            self.tell("view", VIEW_KEYS[key])
        elif key == "f":
            self.tell("view", "fit")
        elif key == " ":
            await self.foot.play_or_pause()
        elif key == "escape":
            self.select(None)
        elif key in ("l", "m", "d"):
            self.heading.take({"l": "look", "m": "move", "d": "measure"}[key])
        elif key == "n":
            self.postures.take(None)
