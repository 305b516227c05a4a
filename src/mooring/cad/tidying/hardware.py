"""Finding what clamps or threads: screws, nuts, washers, rivets, with the reason for each."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from mooring.cad.part import Part
from mooring.cad.surfaces import FULL_ENOUGH, CylindricalFace, PlanarFace, coaxial
from mooring.units import show

_WORDS = (
    # English, German, French, Spanish, Italian
    "bolt|screw|nut|washer|rivet|circlip|stud|fastener|retaining_?ring|snap_?ring|grub_?screw|"
    "[a-z]*schraube|schrb|[a-z]*mutter|[a-z]*scheibe|niete?|blindniet|gewindestift|sicherungsring|"
    "sprengring|stiftschraube|federring|"
    "vis|boulon|ecrou|écrou|rondelle|goujon|circlips|"
    "tornillo|tuerca|arandela|remache|esparrago|espárrago|prisionero|"
    "vite|viti|bullone|dado|rondella|rosetta|rivetto|grano"
)
_STANDARDS = {
    "din": "84 85 93 94 95 96 97 124 125 126 127 128 134 137 186 188 261 261 315 316 404 417 427 "
    "432 433 434 436 438 439 440 444 462 463 464 465 466 467 470 471 472 478 479 480 508 529 551 "
    "553 555 557 558 561 562 564 571 580 582 601 603 604 605 606 607 608 609 610 653 660 661 662 "
    "674 787 797 835 906 908 910 912 913 914 915 916 917 920 921 922 923 924 925 926 927 928 929 "
    "931 933 934 935 936 937 938 939 940 960 961 963 964 965 966 967 968 970 971 972 975 976 979 "
    "980 981 982 985 986 988 1440 1441 1479 1587 1624 1804 1816 6330 6331 6334 6340 6791 6796 6797 "
    "6798 6799 6900 6901 6902 6903 6904 6905 6907 6908 6912 6914 6915 6916 6921 6922 6923 "
    "6924 6925 6926 6927 7337 7338 7339 7340 7349 7500 7504 7513 7516 7603 7604 7967 7968 7969 "
    "7971 7972 7973 7976 7977 7978 7979 7980 7981 7982 7983 7984 7985 7987 7988 7989 7990 7991 "
    "7993 7995 7996 7997 7999 9021 11024 22424 25201 34814 34815 34816",
    "iso": "1051 1207 1479 1481 1482 1483 1580 2009 2010 2342 4014 4016 4017 4018 4026 4027 4028 "
    "4029 4032 4033 4034 4035 4036 4161 4162 4762 4766 7040 7041 7042 7043 7044 7045 7046 7047 "
    "7048 7049 7050 7051 7089 7090 7091 7092 7093 7094 7379 7380 7434 7435 7436 8673 8674 8675 "
    "8676 8765 10509 10510 10511 10512 10513 10642 10644 10669 10670 10673 12125 12126 14579 14580 "
    "14581 14582 14583 14584 15071 15480 15481 15482 15483 21269 24017",
    "en": "1661 1662 1663 1664 1665 1666 1667 4014 4017 4762 14399",
    "gb_?/?t_?": "93 95 96 97 65 67 68 70 73 77 78 79 80 818 819 859 860 893 894 896 "
    "5780 5781 5782 5783 6170 6172 6175 6177 6182 6183 6184 6187 41 97.1 70.1 70.3 13681",
    "jis_?b_?": "1101 1111 1117 1127 1163 1176 1177 1180 1181 1189 1190 1251 1252 1256 2804 2805",
    "uni_?": "5587 5588 5589 5721 5737 5739 5740 5923 5927 5931 5933 6592 6593 7323 7473 7474",
    "nf_?e_?": "25-112 25-114 25-115 25-125 25-127 25-401 25-511 25-513 25-514 25-515",
}
_NO_HARDWARE = re.compile(
    r"lead_?_?screw|ball_?_?screw|screw_?(shaft|spindle|drive|pump|jack)|lead_?nut|ball_?nut|"
    r"[a-z]*(propeller|luft|schiffs|zug|antriebs|gewinde|förder)_?schraube|"
    r"(riemen|brems|kurven|seil|nocken|keilriemen|kupplungs|glas|lauf|umlenk|taumel|dreh|"
    r"front|wind|loch)_?scheibe|"
    r"(spindel|lauf|trapez|kugel)_?mutter|"
    r"vis_?(mere|mère|sans|à|a_billes)|tuerca_?husillo|vite_?(senza|a_ricircolo)|madrevite|"
    r"丝杠|滚珠丝|送りねじ|ボールねじ|台形ねじ|スクリュー",
    re.IGNORECASE,
)
"""Words that hold a word for hardware, and mean what turns or drives."""
_OTHER_SCRIPTS = (
    "螺钉|螺栓|螺丝|螺母|螺帽|垫圈|垫片|铆钉|螺柱|挡圈|卡簧|螺釘|螺栓|墊圈|鉚釘|"
    "ねじ|ネジ|ボルト|ナット|ワッシャ|座金|リベット|ビス|止め輪|スナップリング"
)
_NAME = re.compile(
    rf"(?<![a-z])(?P<word>{_WORDS})(?:s|en|n)?(?![a-z])"
    r"|socket_?head(?:_?cap)?|hex_?(?:bolt|nut|screw)|(?<![a-z0-9])m\d{1,2}(?:[.,]\d)? ?[x×*] ?\d"
    rf"|{_OTHER_SCRIPTS}"
    + "".join(
        rf"|(?<![a-z]){body}[ _-]?(?:iso[ _-]?)?"
        rf"(?:{'|'.join(re.escape(n) for n in numbers.split())})(?!\d)"
        for body, numbers in _STANDARDS.items()
    ),
    re.IGNORECASE,
)
_SMALL = 0.08
"""Share of the assembly's size below which a part is small."""
_NOT_LARGE = 0.5
"""The same where name, number and shape all speak for hardware."""
_THIN = 0.2
"""Of its diameter, the thickness below which a ring may be a washer."""
_REPEATED = 3
_LONGEST = 0.25
"""[m]; no bolt of a robot is longer."""


