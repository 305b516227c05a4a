"""Orders, done: each message that makes something move, and the call it stands for."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from mooring.bridge.messages import incoming as say
from mooring.errors import MooringError
from mooring.simulation.simulation import Simulation
from mooring.units import show

_SLACK = 1e-9


class BeyondLimitsError(MooringError):
    """An order asks a joint for what it cannot do."""


def do(simulation: Simulation, order: say.Order) -> None:
    """Carry out an order.

    Raises:
        BeyondLimitsError: it asks a joint for more than its limits.
        MooringError: it cannot be done; nothing is changed then.
    """
    _DOERS[type(order)](simulation, order)


def _command(simulation: Simulation, order: say.Command) -> None:
    _refuse_beyond(simulation, "position", order.positions)
    _refuse_beyond(simulation, "velocity", order.velocities)
    _refuse_beyond(simulation, "effort", order.efforts)
    simulation.command(order.positions, order.velocities, order.efforts)


def _go(simulation: Simulation, order: say.Go) -> None:
    if (order.posture is None) == (not order.positions):
        raise MooringError("go to a posture, or to positions: one of them")
    _refuse_beyond(simulation, "position", order.positions)
    simulation.go(order.posture or order.positions, order.over)


def _follow(simulation: Simulation, order: say.Follow) -> None:
    for joint, rows in order.courses.items():
        for _, position in rows:
            _refuse_beyond(simulation, "position", {joint: position})
    simulation.follow(order.courses)


def _roll(simulation: Simulation, order: say.Roll) -> None:
    simulation.roll(order.wheels, order.forward, order.turn)


def _push(simulation: Simulation, order: say.Push) -> None:
    simulation.push(order.link, order.force, at=order.at, moment=order.moment)


def _attach(simulation: Simulation, order: say.Attach) -> None:
    simulation.attach(order.first, order.second)


def _release(simulation: Simulation, order: say.Release) -> None:
    simulation.release(order.first, order.second)


def _grip(simulation: Simulation, order: say.Grip) -> None:
    simulation.grip(order.name, order.on)


def _convey(simulation: Simulation, order: say.Convey) -> None:
    simulation.convey(order.name, order.speed)


def _signal(simulation: Simulation, order: say.Signal) -> None:
    for name, value in order.values.items():
        simulation.devices.refuse(name, value)
    for name, value in order.values.items():
        simulation.signal(name, value)


def _hold(simulation: Simulation, order: say.Hold) -> None:
    simulation.hold(*order.joints)


def _relax(simulation: Simulation, order: say.Relax) -> None:
    simulation.relax(*order.joints)


def _rejoin(simulation: Simulation, order: say.Rejoin) -> None:
    simulation.follow_motion(*order.joints)


_DOERS: dict[type[say.Order], Callable[[Simulation, Any], None]] = {
    say.Command: _command, say.Go: _go, say.Follow: _follow, say.Roll: _roll, say.Push: _push,
    say.Attach: _attach, say.Release: _release, say.Grip: _grip, say.Convey: _convey,
    say.Signal: _signal, say.Hold: _hold, say.Relax: _relax, say.Rejoin: _rejoin,
}  # fmt: skip


def _refuse_beyond(simulation: Simulation, what: str, said: Mapping[str, float | str]) -> None:
    for joint, value in said.items():
        drive = simulation.drive(joint)
        if type(value) is float and drive.limits[what][0] <= value <= drive.limits[what][1]:
            continue
        number = drive.read(what, value)
        low, high = drive.limits[what]
        slack = _SLACK * max(1.0, abs(number))
        if not low - slack <= number <= high + slack:
            dimension = drive.dimensions[what]
            raise BeyondLimitsError(
                f"the {what} of {joint!r} is to be {show(number, dimension)}, and must be from "
                f"{show(low, dimension)} to {show(high, dimension)}"
            )


def safe(simulation: Simulation, behaviour: say.Safe) -> None:
    """Hold, relax, or hold before time stops; pushes end, and what is gripped stays gripped."""
    simulation.commands.push[:] = 0.0
    if behaviour == "relax":
        simulation.relax()
    else:
        simulation.hold()
