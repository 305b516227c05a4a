"""What the demo machines are made of: materials, colors, and the bolts that hold them."""

from __future__ import annotations

from OCP.TopoDS import TopoDS_Shape

from mooring.demo.modelling import hex_bolt, washer, washer_thickness
from mooring.demo.step_writer import Group, Product

HULL_BLUE, SIGNAL_ORANGE, DECK_GREY = "#3f6f8f", "#d9822b", "#7d8790"
BRIGHT_STEEL, BRONZE, RUBBER, ZINC = "#c4c8cc", "#a9803f", "#2e3236", "#9aa3a8"
BARE_ALUMINIUM, ROPE = "#b9c0c4", "#d8c9a3"


def steel(name: str, solid: TopoDS_Shape, color: str = HULL_BLUE) -> Product:
    return Product(name, solid, color, "structural steel", 7850)


def bronze(name: str, solid: TopoDS_Shape) -> Product:
    return Product(name, solid, BRONZE, "bronze", 8800)


def rubber(name: str, solid: TopoDS_Shape) -> Product:
    return Product(name, solid, RUBBER, "rubber", 1150)


def aluminium(name: str, solid: TopoDS_Shape, color: str = BARE_ALUMINIUM) -> Product:
    return Product(name, solid, color, "aluminium", 2700)


class Fasteners:
    """The bolts and washers of the machine, each size made once."""

    def __init__(self) -> None:
        self.bolts: dict[tuple[float, float], Product] = {}
        self.washers: dict[float, Product] = {}

    def bolt(self, thread: float, length: float) -> Product:
        key = (thread, length)
        if key not in self.bolts:
            name = f"hex_bolt_m{thread:g}x{length:g}"
            self.bolts[key] = steel(name, hex_bolt(thread, length), ZINC)
        return self.bolts[key]

    def washer(self, thread: float) -> Product:
        if thread not in self.washers:
            self.washers[thread] = steel(f"washer_m{thread:g}", washer(thread), ZINC)
        return self.washers[thread]

    def fasten(
        self,
        group: Group,
        where: str,
        points: list[tuple[float, float, float]],
        thread: float,
        length: float,
        *,
        washers: bool = False,
        turn: tuple[str, float] | None = None,
    ) -> None:
        """Put a numbered bolt, and its washer if wanted, at every point."""
        for number, point in enumerate(points, start=1):
            seat = point
            if washers:
                group.place(self.washer(thread), point, name=f"{where}_washer_{number:02d}")
                seat = (point[0], point[1], point[2] + washer_thickness(thread))
            group.place(self.bolt(thread, length), seat, turn, f"{where}_bolt_{number:02d}")