@dataclass(frozen=True, eq=False)
class Hardware:
    """A kind of part that looks like hardware.

    Attributes:
        name: of the product.
        parts: its copies.
        reasons: why it is taken for hardware, in words.
    """

    name: str
    parts: tuple[Part, ...]
    reasons: tuple[str, ...]


def find_hardware(kinds: Sequence[Sequence[Part]], size: float) -> list[Hardware]:
    """The kinds of parts that look like hardware.

    Hardware clamps or threads. That is seen by a name in the trade's languages, or by a drive that
    a tool takes hold of: a hexagon, a slot, a socket. A name alone is not enough, and neither is a
    drive: the part must also be shaped like a screw, nut or washer, be one of several copies, or be
    small, two of them in all, and all where it is not so small. Thin rings on screws are washers.
    A part without name and drive, as a bearing, a roller or a headed pin, is no hardware however
    many there are of it.

    Args:
        kinds: the parts grouped by shared geometry.
        size: of the whole assembly [m].
    """
    found = []
    for copies in kinds:
        part = copies[0]
        longest = float(part.size.max())
        if longest > min(_LONGEST, _NOT_LARGE * size):
            continue
        word = _named(part)
        shape = _shape_of(part)
        drive = _drive_of(part) if shape else None
        if word is None and drive is None:
            continue
        reasons = [f"its name says {word!r}"] if word else []
        if len(copies) >= _REPEATED:
            reasons.append(f"{len(copies)} copies")
        if shape:
            reasons.append(f"{shape}{f' with {drive}' if drive else ''}")
        if len(reasons) + bool(drive) >= (2 if longest <= _SMALL * size else 3):
            reasons.insert(0, f"small, {show(longest, 'length', 3)}")
            name = part.geometry.name or part.name
            found.append(Hardware(name, tuple(copies), tuple(reasons)))
    return [*found, *_washers(kinds, found)]


