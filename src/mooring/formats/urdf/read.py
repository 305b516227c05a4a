"""From a URDF file to a robot."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path
from typing import Any, cast
from urllib.parse import unquote, urlparse

import numpy as np
from lxml import etree

from mooring.cad import Mesh, read_cad
from mooring.cad.assembly.flatten import one_mesh
from mooring.cad.meshes.conventions import UNITLESS
from mooring.errors import DocumentError, InputError, ModelError, Place, Problem
from mooring.files import note_file
from mooring.geometry import Array, placement, rotation_from_rpy
from mooring.model import Box, Cylinder, MeshShape, PlacedShape, Placement, Robot, Sphere
from mooring.model.definition.problems import EntryError
from mooring.model.shapes import Shape

LARGEST_FILE = 64 * 2**20
_JOINT_TYPES = ("fixed", "revolute", "continuous", "prismatic", "floating", "planar")


def read_urdf(file: Path, search: Sequence[Path] = ()) -> Robot:
    """Read a robot from a URDF file.

    Meshes that cannot be found or read are left out, and `robot.notes` says so.

    Args:
        file: which.
        search: folders to look for meshes in, before those near the file.

    Raises:
        InputError: the file is missing or too large.
        DocumentError: everything that is wrong in it, each with its line.
    """
    return _Reader(file, search).robot()


class _WrongElementError(Exception):
    """A wrong element; becomes a problem with the element's line."""

    def __init__(self, element: etree._Element, message: str) -> None:
        super().__init__(message)
        self.element = element


