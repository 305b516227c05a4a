"""What is held against nonsense: each target makes one attempt from one source of chance.

Right are two outcomes of an attempt: it comes to an end, or raises one of Mooring's own errors with
a message.
"""

from __future__ import annotations

import asyncio
import contextlib
import inspect
import io
import json
import random
import shutil
from collections.abc import Callable, Sequence
from pathlib import Path
from types import SimpleNamespace
from typing import Any

from fuzz.bindings import bindings
from fuzz.mutate import mutated
from fuzz.odd import odd, words

Attempt = Callable[[random.Random], object]
Target = Callable[[Path], Attempt]
"""Makes what is needed in a folder, and then attempts."""


def _file(suffix: str) -> Target:
    """A damaged file of a format."""

    def make(folder: Path) -> Attempt:
        from fuzz.samples import samples
        from mooring import Robot, read, read_cad, read_scene
        from mooring.demo import DRUM_CART, LINE_TENDER

        good = samples(folder)[suffix]
        reader = {".yaml": read, ".urdf": read, ".json": read, ".scene.yaml": read_scene}
        answer: Callable[[Path], object] = reader.get(suffix, read_cad)
        # The document's own CAD, whole: it is the document that is damaged.
        for other in (LINE_TENDER.step, DRUM_CART.step, DRUM_CART.document):
            shutil.copy(other, folder)
        file = folder / f"damaged{suffix}"

        def attempt(chance: random.Random) -> None:
            file.write_bytes(mutated(good, chance.randrange(2**40)))
            found = answer(file)
            if isinstance(found, Robot):
                # What was read can be written, and read again.
                again = folder / f"again{chance.choice(('.urdf', '.yaml', '.json'))}"
                found.write(again)
                read(again)

        return attempt

    return make


def _spoilt(chance: random.Random, node: Any, more: list[Any]) -> Any:
    """A description with one of its values replaced, taken away, doubled or renamed."""
    if not isinstance(node, dict | list) or not node or chance.random() < 0.08:
        return odd(chance, more)
    copy: Any = node.copy()
    key = chance.choice(list(copy) if isinstance(copy, dict) else range(len(copy)))
    what = chance.random()
    if what < 0.75:
        copy[key] = _spoilt(chance, copy[key], more)
    elif what < 0.85:
        del copy[key]
    elif isinstance(copy, dict):
        copy[str(chance.choice(more))] = copy.pop(key) if what < 0.95 else copy[key]
    else:
        copy.append(copy[key])
    return copy


def _descriptions(names: Sequence[str]) -> Target:
    """A description, whole as YAML, that says something wrong; what can be read is used."""

    def make(folder: Path) -> Attempt:
        import yaml

        from fuzz.samples import samples
        from mooring import check, exercise, read_scene, simulate
        from mooring.demo import DRUM_CART, LINE_TENDER

        for other in (LINE_TENDER.step, DRUM_CART.step, DRUM_CART.document):
            shutil.copy(other, folder)
        made = samples(folder)
        good = [yaml.safe_load(made[name]) for name in names]
        sections = [part for one in good for part in one.values() if isinstance(part, dict)]
        more = sorted({str(key) for section in sections for key in section})
        file = folder / "spoilt.yaml"

        def attempt(chance: random.Random) -> None:
            said = chance.choice(good)
            for _ in range(chance.choice((1, 1, 2))):
                said = _spoilt(chance, said, [*more, "neutral", "world", 0.3, "45 deg", "3 mm"])
            try:
                text = yaml.safe_dump(said, allow_unicode=True, sort_keys=False)
            except (yaml.YAMLError, ValueError):
                return
            file.write_text(text, "utf-8", errors="replace")
            scene = read_scene(file)
            scene.robot.write(folder / "again.yaml")
            use = chance.random()
            if use < 0.1:
                check(scene.robot)
            elif use < 0.2:
                simulate(scene, seconds=0.01)
            elif use < 0.25:
                exercise(scene.robot)

        return attempt

    return make


def recordings(folder: Path) -> Attempt:
    """The folder of a run with one file of it damaged."""
    from tests.support import line_tender

    from mooring import Recording, simulate

    simulate(line_tender(), posture="stowed", seconds=0.1).write(folder / "good")
    good = {file.relative_to(folder / "good"): file.read_bytes()
            for file in sorted((folder / "good").rglob("*")) if file.is_file()}  # fmt: skip

    def attempt(chance: random.Random) -> None:
        spoilt = chance.choice(list(good))
        for name, content in good.items():
            (folder / name).parent.mkdir(parents=True, exist_ok=True)
            (folder / name).write_bytes(
                mutated(content, chance.randrange(2**40)) if name == spoilt else content
            )
        recording = Recording.read(folder)
        recording.motor_table()
        recording.positions()

    return attempt


