"""Recordings as files, and back."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from mooring.errors import InputError, needing
from mooring.files import refuse_impossible, write_text, write_whole
from mooring.model.scene import Ground
from mooring.simulation.recording.columns import CONTACTS, UNITS
from mooring.simulation.recording.finding import RunFinding
from mooring.simulation.recording.journal import is_journal, read_journal
from mooring.simulation.recording.motor_table import Drive
from mooring.simulation.recording.run_folder import DESCRIBED, JOURNAL, mended
from mooring.simulation.saving import SavedState

if TYPE_CHECKING:
    import pandas as pd

    from mooring.simulation.recording.recording import Recording

_FORMAT = 5
_TABLE, _CONTACTS, _SENSORS, _END = "recording.parquet", "contacts.parquet", "sensors", "end.state"
_RUN = "mooring.run"


def write_recording(recording: Recording, home: Path) -> list[Path]:
    """Write everything of a recording into a folder that is there, recording.json last.

    Returns:
        The files written.

    Raises:
        InputError: something cannot be written.
    """
    written = [home / _TABLE, home / _CONTACTS]
    _write_parquet(recording.table, written[0], recording.run)
    _write_parquet(recording.contacts, written[1], recording.run)
    for name, table in recording.sensors.items():
        written.append(home / _SENSORS / f"{name}.parquet")
        _write_parquet(table, written[-1], recording.run)
    if recording.end is not None:
        written.append(home / _END)
        recording.end.write(written[-1], recording.run)
    written.append(home / DESCRIBED)
    write_text(written[-1], json.dumps(_described(recording), indent=1, ensure_ascii=False) + "\n")
    return written


def _described(recording: Recording) -> dict[str, Any]:
    limits = recording.limits.items()
    return {
        "mooring": _FORMAT,
        "run": recording.run,
        "robot": recording.robot,
        "complete": recording.complete,
        "notes": recording.notes,
        "findings": [finding.described() for finding in recording.findings],
        "limits": {k: (v if np.isfinite(v) else None) for k, v in limits},
        "units": recording.units,
        "modes": recording.modes,
        "drives": {joint: drive.described() for joint, drive in recording.drives.items()},
        "signals": recording.signals,
        "coordinates": recording.coordinates,
        "freedoms": recording.freedoms,
        "sensors": list(recording.sensors),
        "columns": recording.columns,
        "ground": None if recording.ground is None else recording.ground.model_dump(),
    }


def read_recording(make: type[Recording], file: Path) -> Recording:
    """Read a recording: see `Recording.read`.

    Raises:
        InputError: there is none, or one that cannot be understood.
    """
    refuse_impossible(file)
    home = file.parent if file.name == DESCRIBED else file
    if is_journal(home):
        return _cut_off(make, home)
    mended(home)
    if not (home / DESCRIBED).is_file() and is_journal(home / JOURNAL):
        return _cut_off(make, home / JOURNAL)
    for name in (DESCRIBED, _TABLE, _CONTACTS):
        if not (home / name).is_file():
            raise InputError(f"{home}: no recording; a run would have written {name} there")
    try:
        return _whole(make, home)
    except (OSError, ValueError, KeyError, TypeError, AttributeError, RecursionError) as error:
        words = f"without {error}" if isinstance(error, KeyError) else str(error)
        raise InputError(f"{home}: not a recording, or a broken one: {words}") from None


def _cut_off(make: type[Recording], journal: Path) -> Recording:
    """What is left of a run that did not come to its end."""
    said = read_journal(journal)
    recording = make.of(said.layout, said.kept)
    times = recording.table.index
    until = f"at {times[-1]:g} s" if len(times) else "before anything was recorded"
    if len(times) > 1 and times[0] > times[1] - times[0]:
        until += f", and is kept from {times[0]:g} s on"
    recording.complete = False
    recording.notes = [
        f"the run was cut off {until}; this is read from its journal, and nobody looked for what "
        "went wrong"
    ]
    return recording


def _whole(make: type[Recording], home: Path) -> Recording:
    said: Mapping[str, Any] = json.loads((home / DESCRIBED).read_text("utf-8"))
    if said["mooring"] != _FORMAT:
        raise InputError(
            f"{home}: the recording is of another version of Mooring (format {said['mooring']}, "
            f"this one reads {_FORMAT}); make it anew"
        )
    run = str(said["run"])
    files = {name: home / _SENSORS / f"{name}.parquet" for name in said["sensors"]}
    notes = [str(note) for note in said["notes"]]
    recording = make(
        str(said["robot"]),
        _read_parquet(home / _TABLE, run),
        {k: np.inf if v is None else float(v) for k, v in said["limits"].items()},
        dict(said["units"]),
        list(said["coordinates"]),
        list(said["freedoms"]),
        _read_parquet(home / _CONTACTS, run),
        {name: _read_parquet(file, run) for name, file in files.items()},
        dict(said["modes"]),
        {joint: Drive(**drive) for joint, drive in said["drives"].items()},
        [(float(time), str(name), bool(v)) for time, name, v in said["signals"]],
        bool(said["complete"]),
        notes,
        [RunFinding(**finding) for finding in said["findings"]],
        None if said["ground"] is None else Ground(**said["ground"]),
        _end(home / _END, run, notes),
        run,
    )
    _refuse_incomplete(home, recording, said["columns"])
    return recording


def _refuse_incomplete(home: Path, recording: Recording, columns: Mapping[str, Any]) -> None:
    """Refuse tables without columns that they should have, or with something else in them."""
    table = recording.table
    wanted = [
        *(f"{c}.position" if c in recording.units else c for c in recording.coordinates),
        *(f"{c}.velocity" if c in recording.units else c for c in recording.freedoms),
        *(f"{c}.{end}" for c in recording.limits for end in ("target", "effort")),
        *columns,
    ]
    for what, file, names in (
        (table, _TABLE, wanted),
        (recording.contacts, _CONTACTS, list(CONTACTS)),
        *((t, f"{_SENSORS}/{n}.parquet", ["arrives"]) for n, t in recording.sensors.items()),
    ):
        missing = [name for name in dict.fromkeys(names) if name not in what.columns]
        if missing:
            more = f" and {len(missing) - 3} more" if len(missing) > 3 else ""
            raise InputError(
                f"{home / file}: lacks the columns {', '.join(map(repr, missing[:3]))}{more}, "
                f"which {DESCRIBED} promises; the file was changed"
            )
        numbers = what.drop(columns=["first", "second"], errors="ignore")
        odd = [str(name) for name in numbers if numbers[name].dtype.kind not in "fiub"]
        if (odd and len(what)) or (what.index.name == "time" and what.index.dtype.kind not in "fi"):
            raise InputError(
                f"{home / file}: {', '.join(odd[:3]) or 'time'} holds no numbers; the file was "
                "changed"
            )


def _end(file: Path, run: str, notes: list[str]) -> SavedState | None:
    if not file.exists():
        return None
    try:
        return SavedState.read(file, run)
    except InputError as error:
        notes.append(f"the state at the end of the run cannot be used: {error}")
        return None


def _write_parquet(table: pd.DataFrame, file: Path, run: str) -> None:
    try:
        import pyarrow as pa
        from pyarrow import parquet
    except ImportError as error:
        raise InputError(needing(f"{file}: writing Parquet", "recordings", error)) from None
    made = pa.Table.from_pandas(table)
    units = table.attrs.get(UNITS, {})
    fields = [
        field.with_metadata({"unit": units[field.name]}) if units.get(field.name) else field
        for field in made.schema
    ]
    # As pandas keeps attributes itself, so that whoever reads the file with it has them.
    said = {"PANDAS_ATTRS": json.dumps({**table.attrs, _RUN: run})}
    made = made.cast(pa.schema(fields, {**(made.schema.metadata or {}), **said}))
    with write_whole(file) as stream:
        parquet.write_table(made, stream)


def _read_parquet(file: Path, run: str) -> pd.DataFrame:
    import pandas as pd

    table = pd.read_parquet(file)
    other = table.attrs.pop(_RUN, None)
    if other != run:
        raise InputError(
            f"{file}: is of another run ({other or 'none is named'}) than {DESCRIBED} ({run}); "
            "files of two runs were mixed"
        )
    return table
