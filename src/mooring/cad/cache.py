"""Assemblies remembered on disk by the content of the file they were read from."""

from __future__ import annotations

import hashlib
import io
import logging
import zipfile
from collections.abc import Callable
from dataclasses import replace
from functools import cache
from pathlib import Path

from mooring.caching import keep, kept, throw_away
from mooring.cad import stored
from mooring.cad.assembly import Assembly
from mooring.cad.sampling import Sampling

_LOG = logging.getLogger(__name__)

_EXTERNAL = b"DOCUMENT_FILE"
"""In STEP files that refer to others (ISO 10303-44, external references)."""


def remembered(file: Path, sampling: Sampling, read: Callable[[], Assembly]) -> Assembly:
    """The assembly from the cache, or read now and kept for the next time."""
    content = file.read_bytes()
    key = hashlib.sha256(content)
    if _EXTERNAL in content:
        # Its parts are in other files, which may change without it.
        for other in sorted(file.parent.glob("*.st*p")):
            key.update(other.read_bytes())
    key.update(repr(sampling).encode())
    key.update(_reader_version())
    name = f"{key.hexdigest()[:32]}.npz"
    found = kept("cad", name)
    if found is not None:
        try:
            assembly = replace(stored.load(io.BytesIO(found)), file=file)
            _LOG.debug("%s was read before, and is taken from the cache", file)
            return assembly
        except (OSError, ValueError, KeyError, zipfile.BadZipFile):
            throw_away("cad", name)
    assembly = read()
    stream = io.BytesIO()
    stored.save(assembly, stream)
    keep("cad", name, stream.getvalue())
    return assembly


@cache
def _reader_version() -> bytes:
    """Changes with the reader's own code: another reader may make something else of a file."""
    digest = hashlib.sha256()
    for source in sorted(Path(__file__).parent.rglob("*.py")):
        digest.update(source.read_bytes())
    return digest.digest()