def journals(folder: Path) -> Attempt:
    """A damaged journal."""
    from tests.support import line_tender

    from mooring import Recording, Simulation

    simulation = Simulation(line_tender(), posture="stowed", journal=folder / "good")
    for _ in range(3):
        simulation.step(60)
        assert len(simulation.recording.table)
    good = (folder / "good").read_bytes()

    def attempt(chance: random.Random) -> None:
        (folder / "damaged").write_bytes(mutated(good, chance.randrange(2**40)))
        Recording.read(folder / "damaged")

    return attempt


def expressions(_: Path) -> Attempt:
    """Arithmetic with units, in no order, and quantities of each dimension."""
    from mooring.units import to_si
    from mooring.units.amount import Amount
    from mooring.units.expression import evaluate

    def attempt(chance: random.Random) -> None:
        text = words(chance)
        if chance.random() < 0.5:
            evaluate(text, lambda _: Amount(0.8, ()), {"reach"})
        else:
            to_si(text, chance.choice(("length", "angle", "mass", "time", "velocity", "force")))

    return attempt


def python_calls(folder: Path) -> Attempt:
    """Every public call with arguments of the wrong sort and some of the right one."""
    from tests.test_misuse import WITHIN, publics, sound

    calls = [(name, call) for name, call in publics() if name.split(".")[-1] not in WITHIN]

    def attempt(chance: random.Random) -> None:
        _, call = chance.choice(calls)
        given: dict[str, Any] = {}
        for parameter in inspect.signature(call).parameters.values():
            if parameter.kind in (parameter.VAR_KEYWORD, parameter.VAR_POSITIONAL):
                continue
            if parameter.default is not parameter.empty and chance.random() < 0.6:
                continue
            # A run of 1e308 s is not wrong, and has no end.
            wrong = chance.random() < 0.4 and parameter.name not in ("seconds", "length", "count")
            if "PathLike" in str(parameter.annotation):
                # Nothing is written elsewhere.
                given[parameter.name] = folder / chance.choice(("a", "a.yaml", "a.csv", "b/c.urdf"))
            else:
                given[parameter.name] = odd(chance) if wrong else sound(parameter)
        call(**given)

    return attempt


def items(_: Path) -> Attempt:
    """Every kind of item with fields of the wrong sort."""
    from tests.test_description import sample

    from mooring.model.definition.described import Described
    from mooring.model.registry import KINDS

    robot = sample()
    known = [item for kind in KINDS for item in robot.section(kind).values()
             if isinstance(item, Described)]  # fmt: skip

    def attempt(chance: random.Random) -> None:
        item = chance.choice(known)
        fields = chance.sample(list(type(item).model_fields), chance.choice((1, 1, 2)))
        item.change(**{field: odd(chance, list(robot.links)) for field in fields})

    return attempt


def command_lines(folder: Path) -> Attempt:
    """Commands with options and arguments from their own definitions."""
    import typer
    from tests.urdf_set import FOLDER

    from mooring.cli.app import app
    from mooring.errors import told

    group: Any = typer.main.get_command(app)
    # These wait for somebody, or take minutes; what they read is read by others, too.
    commands = {name: command for name, command in group.commands.items()
                if name not in ("open", "stand-in", "replay", "demo")}  # fmt: skip
    waits = {
        "film",
        "listen",
        "broker",
        "lock_step",
        "follow",
        "address",
        "certificate",
        "key",
        "port",
    }
    arm = folder / "arm.urdf"
    shutil.copy(FOLDER / "quay_arm.urdf", arm)

    def value(parameter: Any, chance: random.Random) -> str:
        if parameter.param_type_name == "argument" and chance.random() < 0.8:
            return str(arm)
        text = odd(chance, (str(arm), "0.05", "10 deg", "boom", "1", "800x600", "out.png", "out"))
        said = text if isinstance(text, str) else told(text)
        return said[:200].replace("\0", "").encode(errors="replace").decode()

    def attempt(chance: random.Random) -> None:
        name = chance.choice(list(commands))
        command = commands[name]
        given = [name]
        for parameter in command.params:
            needed = parameter.required and chance.random() < 0.95
            if parameter.name in waits or not (needed or chance.random() < 0.15):
                continue
            if parameter.param_type_name != "argument":
                given.append(chance.choice(parameter.opts))
            if not getattr(parameter, "is_flag", False):
                given.append(value(parameter, chance))
        if name == "run":
            given += ["--seconds", "0.01", "--no-plot"]
        said = io.StringIO()
        with (
            contextlib.chdir(folder),
            contextlib.redirect_stdout(said),
            contextlib.redirect_stderr(said),
            # The command line itself makes a sentence of an error of the system.
            contextlib.suppress(SystemExit, OSError),
        ):
            app(given)

    return attempt