def _washers(kinds: Sequence[Sequence[Part]], known: Sequence[Hardware]) -> Iterator[Hardware]:
    """Thin nameless rings, all copies of which are on screws."""
    taken = {id(part) for kind in known for part in kind.parts}
    shanks = [s for kind in known for part in kind.parts if (s := shank_of(part)) is not None]
    for copies in kinds:
        part = copies[0]
        size = np.sort(part.size)
        thin = size[0] < _THIN * size[1]
        if id(part) in taken or not thin or _shape_of(part) != "shaped like a washer":
            continue
        if all(any(_is_on(ring, shank) for shank in shanks) for ring in copies):
            reasons = ("shaped like a washer", "every one is on a screw")
            yield Hardware(part.geometry.name or part.name, tuple(copies), reasons)


def _is_on(ring: Part, shank: CylindricalFace) -> bool:
    bore = shank_of(ring)
    return (
        bore is not None
        and coaxial(bore, shank, np.radians(1), 0.2 * shank.radius)
        and abs(float((bore.centre - shank.centre) @ shank.direction)) < shank.length / 2 + 1e-3
    )


def _named(part: Part) -> str | None:
    """The word of a part's name that stands for hardware."""
    for name in (part.geometry.name, part.name):
        if _NO_HARDWARE.search(name):
            return None
        match = _NAME.search(name)
        if match:
            return match[0]
    return None


def _shape_of(part: Part) -> str | None:
    """What a part looks like to someone who sorts hardware."""
    rounds = [c for c in part.geometry.cylinders if c.coverage >= FULL_ENOUGH]
    pins = [c for c in rounds if c.kind == "pin"]
    bores = [c for c in rounds if c.kind == "bore"]
    size = np.sort(part.size)
    across = float(size[1])
    if len(bores) == 1 and size[0] < 0.5 * across and float(size[2] - size[1]) < 0.4 * across:
        ring = any(coaxial(bores[0], pin) for pin in pins)
        return "shaped like a washer" if ring else "shaped like a nut"
    shanks = [pin for pin in pins if all(coaxial(pin, other) for other in pins)]
    if not shanks or any(not coaxial(shanks[0], bore) for bore in bores):
        return None
    shank = max(shanks, key=lambda pin: pin.length)
    if bores and max(bore.length for bore in bores) > 0.5 * float(size[2]):
        return None
    head = float(size[2]) - shank.length
    wider = float(size[1]) > 2.4 * shank.radius
    if wider and 0.3 * shank.radius < head < 6 * shank.radius:
        return "shaped like a screw"
    thicker = max((pin for pin in shanks), key=lambda pin: pin.radius)
    if thicker.radius > 1.3 * shank.radius and shank.length > thicker.length:
        return "shaped like a screw"
    return None


def _drive_of(part: Part) -> str | None:
    """What a tool takes hold of: six or four flat faces about the axis, or a slot."""
    rounds = [c for c in part.geometry.cylinders if c.coverage >= FULL_ENOUGH]
    if not rounds:
        return None
    axis = max(rounds, key=lambda c: c.length).direction
    faces = [f for f in part.geometry.surfaces if isinstance(f, PlanarFace)]
    sides = [f.normal for f in faces if abs(f.normal @ axis) < 0.01]
    ways: list[np.ndarray[tuple[int], np.dtype[np.float64]]] = []
    for side in sides:
        if not any(side @ way > 0.999 for way in ways):
            ways.append(side)
    if len(ways) == 6:
        return "a hexagon"
    if len(ways) == 4 and len(sides) >= 4:
        return "four flats"
    return "a slot" if len(ways) == 2 and len(sides) == 2 else None


def shank_of(part: Part) -> CylindricalFace | None:
    """The longest round face of a screw, or the hole of a nut or washer, in the assembly."""
    rounds = [c for c in part.cylinders if c.coverage >= FULL_ENOUGH]
    pins = [c for c in rounds if c.kind == "pin"]
    return max(pins or rounds, key=lambda c: (c.length, -c.radius), default=None)
