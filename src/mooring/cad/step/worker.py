"""The process that reads one STEP file: `python -m mooring.cad.step.worker FILE RESULT ...`."""

from __future__ import annotations

import sys
from contextlib import suppress
from pathlib import Path

from mooring.cad import stored
from mooring.cad.sampling import Sampling
from mooring.cad.step.isolated import PROGRESS, REFUSED
from mooring.errors import InputError
from mooring.files import write_whole

_LONGEST = 3600
"""[s] of computing; an endless loop ends here."""


def main() -> int:
    file, result, length, angle = sys.argv[1:5]
    _limit_itself()
    from mooring.cad.step.read import read_here

    def report(done: float, total: float) -> None:
        sys.stdout.write(f"{PROGRESS} {done} {total}\n")
        sys.stdout.flush()

    try:
        assembly = read_here(Path(file), Sampling(float(length), float(angle)), report)
    except InputError as error:
        sys.stderr.write(f"{error}\n")
        return REFUSED
    with write_whole(Path(result)) as stream:
        stored.save(assembly, stream)
    return 0


def _limit_itself() -> None:
    """End an endless loop, and leave no dump of memory, where the system can see to that."""
    with suppress(ImportError):
        import resource

        resource.setrlimit(resource.RLIMIT_CPU, (_LONGEST, _LONGEST))
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


if __name__ == "__main__":
    sys.exit(main())
