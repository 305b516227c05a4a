"""The commands together, and what happens when one fails."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from errno import ENOENT
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
from mooring.cli.options import with_manner
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
# In the order of the work, each with an example.
_COMMANDS: dict[str, tuple[Callable[..., None], str]] = {
    "parts": (parts.parts, "crane.step --hardware --picture parts.png"),
    "draft": (draft.draft, "crane.step -o crane.yaml"),
    "check": (check.check, "crane.yaml --report crane.html"),
    "measure": (measure.measure, "sheet.csv arm.yaml --end flange"),
    "tree": (tree.tree, "crane.yaml --mass"),
    "picture": (picture.picture, "crane.yaml -o crane.png --posture stowed --layers visual,axes"),
    "exercise": (exercise.exercise, "crane.yaml -o crane-exercised --film"),
    "open": (open_, "crane.yaml"),
    "run": (run.run, "crane.yaml -o lifting --motion lift --seconds 20 --report"),
    "film": (film.film, "lifting -o lifting.mp4 --speed 0.5 --follow hook"),
    "stand-in": (stand_in.stand_in, "cart.yaml --delay '20 ms' --drop '1 %'"),
    "replay": (replay.replay, "said.parquet --speed 2"),
    "export": (export.export, "crane.yaml crane.urdf"),
    "refit": (refit.refit, "theirs.urdf ours.urdf --collide '*=auto' --weigh '*=steel'"),
    "diff": (diff.diff, "crane.yaml crane.urdf --picture differences.png"),
    "demo": (demo.demo, "quay -o quay"),
}
for _name, (_function, _example) in _COMMANDS.items():
    app.command(_name, epilog=f"Example: mooring {_name} {_example}")(with_manner(_function))


def _say_version(asked: bool) -> None:
    if asked:
        from mooring.model.definition.variants import load_extensions

        say("mooring {}", __version__)
        for extension in load_extensions():
            say("extension {}", extension)
        raise typer.Exit


@app.callback()
def _options(
    _: Annotated[
        bool,
        typer.Option(
            "--version",
            callback=_say_version,
            is_eager=True,
            help="Show the version, and the extensions that are installed, and exit.",
        ),
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
        # Only the folder that one is in has no name to whoever asks for it.
        nameless = (
            "the folder it is called in"
            if error.errno == ENOENT
            else "the output cannot be written"
        )
        _complain(f"{error.filename or nameless}: {error.strerror or error}")
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
