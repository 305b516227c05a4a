"""What docstrings say, for whoever publishes it elsewhere."""

from __future__ import annotations


def attribute_words(text: str) -> dict[str, str]:
    """What a docstring's section says of each attribute."""
    words: dict[str, str] = {}
    names: list[str] = []
    for line in text.splitlines():
        indent = len(line) - len(line.lstrip())
        if line.strip() and indent < 8:
            # Another section begins.
            break
        if indent == 8 and ":" in line:
            head, _, rest = line.strip().partition(":")
            names = [name.strip() for name in head.split(",")]
            for name in names:
                words[name] = rest.strip()
        elif line.strip():
            for name in names:
                words[name] += f" {line.strip()}"
    return words
