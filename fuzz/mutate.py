"""Damage for files: bytes changed, cut out, repeated, moved; numbers made absurd."""

from __future__ import annotations

import random
import re

_ABSURD = (b"-1", b"0", b"nan", b"inf", b"1e999", b"4294967295", b"99999999999999999999", b"")
_NUMBER = re.compile(rb"-?\d+(?:\.\d+)?")


def mutated(original: bytes, seed: int) -> bytes:
    """A damaged copy of a file; the same for the same seed."""
    chance = random.Random(seed)
    data = bytearray(original)
    for _ in range(chance.choice((1, 1, 2, 4, 8))):
        if not data:
            break
        at = chance.randrange(len(data))
        kind = chance.randrange(7)
        if kind == 0:
            data[at] = chance.randrange(256)
        elif kind == 1:
            data[at] ^= 1 << chance.randrange(8)
        elif kind == 2:
            del data[at : at + chance.choice((1, 4, 64, 1024))]
        elif kind == 3:
            piece = data[at : at + chance.choice((1, 4, 64, 1024))]
            data[at:at] = piece * chance.choice((1, 3, 50))
        elif kind == 4:
            data[at : at + 4] = chance.choice((b"\xff" * 4, b"\0" * 4, b"\x7f\xff\xff\xff"))
        elif kind == 5:
            numbers = list(_NUMBER.finditer(data, at, min(len(data), at + 4096)))
            if numbers:
                number = chance.choice(numbers)
                data[number.start() : number.end()] = chance.choice(_ABSURD)
        else:
            del data[at:]
    return bytes(data)
