"""What each motor did in a run: what a motor is chosen by."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import TYPE_CHECKING

import numpy as np

from mooring.model import Motor
from mooring.simulation.recording.columns import in_units, unit_in

if TYPE_CHECKING:
    import pandas as pd

COLUMNS = {
    "peak_effort": "largest effort at the joint [N m or N]",
    "rms_effort": "root of the mean square of that, which heats [N m or N]",
    "of_limit": "largest effort as a share of the limit",
    "peak_speed": "largest speed of the joint [rad/s or m/s]",
    "peak_power": "largest mechanical power given [W]",
    "mean_power": "mean mechanical power, what came back taken off [W]",
    "energy_given": "mechanical energy given [J]",
    "energy_back": "mechanical energy that came back while braking [J]",
    "of_continuous": "root mean square torque as a share of what the motor can give for ever",
    "peak_current": "largest current [A]",
    "rms_current": "root of its mean square [A]",
    "peak_voltage": "largest voltage that the winding takes [V]",
    "heat": "energy lost in the winding [J]",
}


@dataclass(frozen=True)
class Drive:
    """What a motor's electrical side and its heat follow from.

    Attributes:
        gear_ratio: turns of the motor per turn of the joint, or radians per metre of its way.
        continuous_torque: what it can give for ever, before the gear [N m].
        torque_constant: [N m/A]
        resistance: [ohm]
    """

    gear_ratio: float
    continuous_torque: float | None = None
    torque_constant: float | None = None
    resistance: float | None = None

    @staticmethod
    def of(motor: Motor) -> Drive:
        wound = motor.winding
        return Drive(
            motor.gear_ratio,
            motor.continuous_torque,
            None if wound is None else wound.torque_constant,
            None if wound is None else wound.resistance,
        )

    def described(self) -> dict[str, float | None]:
        """As plain values."""
        return asdict(self)


def motor_table(
    table: pd.DataFrame, limits: dict[str, float], drives: dict[str, Drive]
) -> pd.DataFrame:
    """One row a driven joint, with `COLUMNS`; empty where the motor does not say enough.

    Args:
        table: of a recording.
        limits: of efforts, by joint.
        drives: by joint.
    """
    import pandas as pd

    time = table.index.to_numpy(dtype=float)
    span = float(time[-1] - time[0]) if len(time) > 1 else 0.0
    rows = {}
    for joint, limit in limits.items():
        effort = table[f"{joint}.effort"].to_numpy(dtype=float)
        speed = table[f"{joint}.velocity"].to_numpy(dtype=float)
        drive = drives.get(joint, Drive(1.0))
        power = effort * speed

        def mean(values: np.ndarray) -> float:
            return float(np.trapezoid(values, time)) / span if span else float(values.mean())

        torque = effort / drive.gear_ratio
        rms = float(np.sqrt(mean(effort**2)))
        peak = float(np.abs(effort).max(initial=0.0))
        row = {
            "peak_effort": peak,
            "rms_effort": rms,
            "of_limit": peak / limit if np.isfinite(limit) else np.nan,
            "peak_speed": float(np.abs(speed).max(initial=0.0)),
            "peak_power": float(power.max(initial=0.0)),
            "mean_power": mean(power),
            "energy_given": mean(np.maximum(power, 0.0)) * span,
            "energy_back": mean(np.maximum(-power, 0.0)) * span,
        }
        if drive.continuous_torque is not None:
            row["of_continuous"] = rms / drive.gear_ratio / drive.continuous_torque
        if drive.torque_constant is not None and drive.resistance is not None:
            current = torque / drive.torque_constant
            voltage = drive.resistance * current + (
                drive.torque_constant * drive.gear_ratio * speed
            )
            row |= {
                "peak_current": float(np.abs(current).max(initial=0.0)),
                "rms_current": float(np.sqrt(mean(current**2))),
                "peak_voltage": float(np.abs(voltage).max(initial=0.0)),
                "heat": mean(drive.resistance * current**2) * span,
            }
        rows[joint] = row
    made = pd.DataFrame.from_dict(rows, orient="index", columns=list(COLUMNS), dtype=float)
    units = {name: unit_in(words) for name, words in COLUMNS.items()}
    return in_units(made.rename_axis("joint"), units)
