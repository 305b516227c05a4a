"""The commands together, and what happens when one fails."""

from __future__ import annotations

import os
import sys
from typing import Annotated

import typer

from mooring import __version__
from mooring.cli import (
    check,
    demo,
    diff,
    draft,
    exercise,
    export,
    film,
    measure,
    parts,
    picture,
    refit,
    replay,
    run,
    stand_in,
    tree,
)
from mooring.cli.open import open_
from mooring.cli.outputs import missing
from mooring.cli.terminal import say
from mooring.errors import InputError, ModelError, MooringError
from mooring.unforeseen import unforeseen

app = typer.Typer(
    name="mooring",
    help="From CAD parts to a robot that moves: describe, check, see and simulate.",
    epilog="ROBOT is a Mooring document (.yaml) or a URDF file (.urdf) everywhere.",
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    context_settings={"help_option_names": ["-h", "--help"]},
)
# In the order of the work.
app.command("parts")(parts.parts)
app.command("draft")(draft.draft)
app.command("check")(check.check)
app.command("measure")(measure.measure)
app.command("tree")(tree.tree)
app.command("picture")(picture.picture)
app.command("exercise")(exercise.exercise)
app.command("open")(open_)
app.command("run")(run.run)
app.command("film")(film.film)
app.command("stand-in")(stand_in.stand_in)
app.command("replay")(replay.replay)
app.command("export")(export.export)
app.command("refit")(refit.refit)
app.command("diff")(diff.diff)
app.command("demo")(demo.demo)


def _say_version(asked: bool) -> None:
    if asked:
        say("mooring {}", __version__)
        raise typer.Exit


@app.callback()
def _options(
    _: Annotated[
        bool,
        typer.Option("--version", callback=_say_version, is_eager=True, help="Tell it and end."),
    ] = False,
) -> None:
    """From CAD parts to a robot that moves: describe, check, see and simulate."""


def main() -> None:
    """Run the command line.

    Exit codes: 0 done, 1 the answer is no, 2 bad usage or input, 3 an error inside Mooring.
    """
    _open_what_is_closed()
    try:
        app()
    except (InputError, ModelError) as error:
        _complain(error)
        sys.exit(2)
    except MooringError as error:
        _complain(error)
        sys.exit(1)
    except ModuleNotFoundError as error:
        if error.name is None or error.name.split(".")[0] == "mooring":
            _complain(unforeseen(error))
            sys.exit(3)
        _complain(missing(error.name))
        sys.exit(2)
    except BrokenPipeError:
        # Whoever read the output has had enough; say nothing, also not when Python shuts down.
        sys.stderr.close()
        sys.exit(1)
    except KeyboardInterrupt:
        _complain("stopped")
        sys.exit(130)
    except OSError as error:
        of = f"{error.filename}: " if error.filename else "the output cannot be written: "
        _complain(f"{of}{error.strerror or error}")
        sys.exit(2)
    except Exception as error:
        _complain(unforeseen(error))
        sys.exit(3)


def _open_what_is_closed() -> None:
    """Where the shell has closed an output, what is said goes nowhere, and into no other file."""
    for name, mode in (("stdin", "r"), ("stdout", "w"), ("stderr", "w")):
        if getattr(sys, name) is None:
            # Takes the lowest free number, which is that of what is closed.
            setattr(sys, name, os.fdopen(os.open(os.devnull, os.O_RDWR), mode, encoding="utf-8"))


def _complain(what: object) -> None:
    for line in str(what).splitlines():
        print(f"mooring: {line}", file=sys.stderr)
