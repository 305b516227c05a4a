"""From what a program said to a message, or to a sentence about what is wrong."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from mooring.bridge.messages import INCOMING
from mooring.errors import did_you_mean

_MOST_SAID = 5
_WAYS = {"float", "int", "str", "constrained-str"}
"""What Pydantic calls ways of reading a field, in the place of an error."""


class RefusedError(Exception):
    """A message is not done; told to the one who sent it."""

    def __init__(self, code: str, words: str) -> None:
        super().__init__(words)
        self.code = code


def read_message(said: dict[str, Any]) -> Any:
    """What a program said, checked.

    Raises:
        RefusedError: what is wrong, in words.
    """
    kind = said.get("kind")
    if not isinstance(kind, str) or kind not in INCOMING:
        hint = did_you_mean(str(kind), list(INCOMING))
        raise RefusedError("unknown-kind", f"no message is of kind {str(kind)[:60]!r}{hint}")
    try:
        return INCOMING[kind].model_validate({k: v for k, v in said.items() if k != "kind"})
    except ValidationError as error:
        raise RefusedError("invalid", f"{kind}: {_words(error)}") from None


def _words(error: ValidationError) -> str:
    said: dict[str, str] = {}
    for problem in error.errors(include_url=False):
        # Of the ways in which a field may be read, the first counts.
        steps = [str(part) for part in problem["loc"] if str(part) not in _WAYS]
        words = {
            "extra_forbidden": "there is no such field",
            "missing": "is missing",
            "finite_number": "must be a finite number",
            "float_type": "must be a number in SI, or a text with its unit",
        }.get(problem["type"], problem["msg"][:1].lower() + problem["msg"][1:])
        said.setdefault(".".join(steps), words)
    return "; ".join(f"{where}: {words}" if where else words
                     for where, words in list(said.items())[:_MOST_SAID])  # fmt: skip
