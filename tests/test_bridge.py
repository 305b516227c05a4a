"""The bridge: what is said, who may say it, what follows, and what becomes of what is wrong."""

import inspect
import json
import math
import unittest
from typing import Any
from unittest import mock

import jsonschema
import numpy as np

import mooring
from mooring import Robot, Scene
from mooring.bridge.connection import Connection
from mooring.bridge.messages import INCOMING, OUTGOING
from mooring.bridge.messages import incoming as say
from mooring.bridge.messages.listing import files
from mooring.bridge.session.orders import do
from mooring.bridge.session.reading import read_message
from mooring.demo import DRUM_CART, WALKER
from mooring.simulation.commanding.commanded import Commanded
from mooring.simulation.playing import Halt
from tests.outside import Voice, session_for, until
from tests.support import ROOT, line_tender

DOCS = ROOT / "docs"
SCHEMA = json.loads((DOCS / "bridge.schema.json").read_text())


def plant() -> Scene:
    """Something of everything that can be told something."""
    robot = Robot("plant")
    robot.add_link("post")
    robot.add_link("arm", mass=1, inertia=(0.1, 0.1, 0.1), collision={"box": (0.1, 0.1, 0.1)})
    robot.add_link(
        "wheel",
        mass=1,
        inertia=(0.1, 0.1, 0.1),
        collision={"cylinder": {"radius": 0.1, "length": 0.05}},
    )
    robot.add_joint("lift", "prismatic", parent="post", child="arm", at=(0.6, 0, 0.1525), axis="z",
                    lower=-1, upper=1, velocity=1, effort=400)  # fmt: skip
    robot.add_joint(
        "spin",
        "continuous",
        parent="post",
        child="wheel",
        at=(0, 0, 1),
        axis="y",
        velocity=50,
        effort=20,
    )
    robot.add_motor("hoist", joint="lift", p=3e4, d=1500)
    robot.add_motor("drive", joint="spin", mode="velocity", d=5)
    robot.add_frame("tip", link="arm", at={"xyz": (0, 0, -0.05), "rpy": (math.pi, 0, 0)})
    robot.add_grip("cup", frame="tip", force=60, reach=0.01)
    robot.add_device("clamp", inputs={"open": {"joints": {"lift": 0.2}, "otherwise": {"lift": 0}, "travel": 0.3}},
                     outputs={"opened": {"above": {"lift": 0.19}}})  # fmt: skip
    robot.add_posture("up", {"lift": 0.1})
    robot.add_sensor("count", "encoder", joint="lift", rate=100)
    robot.add_sensor(
        "eye", "camera", frame="tip", rate=20, field=1.0, size=(32, 24), channels=("color", "depth")
    )
    robot.add_sensor("scan", "range_scanner", frame="tip", rate=20, field=2.0, rays=7)
    scene = Scene("stage", ground={"height": 0})
    scene.add_robot(robot)
    scene.add_body("crate", box=(0.1, 0.1, 0.1), mass=1, at=(0.6, 0, 0.05))
    scene.add_obstacle("bed", box=(1, 1, 0.1), at=(3, 0, 0.05))
    scene.robot.add_conveyor("belt", link="bed", direction="x")
    return scene


ORDERS: dict[str, dict[str, Any]] = {
    "command": {"positions": {"lift": "50 mm"}, "velocities": {"spin": 3.0}},
    "go": {"posture": "up", "over": "0.2 s"},
    "follow": {"courses": {"lift": [[0.1, "20 mm"], [0.25, 0.05]]}},
    "roll": {"wheels": ["spin"], "forward": 0.2},
    "push": {"link": "crate", "force": [0, 3, 0], "moment": [0, 0, 0.1], "at": [0, 0, 0.01]},
    "attach": {"first": "arm", "second": "crate"},
    "release": {"first": "arm", "second": "crate"},
    "grip": {"name": "cup", "on": True},
    "convey": {"name": "belt", "speed": "0.3 m/s"},
    "signal": {"values": {"clamp.open": True}},
    "hold": {"joints": ["lift"]},
    "relax": {"joints": ["lift"]},
    "rejoin": {"joints": ["lift"]},
}
OTHERS: dict[str, dict[str, Any]] = {
    "hello": {"name": "x"}, "watch": {"state": 10, "sensors": ["count"]}, "take": {"rate": 100},
    "advance": {"orders": [{"kind": "hold"}]}, "read": {"sensor": "count"}, "pace": {"speed": 2},
}  # fmt: skip


