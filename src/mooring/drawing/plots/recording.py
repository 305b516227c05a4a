"""The plots that answer the usual questions about a run."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from matplotlib.axes import Axes
from matplotlib.figure import Figure

from mooring.drawing.palette import INK
from mooring.drawing.plots.style import color, sheet, styled
from mooring.geometry import Array
from mooring.model.motor_modes import MOTOR_MODES
from mooring.simulation import Recording

_LIMIT = "#c8433f"
_MOST_PAIRS = 14
_USUAL = 0.98


def motion(recording: Recording) -> Figure:
    """Every joint's position, with its motor's target where it has one."""
    joints = recording.joints
    time = recording.table.index.to_numpy()
    with styled():
        figure, axes = sheet(len(joints), f"{recording.robot}: motion")
        for number, (joint, axis) in enumerate(zip(joints, axes, strict=True)):
            factor, unit = _shown(recording.units[joint])
            if joint in recording.modes and MOTOR_MODES[recording.modes[joint]].tracks_velocity:
                _speed(recording, joint, axis, number)
                continue
            if joint in recording.limits:
                target = recording.table[f"{joint}.target"] * factor
                axis.plot(time, target, color=INK, lw=1.0, ls=(0, (4, 3)), label="target")
            position = recording.table[f"{joint}.position"] * factor
            axis.plot(time, position, color=color(number), label="position")
            axis.set_title(joint)
            axis.set_ylabel(unit)
            _not_too_flat(axis, position.to_numpy(), 0.02 * (90 if unit == "deg" else 1000))
        driven = [a for j, a in zip(joints, axes, strict=True) if j in recording.limits]
        if driven:
            driven[0].legend(loc="best")
    return figure


def _speed(recording: Recording, joint: str, axis: Axes, number: int) -> None:
    """What a motor by velocity is about: its speed, and that wanted."""
    time = recording.table.index.to_numpy()
    factor, unit = _shown(recording.units[joint])
    target = recording.table[f"{joint}.target"] * factor
    axis.plot(time, target, color=INK, lw=1.0, ls=(0, (4, 3)), label="target")
    velocity = recording.table[f"{joint}.velocity"] * factor
    axis.plot(time, velocity, color=color(number), label="velocity")
    axis.set_title(f"{joint}: velocity")
    axis.set_ylabel(f"{unit}/s")
    _not_too_flat(axis, velocity.to_numpy(), 0.02 * (90 if unit == "deg" else 1000))


def effort(recording: Recording) -> Figure:
    """Every motor's effort against its limit."""
    joints = recording.driven
    time = recording.table.index.to_numpy()
    with styled():
        figure, axes = sheet(max(1, len(joints)), f"{recording.robot}: motor effort and its limit")
        if not joints:
            axes[0].text(
                0.5, 0.5, "the robot has no motors", ha="center", transform=axes[0].transAxes
            )
        for number, (joint, axis) in enumerate(zip(joints, axes, strict=False)):
            values = recording.table[f"{joint}.effort"].to_numpy()
            limit = recording.limits[joint]
            kilo = max(np.abs(values).max(initial=0), limit if np.isfinite(limit) else 0) >= 2000
            factor = 1e-3 if kilo else 1.0
            unit = ("kN" if kilo else "N") + (" m" if recording.units[joint] == "rad" else "")
            axis.plot(time, values * factor, color=color(number))
            worst = float(np.abs(values).max(initial=0))
            title = f"{joint}: at most {worst * factor:.3g}"
            title += f" of {limit * factor:.4g} {unit}" if np.isfinite(limit) else f" {unit}"
            if np.isfinite(limit):
                for side in (-limit, limit):
                    # A limit far beyond what happens would flatten the curve: the title names it.
                    if worst > 0.3 * limit:
                        axis.axhline(side * factor, color=_LIMIT, lw=1.0, ls=(0, (5, 3)))
            axis.set_title(title, fontsize=9 if len(joints) <= 12 else 8)
            axis.set_ylabel(unit)
    return figure


