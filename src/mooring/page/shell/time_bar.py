"""The bar at the bottom: time, for a simulation and for a recording."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from nicegui import ui

from mooring.errors import MooringError
from mooring.page.shell.hints import hint
from mooring.page.shell.running import HOLD, SCENE
from mooring.units import show

if TYPE_CHECKING:
    from mooring.page.desk.runs import KeptRun
    from mooring.page.shell.shell import Shell
    from mooring.simulation.playing import Player

SPEEDS = {
    0.01: "1/100 x",
    0.1: "1/10 x",
    0.25: "1/4 x",
    1.0: "1 x",
    4.0: "4 x",
    math.inf: "fastest",
}

_JUDGING = "looking for what went wrong"


class TimeBar:
    """Built once a window."""

    def __init__(self, window: Shell) -> None:
        self.window = window
        self._shown = -1
        with ui.row().classes("m-foot items-center gap-2").props("tabindex=-1"):
            self.play = ui.button("Play", on_click=self.play_or_pause).props("dense no-caps")
            for text, call, what in (
                ("Step", self._step, "one time step"),
                ("Reset", self._reset, "back to the start"),
                ("Stop", self._stop, "end the simulation and look through its recording"),
            ):
                button = ui.button(text, on_click=call).props("outline dense no-caps")
                hint(button, what)
            self.speed = ui.select(SPEEDS, value=1.0, on_change=self._speed)
            self.speed.props("dense options-dense borderless")
            self.time = ui.label().style("min-width: 9.375rem; font-variant-numeric: tabular-nums")
            self.scrub = ui.slider(min=0, max=1, step=1, value=0, on_change=self._scrub)
            self.scrub.classes("col")

    def refresh(self) -> None:
        """Several times a second."""
        desk = self.window.desk
        said = desk.instruments.status()
        mode = said["mode"]
        self.play.text = "Pause" if mode in ("running", "playing") else "Play"
        text = {
            "posing": "posing; Play simulates from here",
            "recording": f"{said['time']:.2f} s of {said.get('length', 0.0):.2f} s recorded",
            "playing": f"{said['time']:.2f} s of {said.get('length', 0.0):.2f} s recorded",
        }.get(mode, f"{said['time']:.3f} s")
        if mode == "running":
            text += f", {said['pace']:.3g} times real time"
        if said.get("pull"):
            text += f", pulled with {show(said['pull'], 'force', 3)}"
        if said["ended"]:
            text = said["ended"]
        text = said.get("words", text)
        if self.window.host.busy:
            text = f"{self.window.host.busy} ..."
        self.time.text = text
        self.scrub.set_visibility(desk.replay is not None)
        if desk.replay is not None:
            self.scrub._props["max"] = max(1, len(desk.replay.times) - 1)
            if self.scrub.value != desk.replay.instant:
                self._shown = desk.replay.instant
                self.scrub.value = desk.replay.instant

    async def play_or_pause(self) -> None:
        """Begin, go on, or hold."""
        window = self.window
        desk = window.desk
        if window.host.busy:
            return
        if desk.replay is not None:
            desk.replay.playing = not desk.replay.playing
            desk.replay.speed = self.speed.value
        elif desk.player is not None and desk.player.running:
            player = desk.player
            player.hold()
            # Controllers outside are told, once the slice is done that is being computed.
            await window.host.waiting("pausing", player.pause)
            recording = await window.host.waiting(_JUDGING, player.recording)
            for other in window.host.each():
                other.say_findings(recording.findings)
        else:
            if desk.player is None and not await self.new_run():
                return
            if desk.player is not None:
                desk.player.play()
        self.refresh()

    async def new_run(self) -> bool:
        """A simulation; what it needs is compiled the first time ever, which takes a while."""
        window = self.window
        desk = window.desk
        motion = None if window.motion in (SCENE, HOLD) else window.motion
        hold = window.motion == HOLD
        make = partial(desk.new_player, motion, self.speed.value, hold=hold)
        return await self._put(make, motion, hold)

    async def go_on_from(self, run: KeptRun, at: float) -> None:
        """A simulation that goes on from an instant of a run [s]."""
        make = partial(self.window.desk.player_from, run, at, self.speed.value)
        await self._put(make, run.motion, run.hold)
        self.refresh()

    async def _put(self, make: Callable[[], Player], motion: str | None, hold: bool) -> bool:
        host = self.window.host
        try:
            player = await host.waiting("preparing the simulation", make)
        except MooringError as error:
            self.window.notify(str(error))
            return False
        self.window.desk.put_player(player, motion, hold=hold)
        host.tell("swing", None)
        for other in host.each():
            other.begin_run()
        return True

    async def _step(self) -> None:
        desk = self.window.desk
        if desk.replay is not None:
            desk.replay.playing = False
            desk.show_instant(desk.replay.instant + 1)
        elif desk.player is not None or await self.new_run():
            assert desk.player is not None
            await self.window.host.waiting("stepping", desk.player.step)
        self.refresh()

    async def _reset(self) -> None:
        desk = self.window.desk
        if desk.player is not None:
            await self._begin_anew(desk.player)
        elif desk.replay is not None:
            desk.replay.playing = False
            desk.show_instant(0)
        self.refresh()

    async def _begin_anew(self, player: Player) -> None:
        """Back to the start; what was run until now is kept."""
        desk = self.window.desk
        if desk.listening is not None:
            # Controllers stay connected to what is reset.
            recording = await self.window.host.waiting(_JUDGING, player.recording)
            desk.runs.keep(player, *desk.followed, "was reset", recording)
            await self.window.host.waiting("resetting", player.reset)
            for other in self.window.host.each():
                other.begin_run()
        else:
            (motion, hold), start = desk.followed, player.simulation.start_q.copy()
            desk.close_player("was reset")
            desk.standing.move_to(start)
            make = partial(desk.new_player, motion, self.speed.value, hold=hold)
            await self._put(make, motion, hold)

    async def _stop(self) -> None:
        desk = self.window.desk
        if desk.player is not None:
            run = desk.close_player("was stopped")
            if run is not None:
                await self.look_at(run)
        else:
            desk.leave_recording()
        self.refresh()

    async def look_at(self, run: KeptRun) -> None:
        """Look through a run, from its end."""
        host, desk = self.window.host, self.window.desk
        recording = await host.waiting(_JUDGING, run.recorded)
        try:
            desk.look_through(recording)
        except MooringError as error:
            self.window.notify(str(error))
            return
        desk.show_instant(len(recording.table) - 1)
        for other in host.each():
            other.say_findings(recording.findings)
        self.refresh()

    def _speed(self) -> None:
        desk = self.window.desk
        if desk.replay is not None:
            desk.replay.speed = self.speed.value
        if desk.player is not None:
            desk.player.speed = self.speed.value

    def _scrub(self) -> None:
        number = int(self.scrub.value)
        replay = self.window.desk.replay
        if replay is not None and number not in (self._shown, replay.instant):
            self.window.desk.show_instant(number)
        self._shown = number