def called(simulation: mooring.Simulation, kind: str) -> None:
    """The call that an order stands for, as a controller in the process makes it."""
    said = ORDERS[kind]
    if kind == "signal":
        simulation.signal("clamp.open", True)
    elif kind in ("hold", "relax", "rejoin"):
        call = {"rejoin": "follow_motion"}.get(kind, kind)
        getattr(simulation, call)(*said["joints"])
    elif kind == "go":
        simulation.go(said["posture"], said["over"])
    else:
        getattr(simulation, kind)(**said)


class Messages(unittest.TestCase):
    def test_the_published_descriptions_are_current_and_whole(self) -> None:
        how = "python -m mooring.bridge.messages.listing docs"
        for name, text in files().items():
            self.assertEqual((DOCS / name).read_text(), text, f"make it anew: {how}")
        jsonschema.Draft202012Validator.check_schema(SCHEMA)
        document = json.loads((DOCS / "bridge.asyncapi.json").read_text())

        def references(part: Any) -> None:
            for key, inner in part.items() if isinstance(part, dict) else enumerate(part):
                if key == "$ref":
                    place = document
                    for step in inner.removeprefix("#/").split("/"):
                        place = place[step]
                elif isinstance(inner, dict | list):
                    references(inner)

        references(document)
        for name, definition in SCHEMA["$defs"].items():
            for field, entry in definition.get("properties", {}).items():
                if "const" not in entry and "$ref" not in entry:
                    self.assertIn("description", entry, f"{name}.{field}")

    def test_every_order_does_what_its_call_does(self) -> None:
        orders = {kind for kind, message in INCOMING.items() if message.moves} - {"advance"}
        self.assertEqual(orders, ORDERS.keys(), "give ORDERS one of each")
        bytes_of = {}
        for kind in ORDERS:
            ends = []
            for way in (called, lambda s, k: do(s, read_message({"kind": k, **ORDERS[k]}))):
                simulation = mooring.Simulation(plant())
                if kind == "release":
                    simulation.attach("arm", "crate")
                simulation.step(10)
                way(simulation, kind)
                simulation.step(400)
                ends.append(simulation.native.q.tobytes() + simulation.native.v.tobytes())
            self.assertEqual(ends[0], ends[1], kind)
            bytes_of[kind] = ends[0]
        self.assertGreater(len(set(bytes_of.values())), 9, "each does something of its own")

    def test_what_is_said_either_way_is_as_described(self) -> None:
        validator = jsonschema.Draft202012Validator(SCHEMA)
        session = session_for(self, plant())
        voice = Voice(session)
        for kind, message in INCOMING.items():
            said = {"kind": kind, **ORDERS.get(kind, OTHERS.get(kind, {}))}
            self.assertTrue(validator.is_valid(said), kind)
            for wrong in ({**said, "colour": "red"}, {**said, "kind": f"{kind}s"}):
                self.assertFalse(validator.is_valid(wrong), kind)
            self.assertIsInstance(read_message(said), message)
        voice.say("take", rate=100)
        voice.say("watch", state=100, poses=50, sensors=["count", "eye", "scan"])
        session.control.lockstep = True  # pictures are waited for
        session.control.granted = 10_000
        session.simulation.step(200)
        session.control.lockstep = False
        voice.say("signal", values={"clamp.open": True})
        session.simulation.step(5)
        voice.say("diagnose")
        kinds = set()
        for message in voice.listen() + voice.heard:
            kinds.add(message["kind"])
            shown = json.loads(json.dumps(message, default=lambda data: data.hex()))
            validator.validate(shown)
        self.assertEqual(kinds, OUTGOING.keys())
        facts = session.welcome()
        self.assertEqual(facts["joints"]["lift"]["upper"], 1.0)
        self.assertEqual(facts["inputs"], ["clamp.open"])
        self.assertIn("eye", facts["sensors"])

    def test_measurements_pictures_and_poses_are_what_the_simulation_has(self) -> None:
        from io import BytesIO

        from PIL import Image

        session = session_for(self, plant())
        voice = Voice(session)
        voice.say("watch", poses=100, frames=["tip", "crate"], sensors=["count", "scan", "eye"])
        for _ in range(101):
            session.simulation.step()
            voice.listen()
        poses = [m for m in voice.heard if m["kind"] == "poses"][-1]["poses"]
        np.testing.assert_allclose(
            poses["crate"][:3], session.simulation.pose("crate")[:3, 3], atol=1e-9
        )
        self.assertAlmostEqual(poses["tip"][2], session.simulation.pose("arm")[2, 3] - 0.05, 5)
        scan = [m for m in voice.heard if m["kind"] == "scan"][-1]
        direct = session.simulation.read("scan")
        for ray, far in enumerate(scan["ranges"][0]):
            self.assertEqual(math.inf if far is None else far, direct[f"0.{ray}"])
        count = {
            m["time"]: m["values"]["position"] for m in voice.heard if m["kind"] == "measurement"
        }
        table = session.simulation.recording.sensors["count"]
        self.assertEqual(count, dict(table["position"].iloc[: len(count)]))
        self.assertGreaterEqual(len(count), 10)
        session.publisher.pictures.take(
            "eye", 0.1, session.simulation.native.q, [voice.peer], waiting=True
        )
        depth = next(m for m in voice.listen() if m["kind"] == "image" and m["channel"] == "depth")
        pixels = np.asarray(Image.open(BytesIO(depth["data"]))) * depth["unit"]
        self.assertEqual(pixels.shape, (24, 32))
        self.assertGreater(pixels.max(), 0.0)


