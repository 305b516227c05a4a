"""Allowances: links that may overlap."""

from __future__ import annotations

from typing import Annotated

from mooring.model.definition.markers import Ref

OverlappingLinkName = Annotated[str, Ref(("link",))]
Pair = tuple[OverlappingLinkName, OverlappingLinkName]
"""Two links, in alphabetical order."""
Because = str
"""Why two links may overlap."""
