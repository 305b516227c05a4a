"""Machines made to be drafted: of many kinds, each with its true links and joints."""

from tests.machines import bearings, hands, linkages, slides, strangers, vehicles
from tests.machines.kit import Machine

ROOMS = (linkages, slides, bearings, vehicles, hands, strangers)


def all_machines() -> list[Machine]:
    """Every machine, made anew: each function of these files that takes nothing and is listed."""
    return [make() for room in ROOMS for make in room.MACHINES]