class _Reader:
    def __init__(self, file: Path, search: Sequence[Path]) -> None:
        self.file = file
        self.search = search
        self.problems: list[Problem] = []
        self.colors: dict[str, str] = {}
        self.meshes: dict[Path, Mesh | None] = {}
        self.root = self._parse()
        self.result = Robot(self.root.get("name") or file.stem)

    def _parse(self) -> etree._Element:
        note_file(self.file)
        if not self.file.is_file():
            what = "is a folder" if self.file.is_dir() else "there is no such file"
            raise InputError(f"{self.file}: {what}")
        if self.file.stat().st_size > LARGEST_FILE:
            raise InputError(f"{self.file}: larger than {LARGEST_FILE >> 20} MiB; no URDF file is")
        data = self.file.read_bytes()
        if not data.strip():
            raise InputError(f"{self.file}: the file is empty")
        parser = etree.XMLParser(
            resolve_entities=False, no_network=True, load_dtd=False, remove_comments=True
        )
        try:
            root = etree.fromstring(data, parser)
        except etree.XMLSyntaxError as error:
            place = Place(self.file, int(error.lineno or 0) or None)
            raise _refused(f"not readable as XML: {error.msg}", place) from None
        if cast("Any", root.getroottree().docinfo).doctype:
            raise _refused("document types and entities are refused", Place(self.file, 1))
        if root.tag != "robot":
            message = f"a URDF file begins with <robot>, this one with <{root.tag}>"
            raise _refused(message, self._place(root))
        return root

    def robot(self) -> Robot:
        self.result.places[()] = self._place(self.root)
        for element in self.root.findall("material"):
            self._guard(element, self._material)
        for element in self.root.findall("link"):
            self._guard(element, self._link)
        for element in self.root.findall("joint"):
            self._guard(element, self._joint)
        for element in self.root.findall("joint"):
            for mimic in element.findall("mimic"):
                self._guard(mimic, partial(self._mimic, element))
        for element in self.root.findall("transmission"):
            self._transmission(element)
        known = {"material", "link", "joint", "transmission"}
        extra = sorted({str(e.tag) for e in self.root if e.tag not in known})
        if extra:
            self._note(f"elements that are not read: {', '.join(extra)}")
        if self.problems:
            raise DocumentError(self.problems)
        return self.result

    def _transmission(self, element: etree._Element) -> None:
        """What drives a joint: a motor that is told its effort, for URDF gives no gains."""
        name = element.get("name") or "transmission"
        driven = [e.get("name", "?") for e in element.findall("joint")]
        actuators = [e.get("name") or name for e in element.findall("actuator")]
        if len(driven) != 1 or len(actuators) != 1:
            self._note(
                f"transmission {name!r} is left out: it drives {', '.join(driven) or 'no joint'} "
                f"by {', '.join(actuators) or 'no actuator'}, and a motor drives one joint"
            )
            return
        texts = [e.text or "" for e in element.iter("mechanicalReduction")]
        try:
            ratio = abs(float(texts[0])) if texts and texts[0].strip() else 1.0
            entry = {"joint": driven[0], "mode": "effort", "gear_ratio": ratio}
            self.result.add("motor", actuators[0], entry)
        except ValueError:
            self._note(f"transmission {name!r}: its reduction {texts[0]!r} is no number; left out")
        except ModelError as error:
            self._note(f"transmission {name!r} is left out: {error}")
        else:
            self.result.places["motors", actuators[0]] = self._place(element)
            self._note(
                f"transmission {name!r} is read as motor {actuators[0]!r}, told its effort: URDF "
                "gives no gains"
            )

    def _guard(self, element: etree._Element, read: Callable[[etree._Element], None]) -> None:
        try:
            read(element)
        except _WrongElementError as error:
            self._problem(error.element, str(error))
        except EntryError as error:
            kind = f"{element.tag} {element.get('name', '')!r}: "
            for problem in error.problems:
                at = ".".join(str(key) for key in problem.path)
                self._problem(element, kind + (f"{at}: " if at else "") + problem.message)
        except ModelError as error:
            self._problem(element, str(error))

    def _place(self, element: etree._Element) -> Place:
        return Place(self.file, cast("int | None", element.sourceline))

    def _problem(self, element: etree._Element, message: str) -> None:
        self.problems.append(Problem(message, place=self._place(element)))

    def _note(self, text: str) -> None:
        self.result.notes.append(f"{self.file.name}: {text}")

    def _material(self, element: etree._Element) -> None:
        color = element.find("color")
        if color is not None and element.get("name"):
            self.colors[element.get("name", "")] = _hex(color)

    def _link(self, element: etree._Element) -> None:
        name = _required(element, "name")
        given: dict[str, Any] = {}
        inertial = element.find("inertial")
        if inertial is not None:
            given = self._inertial(name, inertial)
        visuals = [s for e in element.findall("visual") if (s := self._shape(name, e)) is not None]
        collisions = [
            s for e in element.findall("collision") if (s := self._shape(name, e)) is not None
        ]
        self.result.add_link(name, visuals=visuals, collision=collisions, **given)
        self.result.places["links", name] = self._place(element)

    def _inertial(self, link: str, element: etree._Element) -> dict[str, Any]:
        mass_element = _child(element, "mass")
        mass = _number(mass_element, "value")
        if mass == 0:
            self._note(f"link {link!r} has the mass 0 and is read as without mass properties")
            return {}
        moments = _child(element, "inertia")
        ixx, ixy, ixz, iyy, iyz, izz = (
            _number(moments, key) for key in ("ixx", "ixy", "ixz", "iyy", "iyz", "izz")
        )
        place = _origin(element)
        tensor = np.array([[ixx, ixy, ixz], [ixy, iyy, iyz], [ixz, iyz, izz]])
        turn = place[:3, :3]
        if not np.array_equal(turn, np.eye(3)):
            tensor = turn @ tensor @ turn.T
        return {
            "mass": mass,
            "centre": place[:3, 3].tolist(),
            "inertia": tensor[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]].tolist(),
        }

    def _shape(self, link: str, element: etree._Element) -> PlacedShape | None:
        geometry = _child(element, "geometry")
        inner = next((e for e in geometry if isinstance(e.tag, str)), None)
        if inner is None:
            raise _WrongElementError(geometry, f"link {link!r}: <geometry> is empty")
        shape = self._geometry(link, inner)
        if shape is None:
            return None
        return PlacedShape(
            shape, Placement(_origin(element)), element.get("name", ""), self._color(element)
        )

    def _geometry(self, link: str, element: etree._Element) -> Shape | None:
        if element.tag == "box":
            x, y, z = _numbers(element, "size", 3)
            return Box((x, y, z))
        if element.tag == "cylinder":
            return Cylinder(_number(element, "radius"), _number(element, "length"))
        if element.tag == "sphere":
            return Sphere(_number(element, "radius"))
        if element.tag == "mesh":
            return self._mesh(link, element)
        raise _WrongElementError(element, f"link {link!r}: URDF has no geometry <{element.tag}>")

    def _mesh(self, link: str, element: etree._Element) -> MeshShape | None:
        filename = _required(element, "filename")
        path = self._find(filename)
        if path is None:
            self.result.missing_meshes.append((link, filename))
            self._note(f"link {link!r}: mesh {filename} is not there and was left out")
            return None
        if path not in self.meshes:
            try:
                unitless = path.suffix.lower() in UNITLESS
                self.meshes[path] = one_mesh(read_cad(path, unit="m" if unitless else None))
            except InputError as error:
                self._note(f"link {link!r}: mesh left out: {error}")
                self.meshes[path] = None
        mesh = self.meshes[path]
        if mesh is None:
            return None
        if element.get("scale"):
            scale = np.array(_numbers(element, "scale", 3))
            faces = mesh.faces[:, ::-1] if np.prod(scale) < 0 else mesh.faces
            mesh = Mesh(mesh.vertices * scale, faces, mesh.paint)
        return MeshShape(mesh, path.stem)

    def _find(self, filename: str) -> Path | None:
        """A mesh by relative path, file:// or package://, looked for near the URDF file."""
        address = urlparse(filename.replace("\\", "/"))
        if address.scheme == "package":
            inside = Path(unquote(address.path.lstrip("/")))
            folders = [*self.search, self.file.parent, *self.file.resolve().parent.parents]
            tries = [
                place
                for folder in folders
                for place in (folder / address.netloc / inside, folder / inside)
            ]
        elif address.scheme == "file":
            tries = [Path(unquote(address.path))]
        else:
            name = unquote(address.path)
            tries = [folder / name for folder in (*self.search, self.file.parent)]
        return next((path for path in tries if path.is_file()), None)

    def _color(self, element: etree._Element) -> str | None:
        material = element.find("material")
        if material is None:
            return None
        color = material.find("color")
        if color is not None:
            found = _hex(color)
            if material.get("name"):
                self.colors.setdefault(material.get("name", ""), found)
            return found
        return self.colors.get(material.get("name", ""))

    def _joint(self, element: etree._Element) -> None:
        name = _required(element, "name")
        kind = _required(element, "type")
        if kind not in _JOINT_TYPES:
            known = ", ".join(_JOINT_TYPES)
            raise _WrongElementError(
                element, f"joint {name!r}: the type {kind!r} cannot be read; readable are {known}"
            )
        if kind == "planar":
            self._planar(name, element)
            return
        entry: dict[str, Any] = {
            "type": kind,
            "parent": _required(_child(element, "parent"), "link"),
            "child": _required(_child(element, "child"), "link"),
            "at": Placement(_origin(element)),
        }
        if kind not in ("fixed", "floating"):
            # The specification's default axis is x.
            axis = element.find("axis")
            entry["axis"] = [1.0, 0.0, 0.0] if axis is None else _numbers(axis, "xyz", 3)
            length = float(np.linalg.norm(entry["axis"]))
            if length > 0 and abs(length - 1) > 1e-3:
                self._note(f"joint {name!r}: the axis has the length {length:.4g}; made a unit")
            entry["limits"] = self._limits(name, kind, element.find("limit"))
            entry["calibration"] = self._calibration(element.find("calibration"))
            soft = self._soft_limits(element.find("safety_controller"))
            if soft is not None:
                entry["limits"]["soft"] = soft
            dynamics = element.find("dynamics")
            if dynamics is not None:
                entry["damping"] = _number(dynamics, "damping", 0.0)
                entry["friction"] = _number(dynamics, "friction", 0.0)
        self.result.add("joint", name, entry)
        for key in ((), ("parent",), ("child",), ("limits",), ("axis",)):
            tag = "limit" if key == ("limits",) else key[0] if key else ""
            inner = element.find(tag) if tag else element
            if inner is not None:
                self.result.places["joints", name, *key] = self._place(inner)

    def _planar(self, name: str, element: etree._Element) -> None:
        axis = element.find("axis")
        self.result.add(
            "joint",
            name,
            {
                "type": "planar",
                "parent": _required(_child(element, "parent"), "link"),
                "child": _required(_child(element, "child"), "link"),
                "at": Placement(_origin(element)),
                "axis": [1.0, 0.0, 0.0] if axis is None else _numbers(axis, "xyz", 3),
            },
        )
        made = ", ".join(joint for joint in self.result.joints if joint.startswith(f"{name}_"))
        self._note(f"joint {name!r}: planar, read as the simple joints {made}")

    def _limits(
        self, joint: str, kind: str, element: etree._Element | None
    ) -> dict[str, float | None]:
        if element is None:
            if kind != "continuous":
                self._note(f"joint {joint!r}: a {kind} joint without <limit>")
            return {}
        limits: dict[str, float | None] = {}
        for key in ("effort", "velocity"):
            if element.get(key) is not None:
                limits[key] = _number(element, key)
        if kind != "continuous":
            limits["lower"] = _number(element, "lower", 0.0)
            limits["upper"] = _number(element, "upper", 0.0)
        return limits

    def _soft_limits(self, element: etree._Element | None) -> dict[str, float] | None:
        if element is None:
            return None
        soft = {
            "position_gain": _number(element, "k_position", 0.0),
            "velocity_gain": _number(element, "k_velocity"),
        }
        # The specification's default for both ends is 0; equal ends say nothing.
        lower = _number(element, "soft_lower_limit", 0.0)
        upper = _number(element, "soft_upper_limit", 0.0)
        return soft if lower == upper else {**soft, "lower": lower, "upper": upper}

    def _calibration(self, element: etree._Element | None) -> dict[str, float] | None:
        if element is None:
            return None
        keys = [key for key in ("rising", "falling") if element.get(key) is not None]
        return {key: _number(element, key) for key in keys}

    def _mimic(self, joint: etree._Element, mimic: etree._Element) -> None:
        self.result.add(
            "coupling",
            joint.get("name", ""),
            {
                "follows": _required(mimic, "joint"),
                "ratio": _number(mimic, "multiplier", 1.0),
                "offset": _number(mimic, "offset", 0.0),
            },
        )


