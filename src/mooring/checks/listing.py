"""The list of rules in `docs/checks.md`, made from the rules themselves.

`python -m mooring.checks.listing FILE` writes it.
"""

from __future__ import annotations

import sys
from pathlib import Path

import mooring.checks.rules  # noqa: F401  registers the rules
from mooring.checks.rule import RULES
from mooring.files import write_text

_HEAD = """# The rules of `mooring check`

Each finding has a severity, a code, file and line, a message with names and numbers, a remedy. \
Exit code 1 when there are errors. A document changes severities, and accepts what is known:

```yaml
checks:
  severity: {overlap-in-range: note, names-alike: off}    # error, warning, note, off
  accept:
    - {code: loop-over-constrained, because: the pins turn in spherical bearings}
    - {code: overlap-in-posture, item: postures.stowed, because: the rubber gives way}
```

`--accepted` shows these too, `--json` is for programs, `--sarif FILE` writes SARIF 2.1.0 for code \
review, `--fix` mends what cannot do harm (limits turned round, limits of what turns without end, \
spaces around names) with the document's comments kept.

"""


def listing() -> str:
    """The list as it is written to a file."""
    lines = ["| code | severity | what it wants |", "| --- | --- | --- |"]
    for rule in sorted(RULES.values(), key=lambda rule: rule.code):
        lines.append(f"| `{rule.code}` | {rule.severity} | {rule.summary} |")
    return _HEAD + "\n".join(lines) + "\n"


if __name__ == "__main__":
    write_text(Path(sys.argv[1]), listing())
