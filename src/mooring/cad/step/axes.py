"""Named axis placements of a STEP file: coordinate systems that a designer put into a part."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

import numpy as np
from OCP.STEPConstruct import STEPConstruct_UnitContext

from mooring.geometry import Array, placement

_SHORTEST = 1e-9
# What exporters write for the placements that nobody named.
_MEANINGLESS = re.compile(r"\s*|#\d+|none|null|placement|axis2_placement_3d", re.IGNORECASE)


def named_placements(model: Any, millimetre: float) -> dict[str, list[tuple[str, Array]]]:
    """The named axis placements in the representations of each product.

    They stand among the items of a product's representation, or in a representation related to it
    that holds nothing else (ISO 10303-42, axis2_placement_3d; "supplemental geometry").

    Args:
        model: Open CASCADE's model of the file's entities.
        millimetre: in metres.

    Returns:
        By product name: names, and placements (4, 4) [m] in the product's coordinates.
    """
    owners: dict[Any, str] = {}
    related: defaultdict[Any, list[Any]] = defaultdict(list)
    for number in range(1, model.NbEntities() + 1):
        entity = model.Value(number)
        kind = type(entity).__name__
        if kind == "StepShape_ShapeDefinitionRepresentation":
            product = _product_of(entity)
            if product and entity.UsedRepresentation() is not None:
                owners[entity.UsedRepresentation()] = product
        elif kind in _RELATIONS:
            one, other = entity.Rep1(), entity.Rep2()
            if one is not None and other is not None:
                related[one].append(other)
                related[other].append(one)
    found: defaultdict[str, list[tuple[str, Array]]] = defaultdict(list)
    for own, product in owners.items():
        beside = [other for other in related[own] if other not in owners]
        seen: set[Any] = set()
        for representation in (own, *beside):
            unit = _length_unit(representation) * millimetre
            for item in _placements(representation):
                if item not in seen:
                    seen.add(item)
                    place = _matrix(item, unit)
                    if place is not None:
                        found[product].append((item.Name().ToCString().strip(), place))
    return dict(found)


_RELATIONS = {
    "StepRepr_ShapeRepresentationRelationship",
    "StepRepr_RepresentationRelationship",
    "StepRepr_ConstructiveGeometryRepresentationRelationship",
}


def _product_of(definition: Any) -> str:
    """The name of the product a representation belongs to; empty where a damaged file has none."""
    try:
        characterised = definition.Definition().PropertyDefinition().Definition().Value()
        product = characterised.Formation().OfProduct()
        return str(product.Name().ToCString()) or str(product.Id().ToCString())
    except (AttributeError, TypeError):
        return ""


def _placements(representation: Any) -> Iterator[Any]:
    for number in range(1, representation.NbItems() + 1):
        item = representation.ItemsValue(number)
        if type(item).__name__ == "StepGeom_Axis2Placement3d" and item.Name() is not None:
            # Every representation has a nameless one: its own origin.
            name = str(item.Name().ToCString()).strip()
            if not _MEANINGLESS.fullmatch(name):
                yield item


def _length_unit(representation: Any) -> float:
    """The file's unit of length in millimetres."""
    context = getattr(representation.ContextOfItems(), "GlobalUnitAssignedContext", None)
    units = STEPConstruct_UnitContext()
    if context is None or context() is None:
        return 1.0
    units.ComputeFactors(context())
    return float(units.LengthFactor()) if units.LengthDone() else 1.0


def _matrix(item: Any, scale: float) -> Array | None:
    """None where a damaged file gives no usable axes."""
    location = item.Location()
    if location is None or location.NbCoordinates() < 3:
        return None
    origin = np.array([location.CoordinatesValue(k) for k in (1, 2, 3)]) * scale
    z = _direction(item.Axis() if item.HasAxis() else None, (0, 0, 1))
    x = _direction(item.RefDirection() if item.HasRefDirection() else None, (1, 0, 0))
    x = x - z * (x @ z)
    if np.linalg.norm(x) < _SHORTEST and not item.HasRefDirection():
        x = np.array([0.0, 1.0, 0.0])
    if not np.isfinite([*origin, *x, *z]).all() or np.linalg.norm(x) < _SHORTEST:
        return None
    x /= np.linalg.norm(x)
    return placement(origin, np.column_stack([x, np.cross(z, x), z]))


def _direction(direction: Any, usual: tuple[float, float, float]) -> Array:
    if direction is None or direction.NbDirectionRatios() < 3:
        return np.array(usual, dtype=float)
    vector = np.array([direction.DirectionRatiosValue(k) for k in (1, 2, 3)])
    length = float(np.linalg.norm(vector))
    return vector / length if length > _SHORTEST else np.array(usual, dtype=float)
