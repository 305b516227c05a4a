"""`python -m releasing.licences docs/licences.md`: under what licences everything is that is used.

Of each package that an installation with all extras brings along, from what it says of itself.
"""

from __future__ import annotations

import re
import sys
from importlib.metadata import PackageNotFoundError, metadata, requires
from pathlib import Path

from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

OURS = "mooring-robotics"
HEAD = """\
# Licences

Mooring is under the Apache License 2.0. What it uses is installed beside it and under licences of its own, as each package states; this list is made by `make lock`, of the versions in `requirements.lock`. No package's code is part of Mooring's own files, except in a page that was saved, which carries three.js (MIT) out of NiceGUI.

**Video.** The extra `films` brings PyAV, which is under the BSD licence, and whose wheels carry FFmpeg (LGPL) with the encoders x264 and x265, which are under the GNU General Public License 2 or later: whoever passes such an installation on as a whole is bound by that. H.264 and H.265 are covered by patents in some countries. Films end in `.mp4` by way of these; `.webp` and `.gif` are written by Pillow and need none of them, nor the extra. Nothing else of Mooring does.

| package | licence | for |
| --- | --- | --- |
"""  # noqa: E501
_SHORT = {"MIT License": "MIT", "BSD License": "BSD", "Apache Software License": "Apache-2.0"}


def listing() -> str:
    """The text of the list."""
    found: dict[str, set[str]] = {}
    for said in requires(OURS) or []:
        requirement = Requirement(said)
        extra = re.search(r"extra == ['\"](\w+)['\"]", str(requirement.marker or ""))
        room = extra[1] if extra else "everything"
        if room not in ("all", "dev"):
            _follow(requirement, room, found)
    rows = []
    for name, rooms in sorted(found.items()):
        used = "everything" if "everything" in rooms else ", ".join(sorted(rooms))
        rows.append(f"| {name} | {licence_of(name)} | {used} |")
    return HEAD + "\n".join(rows) + "\n"


def _follow(requirement: Requirement, room: str, found: dict[str, set[str]]) -> None:
    name = canonicalize_name(requirement.name)
    if name == OURS or room in found.get(name, ()):
        return
    try:
        further = requires(name) or []
    except PackageNotFoundError:
        # Of another platform.
        return
    found.setdefault(name, set()).add(room)
    for said in further:
        other = Requirement(said)
        environments = [{"extra": extra} for extra in requirement.extras or ("",)]
        if other.marker is None or any(other.marker.evaluate(e) for e in environments):
            _follow(other, room, found)


def licence_of(name: str) -> str:
    """What a package says of its licence."""
    said = metadata(name)
    if stated := said.get("License-Expression"):
        return str(stated)
    marks = [m.rpartition(" :: ")[2] for m in said.get_all("Classifier") or [] if "License ::" in m]
    marks = [mark for mark in marks if mark != "OSI Approved"]
    if marks:
        return ", ".join(_SHORT.get(mark, mark) for mark in marks)
    return (str(said.get("License") or "not stated").strip().splitlines() or ["not stated"])[0][:60]


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(listing(), "utf-8")
