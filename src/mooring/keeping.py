"""What was made of something, made once, and kept for as long as that something lives.

A cache of functions would keep whatever it was ever asked about: each reading of a CAD, for hours.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import TypeVar, cast

Made = TypeVar("Made")
_ROOM = "_kept"


def kept_with(owner: object, key: Hashable, make: Callable[[], Made]) -> Made:
    """What was made of an owner before, or is made now.

    Args:
        owner: an object with attributes of its own; it goes, and what was made of it goes.
        key: what is made.
        make: makes it.

    Example:
        >>> class Part: pass
        >>> part = Part()
        >>> kept_with(part, "hull", lambda: 1), kept_with(part, "hull", lambda: 2)
        (1, 1)
    """
    room = vars(owner).setdefault(_ROOM, {})
    if key not in room:
        room[key] = make()
    return cast("Made", room[key])
