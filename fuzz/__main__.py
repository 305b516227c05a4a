"""`python -m fuzz [--count N] [--formats .stl,.ply] [--seed S]`

Every format's reader is given damaged files, in child processes bounded in time and memory. Right
are two answers: an assembly or robot, or one of Mooring's own errors. Anything else (another
exception, a crash, a file that takes too long) is printed with its seed, and the exit code is 1;
the same seed damages a file in the same way again.
"""

from __future__ import annotations

import argparse
import os
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from fuzz.mutate import mutated

SECONDS_A_FILE = 60
MEMORY = 6 * 2**30


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m fuzz")
    parser.add_argument("--count", type=int, default=2000, help="damaged files a format")
    parser.add_argument("--formats", default="", help="suffixes with commas; all if not given")
    parser.add_argument("--seed", type=int, default=0, help="of the first file")
    parser.add_argument("--child", nargs=2, help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.child:
        return _child(Path(options.child[0]), options.child[1], options.seed, options.count)
    from fuzz.samples import samples

    wrong = 0
    chosen = [f for f in options.formats.split(",") if f]
    with tempfile.TemporaryDirectory() as folder:
        for suffix, good in samples().items():
            if chosen and suffix not in chosen:
                continue
            sample = Path(folder) / f"sample{suffix}"
            sample.write_bytes(good)
            wrong += _one_format(sample, suffix, options.seed, options.count)
    return 1 if wrong else 0


def _one_format(sample: Path, suffix: str, seed: int, count: int) -> int:
    """Run children over the seeds; a child that dies is followed by another behind its seed."""
    began, done, wrong, read = time.perf_counter(), 0, 0, 0
    while done < count:
        command = [
            sys.executable, "-m", "fuzz", "--child", str(sample), suffix,
            "--seed", str(seed + done), "--count", str(count - done),
        ]  # fmt: skip
        child = subprocess.run(command, capture_output=True, text=True, check=False)
        answers = [
            line for line in child.stdout.splitlines() if line[:5] in ("read ", "told ", "BAD  ")
        ]
        for line in answers:
            if line.startswith("BAD"):
                wrong += 1
                print(f"{suffix} {line}")
        read += sum(line.startswith("read") for line in answers)
        done += len(answers)
        if done < count:
            wrong += 1
            how = "took too long" if child.returncode == -signal.SIGALRM else "ended the process"
            print(f"{suffix} BAD  seed {seed + done}: {how} (exit code {child.returncode})")
            keep = Path(f"fuzz-found-{seed + done}{suffix}")
            keep.write_bytes(mutated(sample.read_bytes(), seed + done))
            print(f"kept as {keep}", flush=True)
            done += 1
    spent = time.perf_counter() - began
    print(f"{suffix}: {count} damaged files, {read} read, {wrong} wrong, {spent:.0f} s", flush=True)
    return wrong


def _child(sample: Path, suffix: str, seed: int, count: int) -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from mooring import read, read_cad
    from mooring.demo import LINE_TENDER
    from mooring.errors import MooringError

    good = sample.read_bytes()
    folder = tempfile.mkdtemp(dir=sample.parent)
    os.environ["MOORING_CACHE_DIR"] = str(Path(folder) / "cache")
    answer = read if suffix in (".yaml", ".urdf") else read_cad
    file = Path(folder) / f"damaged{suffix}"
    if suffix == ".yaml":
        # The document's own CAD, whole: it is the document that is damaged.
        shutil.copy(LINE_TENDER.step, folder)
    for number in range(seed, seed + count):
        file.write_bytes(mutated(good, number))
        # No handler: a file that takes too long ends the child, and the parent tells.
        signal.alarm(SECONDS_A_FILE)
        try:
            answer(file)
            print(f"read {number}")
        except MooringError as error:
            print(f"told {number}" if str(error).strip() else f"BAD  seed {number}: no message")
        except BaseException as error:
            print(f"BAD  seed {number}: {type(error).__name__}: {error}"[:300].replace("\n", " "))
        signal.alarm(0)
        sys.stdout.flush()
    return 0


if __name__ == "__main__":
    sys.exit(main())
