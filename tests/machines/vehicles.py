"""Wheels and propellers."""

from __future__ import annotations

import math

from tests.machines.kit import Machine, box, cut, fuse, prism, rod, tube


def rover() -> Machine:
    """Four equal wheels with tyres, each on a stub axle between a shoulder and a washer."""
    m = Machine("rover")
    stubs = [(x, s) for x in (-120, 120) for s in (-1, 1)]
    body = box((-180, 180), (-80, 80), (0, 60))
    axles = []
    for x, s in stubs:
        y = sorted((s * 80, s * 130))
        axles += [
            rod("y", (y[0], y[1]), 12, (x, 0, 20)),
            rod("y", tuple(sorted((s * 80, s * 90))), 20, (x, 0, 20)),
        ]  # type: ignore[arg-type]
    m.part("body", "chassis", fuse(body, *axles))
    for k, (x, s) in enumerate(stubs):
        y = tuple(sorted((s * 90, s * 122)))
        m.part(f"wheel_{k}", f"rim_{k}", tube("y", y, 70, 12.1), (x, 0, 20))  # type: ignore[arg-type]
        m.part(
            f"wheel_{k}", f"tyre_{k}", tube("y", y, 100, 70), (x, 0, 20), made_of=("rubber", 1150.0)
        )  # type: ignore[arg-type]
        y = tuple(sorted((s * 122, s * 124)))
        m.part(f"body|wheel_{k}", f"circlip_{k}", tube("y", y, 18, 12), (x, 0, 20))  # type: ignore[arg-type]
        m.joint("turn", (x, 0, 20), "y", "body", f"wheel_{k}")
    return m


def caster_cart() -> Machine:
    """A plate on four casters: a kingpin with a head, a fork, a wheel on a bolt with a nut."""
    m = Machine("caster_cart")
    spots = [(x, y) for x in (-200, 200) for y in (-120, 120)]
    m.part(
        "deck",
        "deck",
        cut(
            box((-260, 260), (-180, 180), (130, 142)),
            *(rod("z", (129, 143), 12.2, (x, y, 0)) for x, y in spots),
        ),
    )
    fork = fuse(
        box((-25, 60), (-26, 26), (122, 130)),
        box((20, 60), (-26, -18), (40, 122)),
        box((20, 60), (18, 26), (40, 122)),
    )
    fork = cut(fork, rod("z", (121, 131), 12, (0, 0, 0)), rod("y", (-27, 27), 10, (40, 0, 50)))
    king = fuse(rod("z", (122, 142), 12), rod("z", (142, 148), 22))
    for k, (x, y) in enumerate(spots):
        m.part(f"fork_{k}", f"fork_{k}", fork, (x, y, 0))
        m.part(f"deck|fork_{k}", f"kingpin_{k}", king, (x, y, 0))
        m.part(f"wheel_{k}", f"wheel_{k}", tube("y", (-17.9, 17.9), 90, 10.2), (x + 40, y, 50))
        m.part(f"fork_{k}|wheel_{k}", f"axle_{k}", rod("y", (-28, 28), 10), (x + 40, y, 50))
        m.joint("turn", (x, y, 0), "z", "deck", f"fork_{k}").joint(
            "turn", (x + 40, y, 50), "y", f"fork_{k}", f"wheel_{k}"
        )
    return m


