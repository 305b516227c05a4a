"""What all commands share: consoles, spinners and bars."""

from __future__ import annotations

import json
import os
import re
import shlex
import sys
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from mooring.cli.manner import manner
from mooring.errors import ModelError

if TYPE_CHECKING:
    from rich.console import Console
    from rich.text import Text

_SIGNS = {"+": "green4", "-": "red", "~": "dark_orange3"}
STYLES = {"error": "bold red", "warning": "dark_orange3", "note": "dark_cyan"}
"""Of severities."""


@cache
def out() -> Console:
    """For answers."""
    # What is piped to another program or a file need not fit a window.
    return _console(soft_wrap=False, width=None if sys.stdout.isatty() else 140)


@cache
def side() -> Console:
    """For progress and complaints, so that answers can be piped."""
    return _console(stderr=True)


def _console(**how: Any) -> Console:
    from rich.console import Console

    # Who wants no color wants no bold letters either: plain text.
    colors: Any = None if os.environ.get("NO_COLOR") else "auto"
    return Console(highlight=False, markup=False, emoji=False, color_system=colors, **how)


def styled(template: str, *data: object) -> Text:
    """A text with styles, into which data is put as it is: nothing in it is taken for markup.

    Args:
        template: with styles such as `[bold]{}[/]`, and `{}` for each of the data.
        data: text, or anything that can be shown as text; a `Text` keeps its own styles.
    """
    from rich.text import Text

    frame = Text.from_markup(template, emoji=False)
    whole, rest = Text(), list(data)
    begin = 0
    for match in re.finditer(r"\{\}", frame.plain):
        whole.append_text(frame[begin : match.start()])
        value = rest.pop(0)
        style = next((s.style for s in frame.spans if s.start <= match.start() < s.end), "")
        piece = value if isinstance(value, Text) else Text(str(value), style)
        whole.append_text(piece)
        begin = match.end()
    whole.append_text(frame[begin:])
    if rest:
        raise ValueError(f"{len(rest)} more data than places in {template!r}")
    return whole


def strung(between: str, pieces: Iterable[Text | str]) -> Text:
    """Pieces with something between them."""
    from rich.text import Text

    return Text(between).join(Text(one) if isinstance(one, str) else one for one in pieces)


def changed(sign: str) -> Text:
    """The sign of something that is new (+), gone (-) or otherwise (~), in its color."""
    return styled(f"[{_SIGNS[sign]}]{{}}[/]", sign)


def say(template: str, *data: object) -> None:
    """Answer a line; see `styled`. Where the answer is JSON, that has it."""
    if not manner.as_json:
        console = side() if manner.data_out else out()
        console.print(styled(template, *data), soft_wrap=True)


def beside(template: str, *data: object) -> None:
    """Say a line beside the answer; see `styled`."""
    side().print(styled(template, *data), soft_wrap=True)


def wrote(*files: Path) -> None:
    """Say which files were written."""
    for file in files:
        if not manner.quiet:
            say("wrote {}", file)


def hint(*command: object) -> None:
    """Say beside the answer what is done next, as a command."""
    words = [str(word) for word in command]
    # What came from standard input is not there a second time.
    if not manner.quiet and not manner.as_json and "-" not in words:
        beside("[dim]next: {}[/]", shlex.join(["mooring", *words]))


def print_json(value: Any, *, line: bool = False) -> None:
    """Answer as JSON, if that was asked for.

    Args:
        value: the answer.
        line: whether it is a line of its own, before others that come later.
    """
    if manner.as_json:
        print(json.dumps(value, indent=None if line else 2, ensure_ascii=False), flush=True)


@contextmanager
def busy(what: str) -> Iterator[None]:
    """A spinner beside what is being done, and a bar once it is known how far it is.

    Nothing where nobody watches.
    """
    if not sys.stderr.isatty() or manner.quiet:
        yield
        return
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, SpinnerColumn, TextColumn

    from mooring.announcing import progress_to

    waiting = (SpinnerColumn(), TextColumn("{task.description}", markup=False))
    with Progress(*waiting, console=side(), transient=True) as shown:
        task = shown.add_task(what, total=None)

        def advance(done: float, total: float) -> None:
            shown.columns = (*waiting, BarColumn(), MofNCompleteColumn())
            shown.update(task, completed=done, total=total)

        with progress_to(advance):
            yield


def counted(number: int, what: str) -> str:
    """A number with its noun, e.g. "1 joint" or "2 joints"."""
    return f"{number} {what}" + ("" if number == 1 else "s")


def positions_from(settings: list[str]) -> dict[str, float | str]:
    """Positions by joint from words such as `slew=30 deg`."""
    positions: dict[str, float | str] = {}
    for setting in settings:
        joint, equals, value = setting.partition("=")
        if not equals or not joint.strip() or not value.strip():
            raise ModelError(f"cannot read {setting!r}; write it as 'slew=30 deg'")
        try:
            positions[joint.strip()] = float(value)
        except ValueError:
            positions[joint.strip()] = value.strip()
    return positions