def _refused(message: str, place: Place) -> DocumentError:
    return DocumentError([Problem(message, code="syntax", place=place)])


def _origin(element: etree._Element) -> Array:
    origin = element.find("origin")
    if origin is None:
        return np.eye(4)
    xyz = _numbers(origin, "xyz", 3) if origin.get("xyz") else [0.0, 0.0, 0.0]
    rpy = _numbers(origin, "rpy", 3) if origin.get("rpy") else [0.0, 0.0, 0.0]
    return placement(xyz, rotation_from_rpy(rpy))


def _child(element: etree._Element, tag: str) -> etree._Element:
    found = element.find(tag)
    if found is None:
        owner = f" {element.get('name')!r}" if element.get("name") else ""
        raise _WrongElementError(element, f"<{element.tag}>{owner} has no <{tag}>")
    return found


def _required(element: etree._Element, key: str) -> str:
    value = element.get(key)
    if value is None or not value.strip():
        raise _WrongElementError(element, f"<{element.tag}> has no {key}")
    return value


def _number(element: etree._Element, key: str, missing: float | None = None) -> float:
    text = element.get(key)
    if text is None and missing is not None:
        return missing
    (value,) = _numbers(element, key, 1)
    return value


def _numbers(element: etree._Element, key: str, count: int) -> list[float]:
    text = _required(element, key)
    try:
        values = [float(word) for word in text.split()]
    except ValueError:
        raise _WrongElementError(
            element, f"<{element.tag}> {key}={text!r} holds no numbers"
        ) from None
    if len(values) != count or not np.isfinite(values).all():
        what = "a finite number" if count == 1 else f"{count} finite numbers"
        raise _WrongElementError(element, f"<{element.tag}> {key}={text!r} must be {what}")
    return values


def _hex(color: etree._Element) -> str:
    rgba = np.clip(_numbers(color, "rgba", 4), 0, 1)
    return "#" + "".join(f"{round(255 * value):02x}" for value in rgba[:3])