def energy(recording: Recording) -> Figure:
    """Where the motors' work went."""
    table = recording.table
    time = table.index.to_numpy()
    kinetic = table["energy.kinetic"].to_numpy()
    potential = table["energy.potential"].to_numpy()
    raised = potential - potential[0]
    stored = kinetic - kinetic[0] + raised
    given = table["energy.motors"].to_numpy()
    damping, friction = table["energy.damping"].to_numpy(), table["energy.friction"].to_numpy()
    contact, pushed = table["energy.contact"].to_numpy(), table["energy.pushes"].to_numpy()
    missing = given + pushed - stored - damping - friction - contact
    kilo = 1e-3 if max(np.abs(given).max(), np.abs(stored).max()) >= 2000 else 1.0
    unit = "kJ" if kilo == 1e-3 else "J"
    with styled():
        figure, (flow, inside) = sheet(2, f"{recording.robot}: energy")
        flow.plot(time, given * kilo, color=INK, lw=2.2, label="given by motors")
        flow.plot(time, stored * kilo, color=color(0), label="stored in the machine")
        flow.plot(time, damping * kilo, color=color(1), label="lost to damping")
        flow.plot(time, friction * kilo, color=color(3), label="lost to friction")
        if np.abs(contact).max(initial=0) > 0:
            flow.plot(time, contact * kilo, color=color(4), label="lost in contacts, at stops")
        flow.plot(
            time, missing * kilo, color=_LIMIT, lw=1.2, ls=(0, (3, 2)),
            label="not accounted for (loops, time step)",
        )  # fmt: skip
        flow.set_title("balance since the start")
        inside.plot(time, raised * kilo, color=color(2), label="potential, since the start")
        inside.plot(time, kinetic * kilo, color=color(5), label="kinetic")
        inside.set_title("stored in the machine")
        for axis in (flow, inside):
            axis.set_ylabel(unit)
            axis.legend(loc="best")
    return figure


def contacts(recording: Recording) -> Figure:
    """When what pressed on what, and how hard."""
    table = recording.contacts
    size = (table["fx"] ** 2 + table["fy"] ** 2 + table["fz"] ** 2) ** 0.5
    names = table["first"].astype(str) + " - " + table["second"].astype(str)
    summed = size.groupby([names, table["time"]]).sum()
    pairs = list(summed.groupby(level=0).max().sort_values(ascending=False).index[:_MOST_PAIRS])
    pairs.sort(key=lambda pair: float(summed[pair].index[0]))
    times = recording.table.index.to_numpy()
    with styled():
        figure, axes = sheet(1, f"{recording.robot}: contacts")
        axis = axes[0]
        if not pairs:
            axis.text(0.5, 0.5, "nothing touched anything", ha="center", transform=axis.transAxes)
        largest = float(summed.max()) if pairs else 1.0
        # Impacts are so much harder than anything else that they would flatten it.
        shown = float(summed.quantile(_USUAL)) if pairs else 1.0
        for number, pair in enumerate(reversed(pairs)):
            force = summed[pair].reindex(times).fillna(0.0).to_numpy()
            top = number + 0.84 * np.minimum(force / shown, 1.0)
            axis.fill_between(times, number, top, color=color(number), lw=0.6, step="mid")
            axis.axhline(number, color=INK, lw=0.4)
        axis.set_yticks(np.arange(len(pairs)) + 0.4, list(reversed(pairs)))
        # Room for the names, at so many pixels a letter.
        longest = max((len(str(pair)) for pair in pairs), default=0)
        figure.subplots_adjust(left=min(0.4, 0.02 + 5.7 * longest / 1280))
        title = f"force between, cut off at {shown:.3g} N; the largest is {largest:.4g} N"
        axis.set_title(title if pairs else "")
    return figure


PLOTS: dict[str, Callable[[Recording], Figure]] = {
    "motion": motion,
    "effort": effort,
    "energy": energy,
    "contacts": contacts,
}


def _shown(unit: str) -> tuple[float, str]:
    return (180 / np.pi, "deg") if unit == "rad" else (1000.0, "mm")


def _not_too_flat(axis: Axes, values: Array, least: float) -> None:
    """Keep a joint that hardly moves from showing its noise as a mountain range."""
    low, high = axis.get_ylim()
    if high - low < least:
        middle = float(np.mean(values))
        axis.set_ylim(middle - least / 2, middle + least / 2)
