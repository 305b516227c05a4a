"""URDF files: healthy ones in many styles, and each kind of mistake in one of them."""

from pathlib import Path
from typing import NamedTuple

FOLDER = Path(__file__).parent / "urdf"
HEALTHY = sorted(FOLDER.rglob("*.urdf"))


class Mistake(NamedTuple):
    """One thing wrong.

    Attributes:
        file: the healthy file in which it is made.
        old, new: what is replaced, once, by what.
        code: the rule that must speak first.
        words: what it must say.
    """

    file: str
    old: str
    new: str
    code: str
    words: str = ""


def text_of(file: Path) -> str:
    raw = file.read_bytes()
    return raw.decode("latin-1" if b"iso-8859-1" in raw[:60] else "utf-8")


ARM, CART, DOG, TWIN, CLAMP = "quay_arm", "tug_cart", "pile_walker", "stevedore", "clamp"
GANTRY, DAVIT, MAST, LEVER, POST = "yard_gantry", "davit", "signal_mast", "capstan", "bollard"
INERTIAL = (
    '<inertial><mass value="90"/><inertia ixx="4.7" ixy="0" ixz="0" iyy="4.7" iyz="0" izz="1.0125"/>'
    "</inertial>"
)
HEAD = '<?xml version="1.0"?>'
LUFF = 'lower="-1.6" upper="1.6" effort="400" velocity="2.5"'
PARENT = '<parent link="pedestal"/>'
UPPER = 'ixx="0.34797" ixy="0" ixz="0" iyy="0.3432" iyz="0" izz="0.031167"'
MISTAKES = [
    # What is written.
    Mistake(ARM, 'lower="-1.6"', 'Lower="-1.6"', "not-understood", "did you mean 'lower'"),
    Mistake(
        POST,
        INERTIAL,
        INERTIAL.replace("inertial", "inertal"),
        "not-understood",
        "did you mean 'inertial'",
    ),
    Mistake(
        POST,
        '<visual><geometry><cylinder radius="0.15" length="0.7"/></geometry>',
        '<visual><geomtry><cylinder radius="0.15" length="0.7"/></geomtry>',
        "element-missing",
        "no <geometry>",
    ),
    Mistake(
        ARM,
        '<mass value="11"/>',
        '<mas value="11"/><mass value="11"/>',
        "not-understood",
        "did you mean 'mass'",
    ),
    Mistake(
        ARM,
        "<visual>",
        "<inertial><mass value='2'/></inertial><visual>",
        "element-twice",
        "second <inertial>",
    ),
    Mistake(
        ARM,
        '<material name="steel"/>',
        '<material name="stele"/>',
        "material-undefined",
        "did you mean 'steel'",
    ),
    Mistake(CLAMP, "meshes/body.stl", "meshes/bdy.stl", "mesh-missing", "did you mean 'body.stl'"),
    Mistake(
        CLAMP, "meshes/body.stl", "meshes/Body.STL", "not-standard", "written body.stl on disk"
    ),
    Mistake(
        ARM,
        '<cylinder radius="0.055" length="0.5"/>',
        '<capsule radius="0.055" length="0.4"/>',
        "not-standard",
        "<capsule>",
    ),
    Mistake(ARM, HEAD, f"<!-- quay -->{HEAD}", "not-standard", "before the XML declaration"),
    Mistake(ARM, HEAD, f"\n\n{HEAD}", "not-standard", "before the XML declaration"),
    Mistake(ARM, "<robot ", '<robot xmlns="http://urdf.example" ', "not-standard", "URDF has none"),
    Mistake(ARM, "<robot ", "<!DOCTYPE robot>\n<robot ", "not-standard", "document type"),
    Mistake(ARM, "</robot>", "<crane:plan/></robot>", "not-standard", "prefix"),
    Mistake(
        ARM,
        f"{UPPER}",
        'ixx="0.34797" iyy="0.3432" izz="0.031167"',
        "value-assumed",
        "ixy, ixz, iyz not given",
    ),
    Mistake(ARM, '<mass value="11"/>', '<mass value="-11"/>', "mass-negative", "the mass -11 kg"),
    Mistake(ARM, '<mass value="11"/>', '<mass value="nan"/>', "value-unreadable", "finite number"),
    Mistake(ARM, '<mass value="11"/>', "", "element-missing", "<inertial> without a mass"),
    Mistake(ARM, 'ixx="0.34797" ', "", "element-missing", "moments of inertia are missing"),
    Mistake(
        ARM,
        '<link name="tool0"/>',
        '<link name="tool0"/><link name="flange"/>',
        "name-twice",
        "there is a link 'flange' on line",
    ),
    Mistake(
        ARM,
        '<joint name="elbow"',
        '<joint name="luff"',
        "name-twice",
        "there is a joint 'luff' on line",
    ),
    Mistake(ARM, ' effort="400"', "", "value-assumed", "without effort"),
    Mistake(ARM, ' velocity="2.5"', "", "value-assumed", "without velocity"),
    Mistake(ARM, '<axis xyz="0 1 0"/>', "", "axis-assumed", "without <axis>"),
    Mistake(
        ARM, '<axis xyz="0 1 0"/>', '<axis xyz="0 0 0"/>', "value-unreadable", "points nowhere"
    ),
    Mistake(ARM, '<axis xyz="0 1 0"/>', '<axis xyz="0 2 0"/>', "axis-not-unit", "has the length 2"),
    Mistake(ARM, 'xyz="0 0 0.65"', 'xyz="0 0.65"', "value-unreadable", "must be 3 finite numbers"),
    Mistake(ARM, 'xyz="0 0 0.65"', 'xyz="0 0 0,65"', "value-unreadable", "decimal point"),
    Mistake(ARM, 'xyz="0 0 0.65"', 'xyz="0 0 650mm"', "value-unreadable", "URDF has no units"),
    Mistake(ARM, 'type="revolute"', 'type="hinge"', "value-unreadable", "the type 'hinge'"),
    Mistake(
        ARM, 'type="revolute"', 'type="Revolute"', "value-unreadable", "did you mean 'revolute'"
    ),
    Mistake(
        ARM, 'name="luff" type="revolute"', 'name="luff"', "element-missing", "no type is given"
    ),
    Mistake(ARM, PARENT, "", "element-missing", "has no <parent>"),
    Mistake(ARM, f"<limit {LUFF}/>", "", "element-missing", "without <limit>"),
    Mistake(ARM, 'lower="-1.6" upper="1.6" ', "", "element-missing", "without lower and upper"),
    Mistake(ARM, 'name="elbow" ', "", "element-missing", "a joint without a name"),
    Mistake(ARM, '<link name="flange">', "<link>", "element-missing", "<link> has no name"),
    Mistake(
        ARM,
        'size="0.12 0.14 0.6"',
        'size="0.12 -0.14 0.6"',
        "size-not-positive",
        "cannot be 0.12 -0.14 0.6",
    ),
    Mistake(ARM, 'radius="0.055"', 'radius="0"', "size-not-positive", "cannot be 0"),
    Mistake(
        CLAMP,
        'scale="0.001 0.001 0.001"',
        'scale="0.001 0.001 0"',
        "size-not-positive",
        "leaves nothing",
    ),
    Mistake(
        ARM, 'rgba="0.95 0.7 0.1 1"', 'rgba="242 178 25 255"', "value-unreadable", "within 0 and 1"
    ),
    Mistake(
        ARM,
        '<geometry><cylinder radius="0.055" length="0.5"/></geometry>',
        "<geometry/>",
        "element-missing",
        "is empty",
    ),
    Mistake(
        ARM,
        '<cylinder radius="0.055" length="0.5"/>',
        '<cone radius="0.055"/>',
        "value-unreadable",
        "no geometry <cone>",
    ),
    Mistake(
        DAVIT,
        '<mimic joint="lower"/>',
        '<mimic joint="lowr"/>',
        "value-unreadable",
        "no joint is called 'lowr'",
    ),
    Mistake(
        DAVIT, '<mimic joint="lower"/>', '<mimic joint="upper"/>', "value-unreadable", "itself"
    ),
    Mistake(DAVIT, 'multiplier="-1"', 'multiplier="minus"', "value-unreadable", "holds no numbers"),
    # The tree.
    Mistake(
        ARM,
        '<parent link="forearm"/>',
        '<parent link="fore_arm"/>',
        "missing-link",
        "did you mean 'forearm'",
    ),
    Mistake(
        ARM,
        '<child link="forearm"/>',
        '<child link="forarm"/>',
        "missing-link",
        "did you mean 'forearm'",
    ),
    Mistake(ARM, '<child link="wrist_2"/>', '<child link="wrist_1"/>', "two-parents", "wrist_1"),
    Mistake(ARM, PARENT, '<parent link="forearm"/>', "cycle", "make a ring"),
    Mistake(
        ARM,
        '<link name="tool0"/>',
        '<link name="tool0"/><link name="spare"/>',
        "several-roots",
        "'spare' is",
    ),
    # Mass and inertia.
    Mistake(
        ARM,
        UPPER,
        'ixx="347.97" ixy="0" ixz="0" iyy="343.2" iyz="0" izz="31.167"',
        "inertia-against-geometry",
        "1000 times as much",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="347970" ixy="0" ixz="0" iyy="343200" iyz="0" izz="31167"',
        "inertia-against-geometry",
        "kg mm^2",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="1" ixy="0" ixz="0" iyy="1" iyz="0" izz="1"',
        "inertia-placeholder",
        "placeholder",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="1e-4" ixy="0" ixz="0" iyy="1e-4" iyz="0" izz="1e-4"',
        "inertia-placeholder",
        "placeholder",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="1.33797" ixy="0" ixz="0" iyy="1.3332" iyz="0" izz="0.031167"',
        "inertia-about-frame",
        "about the link's frame",
    ),
    Mistake(
        LEVER,
        'ixx="0.0016" ixy="0.0" ixz="0.0" iyy="0.0549" iyz="0.0" izz="0.0553"',
        'ixx="0.0016" ixy="0.0" ixz="0.0" iyy="0.0549" iyz="0.0" izz="0.5553"',
        "inertia-impossible",
        "more than the sum",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="0.34797" ixy="0" ixz="0" iyy="-0.3432" iyz="0" izz="0.031167"',
        "inertia-not-positive",
        "not all positive",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="0.34797" ixy="0.6" ixz="0" iyy="0.3432" iyz="0" izz="0.031167"',
        "inertia-not-positive",
        "not all positive",
    ),
    Mistake(
        ARM,
        UPPER,
        'ixx="0" ixy="0" ixz="0" iyy="0" iyz="0" izz="0"',
        "inertia-not-positive",
        "not all positive",
    ),
    Mistake(
        ARM,
        '<mass value="11"/>',
        '<mass value="11000"/>',
        "mass-against-geometry",
        "g, taken for kg",
    ),
    Mistake(
        ARM,
        '<mass value="6"/>',
        '<mass value="0.006"/>',
        "mass-against-geometry",
        "lighter than foam",
    ),
    Mistake(
        MAST,
        '<mass value="1.5"/>',
        '<mass value="0"/>',
        "mass-missing",
        "'pan_head' moves and has no mass",
    ),
    Mistake(
        ARM,
        '<origin xyz="0 0 0.3" rpy="0 0 0"/>\n      <mass',
        '<origin xyz="0 0 300" rpy="0 0 0"/>\n      <mass',
        "centre-outside",
        "outside",
    ),
    Mistake(
        ARM,
        '<origin xyz="0 0 0.3" rpy="0 0 0"/>\n      <mass',
        '<origin xyz="0.3 0 0" rpy="0 0 0"/>\n      <mass',
        "centre-outside",
        "outside",
    ),
    # Geometry.
    Mistake(CLAMP, ' scale="0.001 0.001 0.001"', "", "scale-unlikely", "'left_jaw' is 70 m large"),
    Mistake(CLAMP, 'body.stl"/>', 'body.stl" scale="-1 1 1"/>', "not-standard", "mirrors"),
    Mistake(
        ARM,
        '<origin xyz="0 0 0.25" rpy="0 0 0"/>\n      <geometry><cylinder radius="0.055" length="0.5"',
        '<origin xyz="0 0 250" rpy="0 0 0"/>\n      <geometry><cylinder radius="0.055" length="0.5"',
        "shape-far",
        "from the link's frame",
    ),
    Mistake(
        ARM,
        '<origin xyz="0 0 0.25" rpy="0 0 0"/>\n      <geometry><cylinder radius="0.055" length="0.4"',
        '<origin xyz="0 0 2.5" rpy="0 0 0"/>\n      <geometry><cylinder radius="0.055" length="0.4"',
        "geometry-apart",
        "away from what it looks like",
    ),
    Mistake(ARM, 'xyz="0 0 0.65"', 'xyz="0 0 650"', "place-unlikely", "650 m from its parent"),
    Mistake(ARM, 'xyz="0 0 0.02"', 'xyz="0 0 20"', "place-unlikely", "20 m from its parent"),
    Mistake(CART, 'rpy="-1.5708 0 -1.5708"', 'rpy="-90 0 -90"', "angle-unlikely", "degrees?"),
    Mistake(CART, 'rpy="1.5708 0 0"', 'rpy="90 0 0"', "angle-unlikely", "degrees?"),
    # Limits.
    Mistake(ARM, 'lower="-1.6" upper="1.6"', 'lower="-92" upper="92"', "limits-unlikely", "URDF"),
    Mistake(
        GANTRY,
        'lower="-2.4" upper="2.4"',
        'lower="-2400" upper="2400"',
        "limits-unlikely",
        "2400 m",
    ),
    Mistake(
        ARM,
        'lower="-1.6" upper="1.6"',
        'lower="1.6" upper="-1.6"',
        "limits-inverted",
        "is above the upper",
    ),
    Mistake(ARM, 'lower="-1.6" upper="1.6"', 'lower="0" upper="0"', "limits-closed", "cannot move"),
    Mistake(ARM, 'effort="400"', 'effort="0"', "limits-zero", "effort limit is 0"),
    Mistake(ARM, 'effort="400"', 'effort="-400"', "limits-zero", "effort limit is -400"),
    Mistake(ARM, 'velocity="2.5"', 'velocity="0"', "limits-zero", "velocity limit is 0"),
    Mistake(ARM, 'effort="400"', 'effort="4e8"', "effort-unlikely", "more than 1000 times"),
    Mistake(
        ARM,
        LUFF,
        'lower="-1.6" upper="1.6" effort="4" velocity="2.5"',
        "effort-too-small",
        "has to hold",
    ),
    Mistake(ARM, 'velocity="2.5"', 'velocity="14000"', "velocity-unlikely", "speed limit"),
    Mistake(
        DAVIT,
        'multiplier="-1"',
        'multiplier="-2"',
        "follower-outside-limits",
        "beyond its lower limit",
    ),
    Mistake(
        CLAMP,
        'soft_upper_limit="0.034"',
        'soft_upper_limit="0.34"',
        "soft-limits-outside",
        "beyond the limit",
    ),
    # Left and right.
    Mistake(
        DOG,
        'child link="FR_calf"/>\n    <axis xyz="0 1 0"/>',
        'child link="FR_calf"/>\n    <axis xyz="0 -1 0"/>',
        "twins-unlike",
        "joint 'FR_calf_joint': its axis points the other way",
    ),
    Mistake(
        DOG,
        'child link="RL_hip"/>\n    <axis xyz="1 0 0"/>',
        'child link="RL_hip"/>\n    <axis xyz="-1 0 0"/>',
        "twins-unlike",
        "joint 'RL_hip_joint': its axis",
    ),
    Mistake(
        CART,
        'child link="rear_left_wheel"/>\n    <axis xyz="0 1 0"/>',
        'child link="rear_left_wheel"/>\n    <axis xyz="0 -1 0"/>',
        "twins-unlike",
        "'rear_left_axle'",
    ),
    Mistake(
        DOG,
        'child link="FL_thigh"/>\n    <axis xyz="0 1 0"/>\n    <limit lower="-0.6" upper="1.1"',
        'child link="FL_thigh"/>\n    <axis xyz="0 1 0"/>\n    <limit lower="-0.6" upper="0.6"',
        "twins-unlike",
        "joint 'FL_thigh_joint': it goes from",
    ),
    Mistake(DOG, '<mass value="1.1"/>', '<mass value="1.6"/>', "twins-unlike", "weighs 1.6 kg"),
    Mistake(
        DOG,
        '<origin xyz="0.25 -0.14 0"/>',
        '<origin xyz="0.25 -0.11 0"/>',
        "twins-unlike",
        "'FR_hip_joint'",
    ),
    Mistake(
        DOG,
        'child link="RR_calf"/>\n    <axis xyz="0 1 0"/>\n    <limit lower="-2.5" upper="-0.7" effort="35"',
        'child link="RR_calf"/>\n    <axis xyz="0 1 0"/>\n    <limit lower="-2.5" upper="-0.7" effort="53"',
        "twins-unlike",
        "effort limit is 53",
    ),
    Mistake(
        TWIN,
        '<limit lower="-2.2" upper="0.1"',
        '<limit lower="-0.1" upper="2.2"',
        "twins-unlike",
        "'r_shoulder_roll'",
    ),
    Mistake(TWIN, 'xyz="0 -0.28 0.5"', 'xyz="0 0.28 0.5"', "twins-unlike", "'r_shoulder_pitch'"),
    Mistake(CART, '<mass value="2.2"/>', '<mass value="2.6"/>', "twins-unlike", "weighs 2.6 kg"),
    # Overlaps and names.
    Mistake(ARM, 'xyz="0 0 0.12"', 'xyz="0 0 -0.3"', "overlap-neutral", "overlap by"),
    Mistake(DOG, 'lower="-0.6" upper="1.1"', 'lower="-2.6" upper="2.6"', "twins-unlike", ""),
    Mistake(
        ARM,
        "</robot>",
        '<link name="Tool0"/><joint name="spare" type="fixed"><parent link="tool0"/><child link="Tool0"/></joint></robot>',
        "names-alike",
        "differ only in case",
    ),
    Mistake(
        MAST,
        '<link name="lens_optical"/>',
        '<link name="lens_optical "/>',
        "missing-link",
        "did you mean 'lens_optical '",
    ),
]
REFUSED = [
    (ARM, 'length="0.5"', 'length="${reach}"', "macro file that has not been expanded"),
    (ARM, "</robot>", "", "not readable as XML"),
    (ARM, "<robot ", "<machine ", "not readable as XML"),
]
