"""What went over the bridge, as it went, in a Parquet file; and replayed to a controller."""

from __future__ import annotations

import threading
import time
from pathlib import Path
from typing import TYPE_CHECKING, Any

import cbor2

from mooring.errors import InputError, needing
from mooring.files import is_there

if TYPE_CHECKING:
    import pandas as pd
    import pyarrow as pa

_COLUMNS = ("clock", "time", "way", "who", "kind", "message")
_CHUNK = 5000


class Log:
    """Writes what was said into a Parquet file, in pieces as it grows.

    Columns: `clock`, by this machine [s since 1970]; `time`, simulated [s]; `way`, in or out;
    `who`, the program; `kind` of message; `message`, in CBOR.

    Attributes:
        file: where to.
    """

    def __init__(self, file: Path) -> None:
        """Begin a file.

        Raises:
            InputError: it cannot be written, or the package for it is missing.
        """
        try:
            import pyarrow as pa
            import pyarrow.parquet as pq
        except ImportError as error:
            raise InputError(needing(f"{file}: a log", "recordings", error)) from None
        self.file = file
        self._schema: pa.Schema = pa.schema(
            [("clock", pa.float64()), ("time", pa.float64()), ("way", pa.string()),
             ("who", pa.string()), ("kind", pa.string()), ("message", pa.binary())]
        )  # fmt: skip
        self._rows: list[tuple[float, float, str, str, str, bytes]] = []
        self._lock = threading.Lock()
        # Beside it until it is whole.
        self._partial = file.with_name(f".{file.name}.partial")
        try:
            file.parent.mkdir(parents=True, exist_ok=True)
            self._writer = pq.ParquetWriter(self._partial, self._schema)
        except OSError as error:
            raise InputError(f"{file}: {error}") from None

    def note(self, simulated: float, way: str, who: str, message: dict[str, Any]) -> None:
        """Note a message as it goes."""
        row = (time.time(), simulated, way, who, str(message.get("kind"))[:40],
               cbor2.dumps(message))  # fmt: skip
        with self._lock:
            self._rows.append(row)
            if len(self._rows) >= _CHUNK:
                self._write()

    def _write(self) -> None:
        import pyarrow as pa

        columns = list(zip(*self._rows, strict=True)) or [()] * len(_COLUMNS)
        arrays = [
            pa.array(column, kind.type) for column, kind in zip(columns, self._schema, strict=True)
        ]
        self._writer.write_table(pa.Table.from_arrays(arrays, schema=self._schema))
        self._rows = []

    def close(self) -> None:
        """Write what is left; the file is whole then."""
        with self._lock:
            self._write()
            self._writer.close()
            self._partial.replace(self.file)


def read_log(file: Path) -> pd.DataFrame:
    """A log as a table, its messages decoded.

    Raises:
        InputError: it is no log.
    """
    import pandas as pd

    if not is_there(file):
        raise InputError(f"{file}: there is no such file")
    if file.is_dir():
        raise InputError(f"{file}: is a folder; a log of a bridge is a file, such as log.parquet")
    try:
        table = pd.read_parquet(file)
        if tuple(table.columns) != _COLUMNS:
            raise ValueError(f"its columns are {', '.join(map(str, table.columns))}")
        table["message"] = [cbor2.loads(data) for data in table["message"]]
    except (OSError, ValueError, ImportError) as error:
        raise InputError(f"{file}: no log of a bridge: {error}") from None
    return table
