"""`Session`: a simulation that others control and watch, whatever the transport."""

from __future__ import annotations

import logging
import math
from collections import deque
from collections.abc import Callable
from typing import Any, Literal

from mooring.bridge.messages import INCOMING, VERSION
from mooring.bridge.messages import incoming as say
from mooring.bridge.messages.coding import decode
from mooring.bridge.session.control import Control
from mooring.bridge.session.orders import BeyondLimitsError, do, safe
from mooring.bridge.session.peer import BURST, Peer
from mooring.bridge.session.publishing import Publisher
from mooring.bridge.session.reading import RefusedError, read_message
from mooring.bridge.session.welcome import facts_of
from mooring.errors import InputError, MooringError, did_you_mean
from mooring.simulation.playing import SLICE, Change, Halt, Player
from mooring.simulation.simulation import Simulation

_LOG = logging.getLogger(__name__)
MOST_PEERS = 32
_TURNS_MISSED = 2
_REMEMBERED = 50
_LOST_TIME = 1.0
"""How much real time is lost before it is said, and said again [s]."""
Tap = Callable[[float, str, str, dict[str, Any]], None]
"""Called with the simulated time, `"in"` or `"out"`, the program, and the message."""


class Session:
    """A simulation that is served.

    Everything is done with the player's lock held, by whoever brings a message and by the
    simulation's own thread between two steps.

    Attributes:
        player: what is served.
        peers: the programs that are connected.
        happened: the last events, with their times [s].
        control: who has the say.
        lockstep: whether time waits for a controller, if it does not ask for something else.
        lost: the safe behaviour, if the controller does not ask for another.
        source: what speaks: a simulation or a machine.
        tap: where messages are logged.
    """

    def __init__(
        self,
        player: Player,
        *,
        lockstep: bool = False,
        lost: say.Safe = "hold",
        source: Literal["simulation", "machine"] = "simulation",
        tap: Tap | None = None,
    ) -> None:
        """Nobody is connected yet; time goes on as the player lets it."""
        self.player = player
        self.lockstep, self.lost, self.source, self.tap = lockstep, lost, source, tap
        self.peers: list[Peer] = []
        self.happened: deque[tuple[float, str]] = deque(maxlen=_REMEMBERED)
        self.control = Control(lockstep=lockstep, lost=lost)
        self.publisher = Publisher(player.simulation)
        self._facts = facts_of(player.simulation)
        self._told_lost_time = 0.0
        self._entry: tuple[Callable[[Simulation], None], int] | None = None
        self._over = False
        player.told = self._changed
        with player.lock:
            self.renew()

    @property
    def simulation(self) -> Simulation:
        return self.player.simulation

    # Who is there.

    def join(self, peer: Peer) -> str:
        """Let a program in; why not, if there are too many already."""
        with self.player.lock:
            if len(self.peers) >= MOST_PEERS:
                return f"{MOST_PEERS} programs are connected, which is as many as may be"
            self.peers.append(peer)
            if self.tap is not None:
                peer.tap = self._sent
        return ""

    def _sent(self, peer: Peer, message: dict[str, Any]) -> None:
        if self.tap is not None:
            self.tap(self.simulation.time, "out", peer.called, message)

    def left(self, peer: Peer, why: str = "its connection ended") -> None:
        """A program is gone."""
        with self.player.lock:
            if peer not in self.peers:
                return
            self.peers.remove(peer)
            if self.control.holder is peer:
                self._lose(f"{peer.called} had the say and is gone: {why}")
            if peer.name:
                self.tell("left", f"{peer.called} left: {why}", peer)
            self.renew()

    def close(self) -> None:
        """Tell everybody, and let the simulation go on without."""
        with self.player.lock:
            self._over = True
            self.tell("interrupted", "the server ends")
            self._drop_entry()
            self.player.told = lambda _: None
            self.player.wake()
        self.publisher.close()

    # What they say.

    def heard(self, peer: Peer, data: bytes | str) -> None:
        """A program said something."""
        if not peer.note_heard():
            if peer.may_complain():
                words = f"more than {BURST} messages a second: what is too much is not heard"
                with self.player.lock:
                    self._answer(peer, None, "", "too-often", words)
                    self._distrust(peer, words)
            return
        try:
            said = decode(data)
        except InputError as error:
            with self.player.lock:
                code = "too-large" if "bytes at most" in str(error) else "malformed"
                self._answer(peer, None, "", code, str(error))
                self._distrust(peer, str(error))
            return
        peer.binary = isinstance(data, bytes) and data[:1] != b"{"
        with self.player.lock:
            if not self._over:
                self._handle(peer, said)

    def _handle(self, peer: Peer, said: dict[str, Any]) -> None:
        number, kind = said.get("id"), said.get("kind")
        number = number if isinstance(number, int | str) else None
        if self.tap is not None:
            self.tap(self.simulation.time, "in", peer.called, said)
        moves = kind in INCOMING and INCOMING[kind].moves
        try:
            message = read_message(said)
            self._refuse_order_of_others(peer, message)
            if self.control.holder is peer:
                self.control.heard = self.simulation.time
            getattr(self, f"_{message.kind}")(peer, message)
        except RefusedError as error:
            self._answer(peer, number, str(kind), error.code, str(error))
            # A second program that may not speak is no reason to stop the first.
            if moves:
                self._distrust(peer, str(error))
        except BeyondLimitsError as error:
            self._answer(peer, number, str(kind), "limits", str(error))
            self._distrust(peer, str(error))
        except MooringError as error:
            self._answer(peer, number, str(kind), "refused", str(error))
            if moves:
                self._distrust(peer, str(error))
        else:
            if number is not None and message.kind not in ("hello", "advance", "diagnose"):
                self._answer(peer, number, message.kind)

    def _refuse_order_of_others(self, peer: Peer, message: say.Said) -> None:
        if not peer.name and message.kind not in ("hello", "bye"):
            raise RefusedError("invalid", "say hello first, with your name")
        holder = self.control.holder
        if (message.moves or message.rules) and holder is not None and holder is not peer:
            raise RefusedError("not-yours", f"{holder.called} has the say; you may watch")
        if message.moves and holder is None:
            raise RefusedError("not-yours", "nobody has the say; take it first")
        if isinstance(message, say.Order):
            late = self._stale_after()
            if message.seen is not None and message.seen > self.simulation.time + 1e-9:
                raise RefusedError(
                    "invalid",
                    f"no state is of {message.seen:g} s yet: it is {self.simulation.time:g} s",
                )
            if message.seen is not None and self.simulation.time - message.seen > late:
                raise RefusedError(
                    "stale",
                    f"this was made from the state at {message.seen:g} s, and it is "
                    f"{self.simulation.time:g} s: more than two periods ago",
                )

    def _stale_after(self) -> float:
        period = self.control.period * self.simulation.settings.step
        return (_TURNS_MISSED + 1e-6) * period if period else math.inf

    # One for each kind of message.

    def _hello(self, peer: Peer, message: say.Hello) -> None:
        if message.version != VERSION:
            raise RefusedError(
                "version", f"these are messages of version {VERSION}, not {message.version}"
            )
        if peer.name not in ("", message.name):
            raise RefusedError("invalid", f"you said hello as {peer.name!r} already")
        fresh = not peer.name
        peer.name = message.name
        peer.send(self.welcome())
        if fresh:
            self.tell("joined", f"{peer.called} is connected", peer)

    def welcome(self) -> dict[str, Any]:
        """What there is, as a message."""
        control = self.control
        return {
            "kind": "welcome", "version": VERSION, "source": self.source,
            "time": self.simulation.time, **self._facts,
            "controller": None if control.holder is None else control.holder.called,
            "lockstep": control.lockstep, "lost": control.lost,
        }  # fmt: skip

    def _watch(self, peer: Peer, message: say.Watch) -> None:
        robot, tree = self.simulation.robot, self.simulation.tree
        for name in message.sensors or ():
            if name not in robot.sensors:
                hint = did_you_mean(name, list(robot.sensors))
                raise RefusedError("invalid", f"no sensor is called {name!r}{hint}")
        for name in message.frames or ():
            if name not in robot.frames and name not in tree.links:
                hint = did_you_mean(name, [*robot.frames, *tree.links])
                raise RefusedError("invalid", f"no frame or link is called {name!r}{hint}")
        for name in message.model_fields_set - {"id"}:
            value = getattr(message, name)
            if value is not None or name == "frames":
                setattr(peer.watching, name, value)
        self.renew()
        if message.state:
            # How it is now, as time may stand.
            peer.send(self.publisher.state(), "state")

    def _take(self, peer: Peer, message: say.Take) -> None:
        control, holder = self.control, self.control.holder
        if holder is not None and holder is not peer:
            raise RefusedError("taken", f"{holder.called} has the say; you may watch")
        lockstep = self.lockstep if message.lockstep is None else message.lockstep
        if lockstep and not message.rate:
            raise RefusedError("invalid", "in lock-step a controller has a rate")
        if message.rate * self.simulation.settings.step > 1 + 1e-9:
            raise RefusedError(
                "invalid",
                f"a controller cannot speak {message.rate:g} times a second in steps of "
                f"{self.simulation.settings.step:g} s",
            )
        control.holder, control.lockstep = peer, lockstep
        control.lost = message.lost or self.lost
        control.period = self.publisher.every(message.rate) if message.rate else 0
        control.heard, control.is_safe = self.simulation.time, False
        control.announced, control.granted = -1, self.simulation.native.steps
        self.renew()
        how = "in lock-step" if lockstep else "while time goes on"
        self.tell("controls", f"{peer.called} has the say, {how}", peer)
        self.player.wake()

    def _leave(self, peer: Peer, message: say.Leave) -> None:
        del message
        if self.control.holder is not peer:
            raise RefusedError("not-yours", "you do not have the say")
        self._free()
        self.tell("controls-no-more", f"{peer.called} gave the say back", peer)

    def _order(self, peer: Peer, message: say.Order) -> None:
        del peer
        do(self.simulation, message)
        self.control.is_safe = False

    _command = _go = _follow = _roll = _push = _attach = _release = _order
    _grip = _convey = _signal = _hold = _relax = _rejoin = _order

    def _advance(self, peer: Peer, message: say.Advance) -> None:
        control = self.control
        if not control.lockstep:
            raise RefusedError("refused", "time goes on by itself; take the say in lock-step")
        orders = [read_message(said) for said in message.orders]
        for order in orders:
            if not isinstance(order, say.Order) or isinstance(order, say.Advance):
                raise RefusedError("invalid", f"{order.kind} is nothing to be done in a period")
        for order in orders:
            self._order(peer, order)
        # Until the turn after so many, whether or not this one has been announced yet.
        control.is_safe = False
        turn = max(control.announced, control.granted)
        control.granted = turn + message.periods * control.period
        self.player.go_on_here()

    def _read(self, peer: Peer, message: say.Read) -> None:
        if (measurement := self.publisher.measurement(message.sensor)) is not None:
            peer.send(measurement)

    def _play(self, peer: Peer, message: say.Play) -> None:
        del peer, message
        if self.simulation.ended:
            raise RefusedError("refused", f"{self.simulation.ended}; reset it first")
        self.player.play()

    def _pause(self, peer: Peer, message: say.Pause) -> None:
        del peer, message
        self.player.pause()

    def _step(self, peer: Peer, message: say.Step) -> None:
        del peer
        self.player.step(message.count, wait=False)

    def _reset(self, peer: Peer, message: say.Reset) -> None:
        del peer
        self.player.reset()
        if message.play:
            self.player.play()

    def _pace(self, peer: Peer, message: say.Pace) -> None:
        del peer
        self.player.speed = message.speed or math.inf

    def _clear(self, peer: Peer, message: say.Clear) -> None:
        del peer, message
        raise RefusedError("not-here", "a simulation has no fault to be reset")

    def _diagnose(self, peer: Peer, message: say.Diagnose) -> None:
        peer.send(self.findings(message.id))

    def _bye(self, peer: Peer, message: say.Bye) -> None:
        del message
        self.left(peer, "it said goodbye")

    def findings(self, number: int | str | None = None) -> dict[str, Any]:
        """What went wrong so far, as a message."""
        recording = self.simulation.recording
        found = [
            {"code": f.code, "item": f.item, "since": f.since, "message": f.message,
             "remedy": f.remedy}
            for f in recording.findings
        ]  # fmt: skip
        return {"kind": "findings", "id": number, "findings": found, "notes": recording.notes}

    # What they are told.

    def tell(self, what: str, words: str, about: Peer | None = None) -> None:
        """Tell everybody of an event."""
        who = None if about is None else about.called
        self.happened.append((self.simulation.time, words))
        _LOG.info("at %.3f s: %s", self.simulation.time, words)
        event = {"kind": "event", "time": self.simulation.time, "what": what, "words": words,
                 "who": who}  # fmt: skip
        for peer in self.peers:
            if peer.name:
                peer.send(event)

    def _answer(
        self, peer: Peer, number: int | str | None, to: str, code: str = "", words: str = ""
    ) -> None:
        peer.send({"kind": "answer", "id": number, "to": to[:100], "ok": not code,
                          "code": code, "words": words})  # fmt: skip

    # Between two steps.

    def renew(self) -> None:
        """Find anew how often there is something to do between two steps."""
        with self.player.lock:
            room = self.publisher.room(peer for peer in self.peers if peer.name)
            step = self.simulation.settings.step
            ticks = math.gcd(room, self.control.period)
            if not ticks:
                ticks = 1 if self.control.lockstep else max(1, round(SLICE / step))
            self._drop_entry()
            self._entry = (self._tick, ticks)
            # Before controllers in the process: what is told is what they find.
            self.simulation.controllers.insert(0, self._entry)
            self.player.slice = min(SLICE, ticks * step)

    def _drop_entry(self) -> None:
        if self._entry in self.simulation.controllers:
            self.simulation.controllers.remove(self._entry)

    def _tick(self, simulation: Simulation) -> None:
        if self._over:
            return
        steps, control = simulation.native.steps, self.control
        for time, name, value in self.publisher.signal_changes():
            word = "true" if value else "false"
            self.tell("signal", f"{name} is {word} since {time:g} s")
        for time, name, link in self.publisher.losses():
            words = f"{name} lost {link} at {time:g} s: it was pulled harder than it holds"
            self.tell("dropped", words)
        late = simulation.time - control.heard
        if not control.lockstep and late > self._stale_after() - 0.5 * simulation.settings.step:
            self._lose_silent()
        if control.announced != steps:
            peers = [peer for peer in self.peers if peer.name]
            self.publisher.tell(peers, control.holder, control.lockstep)
            self._tell_slow_readers(peers)
            self._tell_lost_time()
            holder = control.holder
            if holder is not None and not control.lockstep and self._is_turn(steps):
                holder.send(self.publisher.state(), "state")
        if control.lockstep:
            self._await_controller(steps)

    def _lose_silent(self) -> None:
        """The controller was not heard in time."""
        holder = self.control.holder
        if holder is None:
            return
        since = f"{self.control.heard:g} s"
        self._lose(f"{holder.called} had the say and was not heard for two periods, since {since}")
        self._answer(
            holder, None, "take", "not-yours",
            "you were not heard for two periods and lost the say; take it again",
        )  # fmt: skip

    def _is_turn(self, steps: int) -> bool:
        """Whether a controller that is not waited for hears how everything is."""
        control = self.control
        period = control.period
        holder = control.holder
        if holder is not None and holder.watching.state:
            period = self.publisher.every(holder.watching.state)
        return bool(period) and steps % period == 0

    def _await_controller(self, steps: int) -> None:
        """In lock-step, let time stand until the controller lets it go on."""
        control = self.control
        if control.holder is not None:
            if steps % control.period or steps < control.granted:
                return
            if control.announced != steps:
                control.announced = steps
                control.holder.send(self.publisher.state(turn=True))
        raise Halt

    def _tell_slow_readers(self, peers: list[Peer]) -> None:
        for peer in peers:
            if peer.left_out and peer.left_out % 1000 == 0 and peer.newly_left_out():
                self.tell(
                    "slow-reader", f"{peer.called} reads slowly: {peer.left_out} messages that "
                    "were newer already were left out", peer,
                )  # fmt: skip

    def _tell_lost_time(self) -> None:
        """Say that the simulation does not keep up, once for each second that was lost."""
        lost = self.player.lost_time
        if lost - self._told_lost_time >= _LOST_TIME:
            self._told_lost_time = lost
            pace = self.player.moment().pace
            self.tell(
                "behind", f"the simulation cannot keep the pace that is asked for: {lost:.1f} s of "
                f"real time are lost so far; it now goes at {pace:.2f} times real time",
            )  # fmt: skip

    # What follows from what goes wrong.

    def _free(self) -> None:
        control = self.control
        control.holder, control.period = None, 0
        control.lockstep, control.lost = self.lockstep, self.lost
        self.renew()
        self.player.wake()

    def _lose(self, why: str) -> None:
        """The controller is lost."""
        behaviour = self.control.lost
        holder = self.control.holder
        self._free()
        self.tell("lost", why, holder)
        self._go_safe(behaviour, why)

    def _distrust(self, peer: Peer, why: str) -> None:
        """The controller said what cannot be done."""
        if self.control.holder is peer and not self.control.is_safe:
            self._go_safe(self.control.lost, why)

    def _go_safe(self, behaviour: say.Safe, why: str) -> None:
        self.control.is_safe = True
        safe(self.simulation, behaviour)
        words = {
            "hold": "motors hold where joints are (those by effort give nothing)",
            "relax": "motors give nothing",
            "stop": "motors hold where joints are, and time stops",
        }[behaviour]
        self.tell("safe", f"{words}, because {why}")
        if behaviour == "stop":
            self.player.pause()

    def _changed(self, change: Change) -> None:
        """The player goes on, stands, is at the start again, or ended, by whoever's hand."""
        control, now = self.control, f"{self.simulation.time:g} s"
        if change == "reset":
            self.publisher.forget()
            control.is_safe = False
            control.announced, control.granted = -1, 0
        if change in ("playing", "reset"):
            # Nobody could speak while time stood.
            control.heard = self.simulation.time
        words = {
            "playing": "time goes on", "paused": f"time stands at {now}",
            "reset": "everything is at the start again",
            "ended": self.player.moment().ended or f"it ended at {now}, as was asked for",
        }  # fmt: skip
        self.tell(change, words[change])
        if change == "ended":
            for peer in self.peers:
                if peer.name:
                    peer.send(self.findings())
