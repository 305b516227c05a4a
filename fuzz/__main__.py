"""`python -m fuzz [kills|chaos] [--count N] [--targets .stl,expressions] [--seed S]`

Each target is attempted in child processes bounded in time and memory. Right are two outcomes: the
attempt ends, or one of Mooring's own errors comes of it. Anything else (another exception, a crash,
what takes too long) is printed with its seed, and the exit code is 1; the same seed makes the same
attempt again.

`kills` kills writers at random moments, `--count` times each, and looks at what they leave. `chaos`
breaks and mends the file of a live page so often, while it runs and windows come and go.
"""

from __future__ import annotations

import argparse
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from fuzz.targets import TARGETS

SECONDS_AN_ATTEMPT = 60
ADDRESSES = 6 * 2**30
"""What a process may reserve [bytes]."""
_ANSWERS = ("END  ", "TOLD ", "BAD  ")
MEMORY = 2**30
"""What it may use [bytes]."""


def main() -> int:
    parser = argparse.ArgumentParser(prog="python -m fuzz")
    parser.add_argument(
        "what", nargs="?", default="nonsense", choices=("nonsense", "kills", "chaos")
    )
    parser.add_argument("--count", type=int, default=2000, help="attempts a target")
    parser.add_argument("--targets", default="", help="names with commas; all if not given")
    parser.add_argument("--seed", type=int, default=0, help="of the first attempt")
    parser.add_argument("--child", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.child:
        return _child(options.child, options.seed, options.count)
    chosen = [name for name in options.targets.split(",") if name]
    if options.what == "chaos":
        from fuzz.chaos import main as chaos

        return chaos(options.count, options.seed)
    if options.what == "kills":
        from fuzz.kills import MODES, kills

        wrong = [w for mode in chosen or MODES for w in kills(mode, options.count, options.seed)]
        print("\n".join(wrong) or "nothing was half, and nothing mixed")
        return 1 if wrong else 0
    wrong_ones = [attempts(name, options.seed, options.count)[0] for name in chosen or TARGETS]
    return 1 if any(wrong_ones) else 0


def attempts(target: str, seed: int, count: int) -> tuple[int, int]:
    """Attempt in children; a child that dies is followed by another behind its seed.

    Returns:
        How many went wrong, and how many came to an end without an error.
    """
    began, done, wrong, ended = time.perf_counter(), 0, 0, 0
    while done < count:
        command = [
            sys.executable, *(["-S"] if sys.flags.no_site else []), "-m", "fuzz", "--child", target,
            "--seed", str(seed + done), "--count", str(count - done),
        ]  # fmt: skip
        child = subprocess.run(command, capture_output=True, text=True, check=False)
        answers = [line for line in child.stdout.splitlines() if line.startswith(_ANSWERS)]
        for line in answers:
            if line.startswith("BAD"):
                wrong += 1
                print(f"{target} {line}", flush=True)
        ended += sum(line.startswith("END") for line in answers)
        done += len(answers)
        if done < count and not (answers and child.returncode == 0):
            wrong += 1
            how = "took too long" if child.returncode == -signal.SIGALRM else "ended the process"
            print(f"{target} BAD  seed {seed + done}: {how} (exit code {child.returncode})")
            print("\n".join(child.stderr.splitlines()[-3:]), flush=True)
            done += 1
    spent = time.perf_counter() - began
    print(f"{target}: {count} attempts, {ended} ended, {wrong} wrong, {spent:.0f} s", flush=True)
    return wrong, ended


def _child(target: str, seed: int, count: int) -> int:
    if "asan" not in os.environ.get("LD_PRELOAD", ""):  # which reserves far more than it uses
        resource.setrlimit(resource.RLIMIT_AS, (ADDRESSES, ADDRESSES))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    from mooring.errors import MooringError

    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        os.environ["MOORING_CACHE_DIR"] = str(folder / "cache")
        attempt = TARGETS[target](folder)
        answers = os.fdopen(os.dup(1), "w")
        for number in range(seed, seed + count):
            # No handler: what takes too long ends the child, and the parent tells.
            signal.alarm(SECONDS_AN_ATTEMPT)
            try:
                attempt(random.Random(number))
                said = f"END  {number}"
            except MooringError as error:
                said = f"TOLD {number}" if str(error).strip() else f"BAD  seed {number}: no message"
            except BaseException as error:
                said = f"BAD  seed {number}: {type(error).__name__}: {error}"[:300]
            signal.alarm(0)
            used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
            if used > MEMORY and not said.startswith("BAD"):
                said = f"BAD  seed {number}: {used / 2**30:.1f} GiB were used"
            print(said.replace("\n", " "), file=answers, flush=True)
            if used > MEMORY:
                # The figure is the largest since the start: the next child begins anew.
                os._exit(0)
    return 0


if __name__ == "__main__":
    sys.exit(main())
