"""How kernels are compiled: once, kept on disk, and with a word to the user while it happens.

Numba's disk cache does not notice when a function that a kernel calls has changed in another file.
The cache folder is therefore named by a hash of all kernel sources: any change starts a new one.
"""

from __future__ import annotations

import gc
import hashlib
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import cache, wraps
from pathlib import Path
from typing import Any, ParamSpec, TypeVar

import numba

from mooring import announcing
from mooring.files import cache_folder

_PACKAGE = Path(__file__).parent
_OLD_CACHES_KEPT = 2

Args = ParamSpec("Args")
Result = TypeVar("Result")

_lock = threading.RLock()


def entry(function: Callable[..., Any]) -> Any:
    """Compile a kernel that Python calls; it happens at the first call."""
    return _compile(function, {})


def kernel(function: Callable[..., Any]) -> Any:
    """Compile a kernel that only other kernels call.

    It gets no wrapper for Python, which for arguments of many arrays takes longer to compile than
    the kernel itself.
    """
    return _compile(function, {"no_cpython_wrapper": True, "no_cfunc_wrapper": True})


def _compile(function: Callable[..., Any], options: dict[str, Any]) -> Any:
    options = {"error_model": "numpy", "nogil": True, **options}
    folder = kernel_cache()
    if folder is None:
        return numba.njit(**options)(function)
    # The locator reads the setting while decorating; restore it for everybody else's functions.
    usual = numba.config.CACHE_DIR
    numba.config.CACHE_DIR = str(folder)
    try:
        return numba.njit(cache=True, **options)(function)
    finally:
        numba.config.CACHE_DIR = usual


@cache
def kernel_cache() -> Path | None:
    """The folder for this version of the kernels; None where nothing can be written."""
    digest = hashlib.sha256(numba.__version__.encode())
    # What arrays.py files define is compiled in, too: the constants, and the shape of the tuples.
    for source in sorted([*_PACKAGE.rglob("kernels/*.py"), *_PACKAGE.rglob("arrays.py")]):
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


@contextmanager
def _no_collection() -> Iterator[None]:
    """The compiler makes many objects that live on; looking them through costs a tenth of it."""
    was = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if was:
            gc.enable()


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
                    with announcing.announcer(what), _no_collection():
                        result = function(*args, **kwargs)
                    if marker is not None:
                        marker.touch()
                done = True
                return result

        return call

    return decorate