def quadcopter() -> Machine:
    """Two-bladed propellers on motors whose bells turn about a shaft; motors are screwed on."""
    m = Machine("quadcopter")
    arms = [(140, 140), (-140, 140), (-140, -140), (140, -140)]
    beams = []
    for x, y in arms:
        n = math.hypot(x, y)
        u, v = x / n, y / n
        beams.append(
            prism(
                [
                    (-8 * v, 8 * u, 0),
                    (x - 8 * v, y + 8 * u, 0),
                    (x + 8 * v, y - 8 * u, 0),
                    (8 * v, -8 * u, 0),
                ],
                (0, 0, 12),
            )
        )
        beams.append(rod("z", (0, 12), 40, (x, y, 0)))
    holes = [
        rod("z", (-1, 13), 3, (x + a, y + b, 0)) for x, y in arms for a, b in ((-9, 0), (9, 0))
    ]
    m.part("frame", "frame", cut(fuse(box((-60, 60), (-60, 60), (0, 12)), *beams), *holes))
    stator = cut(
        fuse(rod("z", (12, 16), 28), rod("z", (16, 30), 16)),
        rod("z", (11, 31), 4),
        *(rod("z", (11, 17), 3, (a, 0, 0)) for a in (-9, 9)),
    )
    bell = fuse(tube("z", (17, 34), 28, 24), rod("z", (31, 34), 28), rod("z", (12, 48), 4))
    blade = cut(
        fuse(rod("z", (34, 42), 18), box((-110, 110), (-9, 9), (36, 39))), rod("z", (33, 43), 4)
    )
    for k, (x, y) in enumerate(arms):
        m.part("frame", f"stator_{k}", stator, (x, y, 0))
        m.part(
            "frame",
            f"螺钉_M3_{k}",
            fuse(rod("z", (-2, 16), 3), rod("z", (-4, -2), 5.5)),
            (x - 9, y, 2),
            (x + 9, y, 2),
        )
        m.part(f"frame|prop_{k}", f"bell_{k}", bell, (x, y, 0))
        m.part(f"prop_{k}", f"propeller_{k}", blade, (x, y, 0))
        m.joint("turn", (x, y, 0), "z", "frame", f"prop_{k}")
    return m


def bogie() -> Machine:
    """Rockers on a body by ball bearings, wheels on rockers by headed pins."""
    m = Machine("bogie")
    m.part(
        "body",
        "rumpf",
        fuse(box((-100, 100), (-60, 60), (100, 160)), rod("y", (-110, 110), 17, (0, 0, 120))),
    )
    for k, s in enumerate((-1, 1)):
        y = tuple(sorted((s * 75, s * 95)))
        beam = fuse(box((-160, 160), y, (105, 135)), box((-30, 30), y, (92, 148)))  # type: ignore[arg-type]
        beam = cut(
            beam,
            rod("y", (-200, 200), 40, (0, 0, 120)),
            *(rod("y", (-200, 200), 10, (x, 0, 120)) for x in (-140, 140)),
        )
        m.part(f"rocker_{k}", f"wippe_{k}", beam)
        m.part(
            f"body|rocker_{k}",
            f"lager_6203_{k}",
            tube("y", tuple(sorted((s * 79, s * 91))), 40, 17),
            (0, 0, 120),
        )  # type: ignore[arg-type]
        m.joint("turn", (0, 0, 120), "y", "body", f"rocker_{k}")
        for j, x in enumerate((-140, 140)):
            span = tuple(sorted((s * 96, s * 126)))
            m.part(f"wheel_{k}{j}", f"rad_{k}{j}", tube("y", span, 110, 10.3), (x, 0, 120))  # type: ignore[arg-type]
            pin = fuse(
                rod("y", tuple(sorted((s * 75, s * 127))), 10),
                rod("y", tuple(sorted((s * 127, s * 131))), 18),
            )  # type: ignore[arg-type]
            m.part(f"rocker_{k}|wheel_{k}{j}", f"bolzen_{k}{j}", pin, (x, 0, 120))
            m.joint("turn", (x, 0, 120), "y", f"rocker_{k}", f"wheel_{k}{j}")
    return m


def inspector() -> Machine:
    """A two-wheeled inspector: wheels pressed on the motors' shafts."""
    m = Machine("inspector")
    m.part(
        "body",
        "housing",
        cut(box((-50, 50), (-60, 60), (40, 200)), rod("y", (-61, 61), 30, (0, 0, 60))),
    )
    for k, s in enumerate((-1, 1)):
        case = tuple(sorted((s * 10, s * 60)))
        m.part(
            "body",
            f"motor_{k}",
            cut(rod("y", case, 30), rod("y", tuple(sorted((s * 30, s * 61))), 6)),
            (0, 0, 60),
        )  # type: ignore[arg-type]
        m.part(f"wheel_{k}", f"shaft_{k}", rod("y", tuple(sorted((s * 30, s * 90))), 6), (0, 0, 60))  # type: ignore[arg-type]
        m.part(
            f"wheel_{k}",
            f"wheel_{k}",
            tube("y", tuple(sorted((s * 66, s * 90))), 120, 5.98),
            (0, 0, 60),
        )  # type: ignore[arg-type]
        m.joint("turn", (0, 0, 60), "y", "body", f"wheel_{k}")
    return m


MACHINES = (rover, caster_cart, quadcopter, bogie, inspector)