def page_messages(_: Path) -> Attempt:
    """What a browser asks of the page."""
    from mooring.demo import LINE_TENDER
    from mooring.page.desk import Desk
    from mooring.page.desk.opened import ModelSource
    from mooring.page.shell.host import Host
    from mooring.page.shell.placing import Placing
    from mooring.page.shell.properties import Properties
    from mooring.page.shell.window import USUAL, Window

    desk = Desk(ModelSource(LINE_TENDER.document))
    window: Any = Window.__new__(Window)
    quiet: Any = lambda *_, **__: None  # noqa: E731
    window.host, window.desk, window.settings = Host(desk), desk, dict(USUAL)
    window.selection = {"link": None, "joint": None}
    window.tell = window.notify = window.show_tab = quiet
    window.tabs = SimpleNamespace(value="Draft")
    window.drafting = SimpleNamespace(point=quiet)
    window.heading = SimpleNamespace(refresh_steps=quiet)
    window.page = contextlib.nullcontext()
    window.properties = properties = Properties.__new__(Properties)
    properties.window, properties._rows, properties._shown = window, {}, {}
    properties.placing = Placing(window)
    window.whereabouts = SimpleNamespace(look_at=quiet)
    known = [*desk.robot.links, *desk.robot.joints, "camera", [0.1, 0.2, 0.3], 0.3]
    keys = ("do", "joint", "value", "link", "point", "target", "key", "path", "text", "unit")
    asks = ("hello", "jog", "type", "pull", "select", "swing", "keep", "fly", "change", "place")

    def attempt(chance: random.Random) -> None:
        said: Any = {"do": chance.choice(asks)}
        for key in keys[1:]:
            if chance.random() < 0.8:
                said[key] = odd(chance, known * 5)
        if chance.random() < 0.05:
            said = odd(chance)
        window.own = desk.standing.own() if chance.random() < 0.3 else None
        asyncio.run(window._asked(SimpleNamespace(args=said)))
        desk.pass_time(0.02)

    return attempt


def bridge_messages(_: Path) -> Attempt:
    """What programs say to a session: right ones with wrong fields, and damaged bytes."""
    from tests.support import line_tender

    from mooring import Simulation
    from mooring.bridge.messages import incoming
    from mooring.bridge.messages.coding import encode
    from mooring.bridge.session import Peer, Session
    from mooring.simulation.playing import Player

    session = Session(Player(Simulation(line_tender(), motion=[]), 1.0))
    kinds = [*incoming.Said.__subclasses__(), *incoming.Order.__subclasses__()]
    robot = line_tender()
    known = [*robot.links, *robot.joints, {"slew": 0.1}, 0.5, 3]

    def attempt(chance: random.Random) -> None:
        peer = Peer("fuzz")
        assert session.join(peer) == ""
        for _ in range(3):
            kind = chance.choice(kinds)
            said: dict[str, Any] = {"kind": kind.__name__.lower(), "id": 1}
            for field in kind.model_fields:
                if chance.random() < 0.7:
                    said[field] = odd(chance, known * 4)
            binary = chance.random() < 0.5
            try:
                data = encode(said, binary=binary)
            except Exception:
                # What cannot be said cannot be heard.
                data = json.dumps({"kind": said["kind"], "id": []})
            if chance.random() < 0.4:
                raw = data if isinstance(data, bytes) else data.encode(errors="replace")
                data = mutated(raw, chance.randrange(2**40))
                if not binary:
                    data = data.decode(errors="replace")
            if peer in session.peers:
                session.heard(peer, data)
        session.left(peer, "it was a fuzzer")

    return attempt


FILES = (".step", ".stl", ".obj", ".ply", ".off", ".glb", ".gltf", ".dae", ".3mf", ".yaml", ".urdf",
         ".json", ".scene.yaml")  # fmt: skip
TARGETS: dict[str, Target] = {
    **{suffix: _file(suffix) for suffix in FILES},
    "documents": _descriptions((".yaml", ".json")),
    "scenes": _descriptions((".scene.yaml",)),
    "recordings": recordings,
    "journals": journals,
    "expressions": expressions,
    "python_calls": python_calls,
    "items": items,
    "command_lines": command_lines,
    "page_messages": page_messages,
    "bridge_messages": bridge_messages,
    "bindings": bindings,
}
