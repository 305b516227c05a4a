"""How a command was asked to speak: fully, as JSON, or with nothing beside the answer."""

from __future__ import annotations

import logging
from dataclasses import dataclass


@dataclass
class Manner:
    """Of the command that runs.

    Attributes:
        quiet: nothing beside answers and complaints.
        as_json: the answer is JSON, and nothing else may stand in standard output.
        data_out: standard output is a file's content, and words go beside it.
    """

    quiet: bool = False
    as_json: bool = False
    data_out: bool = False


manner = Manner()


def speak_json(asked: bool) -> bool:
    """The option `--json`."""
    manner.as_json = asked
    return asked


def be_quiet(asked: bool) -> bool:
    """The option `--quiet`."""
    manner.quiet = asked
    return asked


def tell_all(asked: bool) -> bool:
    """The option `--verbose`: what Mooring logs, with the time, beside the answer."""
    if asked:
        handler = logging.StreamHandler()
        words = "%(asctime)s.%(msecs)03d %(name)s: %(message)s"
        handler.setFormatter(logging.Formatter(words, "%H:%M:%S"))
        logger = logging.getLogger("mooring")
        logger.addHandler(handler)
        logger.setLevel(logging.DEBUG)
    return asked
