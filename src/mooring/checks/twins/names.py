"""Which names say left, and which right, in the languages of those who name things."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator

_WORDS = (
    ("left", "right"), ("port", "starboard"), ("links", "rechts"), ("linke", "rechte"),
    ("gauche", "droite"), ("gauche", "droit"), ("izquierda", "derecha"), ("izquierdo", "derecho"),
    ("sinistra", "destra"), ("sinistro", "destro"), ("esquerda", "direita"),
    ("esquerdo", "direito"), ("lewa", "prawa"), ("lewy", "prawy"), ("vasen", "oikea"),
    ("vänster", "höger"), ("venstre", "højre"), ("venstre", "høyre"), ("sol", "sag"),
    ("лев", "прав"), ("左", "右"), ("왼", "오른"),
)  # fmt: skip
_SHORT = (
    ("l", "r"), ("lh", "rh"), ("lf", "rf"), ("fl", "fr"), ("lb", "rb"), ("bl", "br"),
    ("rl", "rr"), ("lr", "rr"), ("hl", "hr"), ("vl", "vr"), ("lm", "rm"), ("ml", "mr"),
    ("izq", "der"), ("sx", "dx"), ("li", "re"), ("lft", "rgt"), ("g", "d"), ("ps", "sb"),
)  # fmt: skip
"""Which must stand by themselves."""


def twin_names(names: Collection[str]) -> list[tuple[str, str]]:
    """Pairs of names that differ in left and right alone, the left one first.

    Example:
        >>> twin_names(["l_arm", "r_arm", "leftFoot", "rightFoot", "drawer"])
        [('l_arm', 'r_arm'), ('leftFoot', 'rightFoot')]
    """
    found: list[tuple[str, str]] = []
    taken: set[str] = set()
    for name in names:
        for other in _others(name):
            if other in names and other != name and not {name, other} & taken:
                found.append((name, other))
                taken |= {name, other}
    return found


def _others(name: str) -> Iterator[str]:
    """What a name that says left would be on the right."""
    for left, right in _WORDS:
        pattern = re.compile(re.escape(left), re.IGNORECASE)
        for match in pattern.finditer(name):
            yield name[: match.start()] + _like(right, match.group()) + name[match.end() :]
    for left, right in _SHORT:
        # Between underscores, digits, or where a capital begins.
        alone = (
            rf"(?:(?<![^\W\d_])(?i:{left})(?![^\W\d_])|(?<=[a-z0-9_]){left.title()}(?=[A-Z_]|$))"
        )
        for match in re.finditer(alone, name):
            yield name[: match.start()] + _like(right, match.group()) + name[match.end() :]


def _like(word: str, pattern: str) -> str:
    """A word in the letter case of another."""
    if pattern.isupper():
        return word.upper()
    return word.title() if pattern[:1].isupper() else word