class Rights(unittest.TestCase):
    def test_one_has_the_say_and_others_watch(self) -> None:
        session = session_for(self, line_tender(), posture="stowed")
        first, second = Voice(session, "first"), Voice(session, "second")
        self.assertEqual(first.answer("command", positions={"slew": 0.1})["code"], "not-yours")
        self.assertTrue(first.answer("take", rate=50)["ok"])
        refused = second.answer("take", rate=50)
        self.assertEqual(
            (refused["code"], "first has the say" in refused["words"]), ("taken", True)
        )
        for kind, fields in (
            ("command", {"positions": {"slew": 0.2}}),
            ("pause", {}),
            ("reset", {}),
        ):
            self.assertEqual(second.answer(kind, **fields)["code"], "not-yours", kind)
        self.assertFalse(session.control.is_safe, "what a stranger says is no reason to stop")
        self.assertTrue(second.answer("watch", state=10)["ok"])
        session.simulation.step(30)
        self.assertIn("state", [m["kind"] for m in second.listen()])
        self.assertTrue(first.answer("leave")["ok"])
        self.assertTrue(second.answer("take")["ok"])
        nameless = Voice.__new__(Voice)
        nameless.session, nameless.peer, nameless.heard = session, type(first.peer)("x"), []
        session.join(nameless.peer)
        self.assertIn("hello first", nameless.answer("take")["words"])

    def test_a_silent_controller_is_lost_within_two_periods(self) -> None:
        for behaviour in ("hold", "relax", "stop"):
            session = session_for(self, line_tender(), posture="stowed")
            voice = Voice(session)
            voice.say("take", rate=100, lost=behaviour)
            simulation = session.simulation
            voice.say("command", positions={"slew": 0.3}, efforts={"telescope": 5.0})
            voice.say("push", link="mast", force=[10, 0, 0])
            if behaviour == "stop":
                session.player.play()
                until(lambda voice=voice: "lost" in voice.events(), "the loss")
                until(lambda player=session.player: not player.running, "time to stand")
            else:
                simulation.step(19)
                self.assertNotIn("lost", voice.events())
                simulation.step(2)
                voice.listen()
            since = next(m["time"] for m in voice.heard if m.get("what") == "lost")
            self.assertAlmostEqual(since, 0.02)
            self.assertFalse(simulation.commands.push.any())
            # Its thread may still be in the step in which time came to stand.
            with session.player.lock:
                simulation.step(3)
            if behaviour == "relax":
                self.assertEqual(set(simulation.state.efforts.values()), {0.0})
            else:
                motor = simulation.drives["slew"].motor
                self.assertLess(simulation.commands.position[motor], 0.1)
                self.assertNotEqual(simulation.state.efforts["extension"], 0.0)
            self.assertEqual("paused" in voice.events(), behaviour == "stop")
            self.assertEqual(voice.answer("command", positions={"slew": 0.1})["code"], "not-yours")

    def test_an_order_from_an_old_state_is_stale_and_states_are_numbered(self) -> None:
        session = session_for(self, line_tender(), posture="stowed")
        voice = Voice(session)
        voice.say("take", rate=50)
        for _ in range(4):
            session.simulation.step(20)
            voice.say("command", positions={"slew": 0.0})
            voice.listen()
        answer = voice.answer("command", positions={"slew": 0.1}, seen=0.02)
        self.assertEqual(answer["code"], "stale", answer)
        self.assertIn("more than two periods ago", answer["words"])
        session.simulation.step(20)
        session.simulation.step(20)
        voice.listen()
        states = [m for m in voice.heard if m["kind"] == "state"]
        numbers = [m["number"] for m in states]
        # Of the last two only the newer was waiting: the other is counted.
        self.assertEqual(np.diff([0, *numbers]).tolist(), [m["left_out"] + 1 for m in states])
        self.assertEqual(states[-1]["left_out"], 1)
        self.assertEqual(voice.answer("hello", name="another")["code"], "invalid")

    def test_a_name_that_is_given_twice_is_no_message(self) -> None:
        voice = Voice(session_for(self, line_tender()))
        voice.session.heard(voice.peer, '{"kind": "play", "kind": "pause"}')
        voice.listen()
        self.assertEqual(voice.heard[-1]["code"], "malformed")
        self.assertIn("'kind' is given twice", voice.heard[-1]["words"])

    def test_what_is_wrong_is_answered_in_words_and_leads_to_safety(self) -> None:
        cases: list[tuple[dict[str, Any], str, str]] = [
            ({"kind": "command", "positions": {"slow": 0.1}}, "refused", "did you mean 'slew'"),
            ({"kind": "command", "positions": {"slew": 9.0}}, "limits", "from -170 deg to 170 deg"),
            ({"kind": "command", "velocities": {"slew": "90 deg/s"}}, "limits", "20 deg/s"),
            ({"kind": "command", "positions": {"slew": "5 mm"}}, "refused", "angle"),
            ({"kind": "command", "positions": {"luff": 0.1}}, "refused", "no motor drives joint 'luff'"),
            ({"kind": "command", "positions": {"slew": math.nan}}, "invalid", "positions.slew: must be a finite number"),
            ({"kind": "command", "position": {"slew": 0}}, "invalid", "position: there is no such field"),
            ({"kind": "comand"}, "unknown-kind", "did you mean 'command'"),
            ({"kind": "go"}, "refused", "one of them"),
            ({"kind": "go", "posture": "stoved"}, "refused", "did you mean 'stowed'"),
            ({"kind": "follow", "courses": {"slew": [[1, 0.1], [0.5, 0.2]]}}, "refused", "times that grow"),
            ({"kind": "signal", "values": {"clamp.opened": True}}, "refused", "the device sets it"),
            ({"kind": "signal", "values": {"clamp.opne": True}}, "refused", "did you mean 'clamp.open'"),
            ({"kind": "command", "positions": {"slew": 0.1}, "seen": -5.0}, "invalid", "seen: input should be greater than or equal to 0"),
            ({"kind": "command", "positions": {"slew": 0.1}, "seen": 7.0}, "invalid", "no state is of 7 s yet"),
            ({"kind": "command", "positions": {"slew": True}}, "invalid", "not true or false"),
            ({"kind": "push", "link": "boom", "force": [1e300, 0, 0]}, "refused", "larger than any machine"),
            ({"kind": "advance"}, "refused", "time goes on by itself"),
        ]  # fmt: skip
        for message, code, words in cases:
            with self.subTest(str(message)):
                session = session_for(self, line_tender(), posture="stowed")
                voice = Voice(session)
                voice.say("take", rate=50)
                kind = message.pop("kind")
                answer = voice.answer(kind, **message)
                self.assertEqual(answer["code"], code, answer)
                self.assertIn(words, answer["words"])
                self.assertEqual(session.control.is_safe, kind in INCOMING)
                voice.say("command", positions={"slew": 0.05})
                self.assertFalse(session.control.is_safe, "a right order ends it")
        for data in (
            b"\xff\x00",
            "[1]",
            "{",
            b"{" * 2_000_000,
            '{"kind": 3}',
            b"\xa1\x01\x02",
            "[" * 100_000,
        ):
            voice.heard.clear()
            said = voice.bytes(data)
            self.assertIn(said[0]["code"], ("malformed", "too-large", "unknown-kind"), data[:9])
        self.assertTrue(session.control.is_safe)

    def test_a_flood_is_left_unheard_and_a_slow_reader_holds_nobody_up(self) -> None:
        session = session_for(self, line_tender(), posture="stowed")
        flood, slow = Voice(session, "flood"), Voice(session, "slow")
        slow.say("watch", state=1000)
        session.simulation.step(2500)
        waiting = [message for message in slow.listen() if message["kind"] == "state"]
        self.assertEqual(len(waiting), 1, "the newest alone waits")
        self.assertAlmostEqual(waiting[0]["time"], 2.499)
        self.assertGreater(slow.peer.left_out, 2400)
        self.assertIn("slow-reader", flood.events())
        with mock.patch("mooring.bridge.session.peer.time.monotonic", return_value=flood.peer.last):
            for _ in range(6_000):
                session.heard(flood.peer, b'{"kind": "pause"}')
        codes = [message.get("code") for message in flood.listen()]
        self.assertEqual(codes.count("too-often"), 1, "the first that is not heard is answered")
        self.assertGreater(flood.peer.wait, 0.0)
        stuck = Voice(session, "stuck")
        for _ in range(3000):
            session.heard(stuck.peer, b"nonsense")
        self.assertTrue(stuck.peer.overrun, "one that never reads is to be let go")

    def test_a_load_that_is_torn_off_is_told(self) -> None:
        session = session_for(self, plant())
        voice = Voice(session)
        voice.say("take")
        voice.say("go", positions={"lift": "-4 mm"}, over=0.1)
        voice.say("grip", name="cup")
        session.simulation.step(200)
        self.assertEqual(session.publisher.state()["held"], {"cup": "crate"})
        voice.say("push", link="crate", force=[0, 300, 0])
        session.simulation.step(60)
        self.assertIn("dropped", voice.events())
        self.assertEqual(session.publisher.state()["held"], {"cup": ""})

    def test_time_is_told_and_ruled(self) -> None:
        session = session_for(self, line_tender(), posture="stowed", speed=math.inf)
        voice = Voice(session)
        self.assertTrue(voice.answer("step", count=7)["ok"])
        until(lambda: session.simulation.native.steps == 7, "the simulation")
        self.assertAlmostEqual(session.simulation.time, 0.007)
        voice.say("pace", speed=0.5)
        self.assertEqual(session.player.speed, 0.5)
        voice.say("reset", play=False)
        self.assertEqual(session.simulation.time, 0.0)
        self.assertEqual(voice.answer("clear")["code"], "not-here")
        session.simulation.ended = "the motion exploded at 0.1 s"
        self.assertIn("reset it first", voice.answer("play")["words"])

    def test_in_lock_step_time_waits_however_it_is_interrupted(self) -> None:
        scene = mooring.read_scene(WALKER.document.with_name("breakwater.yaml"))
        session = session_for(self, scene, lockstep=True, speed=math.inf)
        session.player.play()
        voice = Voice(session)
        voice.say("take", rate=100)
        until(lambda: session.control.announced == 0, "the simulation")
        self.assertTrue(voice.listen()[-1]["turn"])
        said = voice.say("advance", orders=[{"kind": "hold"}], periods=3)
        self.assertEqual([m["time"] for m in said if m["kind"] == "state"], [0.03])
        session.player.pause()
        self.assertEqual([m["what"] for m in voice.say("advance")], ["paused"])
        session.player.play()
        until(lambda: session.control.announced == 40, "the simulation")
        self.assertEqual([m["time"] for m in voice.listen() if m["kind"] == "state"], [0.04])
        answer = voice.answer(
            "advance", orders=[{"kind": "hold"}, {"kind": "command", "positions": {"no": 1}}]
        )
        self.assertEqual(answer["code"], "refused")
        self.assertEqual(
            session.simulation.native.steps, 40, "time stands where an order was wrong"
        )
        voice.say("reset")
        until(lambda: session.control.announced == 0, "the simulation")
        voice.say("advance", periods=5)
        # Somebody at the page goes back, too, and lets time go on.
        voice.heard.clear()
        session.player.reset()
        session.player.play()
        until(lambda: session.control.announced == 0, "the simulation")
        self.assertEqual(voice.events(), ["paused", "reset", "playing"])
        self.assertEqual(session.simulation.native.steps, 0, "time waits as before")
        session.left(voice.peer)
        self.assertIsNone(session.control.holder)
        with self.assertRaises(Halt, msg="time waits for another controller"):
            session.simulation.step(1)


class OneInterface(unittest.TestCase):
    def test_a_connection_has_the_calls_of_a_simulation(self) -> None:
        for name, call in inspect.getmembers(Commanded, inspect.isfunction):
            if name.startswith("_") or name == "drive":
                continue
            there = getattr(Connection, name)
            self.assertEqual(inspect.signature(there), inspect.signature(call), name)
        for name in ("state", "time", "signals", "held", "read", "step", "robot", "tree", "driven"):
            self.assertTrue(hasattr(Connection, name), name)


class Limits(unittest.TestCase):
    def test_no_more_programs_than_can_be_served(self) -> None:
        from mooring.bridge.session import Peer
        from mooring.bridge.session.session import MOST_PEERS

        robot = mooring.read(DRUM_CART.document)
        session = session_for(self, robot)
        for number in range(MOST_PEERS):
            self.assertEqual(session.join(Peer(str(number))), "")
        self.assertIn("as many as may be", session.join(Peer("one more")))

    def test_every_message_has_someone_who_does_it(self) -> None:
        from mooring.bridge.session import Session

        for kind, message in INCOMING.items():
            self.assertTrue(callable(getattr(Session, f"_{kind}")), kind)
            self.assertEqual(message.moves, issubclass(message, say.Order))
