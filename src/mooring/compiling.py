"""How kernels are compiled: once, kept on disk, and with a word to the user while it happens.

Numba's disk cache does not notice when a function that a kernel calls has changed in another file.
The cache folder is therefore named by a hash of all kernel sources: any change starts a new one.
"""

from __future__ import annotations

import hashlib
import logging
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache, wraps
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

import numba

from mooring.files import cache_folder

_PACKAGE = Path(__file__).parent
_OLD_CACHES_KEPT = 2

Args = ParamSpec("Args")
Result = TypeVar("Result")


def kernel(function: Callable[..., Any]) -> Any:
    """Compile a plain function on plain arrays with Numba when it is first called."""
    folder = kernel_cache()
    if folder is None:
        return numba.njit(error_model="numpy", nogil=True)(function)
    # The locator reads the setting while decorating; restore it for everybody else's functions.
    usual = numba.config.CACHE_DIR
    numba.config.CACHE_DIR = str(folder)
    try:
        return numba.njit(cache=True, error_model="numpy", nogil=True)(function)
    finally:
        numba.config.CACHE_DIR = usual


@cache
def kernel_cache() -> Path | None:
    """The folder for this version of the kernels; None where nothing can be written."""
    digest = hashlib.sha256(numba.__version__.encode())
    for source in sorted(_PACKAGE.rglob("kernels/*.py")):
        digest.update(source.read_bytes())
    folder = cache_folder("kernels", digest.hexdigest()[:16])
    if folder is not None:
        _remove_old(folder)
    return folder


def _remove_old(current: Path) -> None:
    import shutil

    others = [f for f in current.parent.iterdir() if f.is_dir() and f != current]
    others.sort(key=lambda f: f.stat().st_mtime, reverse=True)
    for folder in others[_OLD_CACHES_KEPT:]:
        shutil.rmtree(folder, ignore_errors=True)


Announcer = Callable[[str], Any]
"""Called with what is being compiled; returns a context manager that lasts as long as it does."""


@contextmanager
def _log(what: str) -> Iterator[None]:
    logging.getLogger("mooring").warning("compiling %s; this happens once", what)
    yield


_announcer: Announcer = _log
_lock = threading.RLock()


def announce_with(announcer: Announcer) -> None:
    """Show compilation in another way than by a line in the log."""
    global _announcer
    _announcer = announcer


def compiles(what: str) -> Callable[[Callable[Args, Result]], Callable[Args, Result]]:
    """Mark a function whose first call ever, on this machine, compiles kernels.

    The user is told while that happens; later calls, also in later processes, load what was kept.
    """

    def decorate(function: Callable[Args, Result]) -> Callable[Args, Result]:
        name = f"{function.__module__}.{function.__qualname__}"
        done = False

        @wraps(function)
        def call(*args: Args.args, **kwargs: Args.kwargs) -> Result:
            nonlocal done
            if done:
                return function(*args, **kwargs)
            with _lock:
                folder = kernel_cache()
                marker = None if folder is None else folder / f"{name}.compiled"
                if marker is not None and marker.exists():
                    result = function(*args, **kwargs)
                else:
                    with _announcer(what):
                        result = function(*args, **kwargs)
                    if marker is not None:
                        marker.touch()
                done = True
                return result

        return call

    return decorate
