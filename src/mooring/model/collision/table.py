"""How well fitted collision shapes fit, as a table."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    import pandas as pd

    from mooring.model.link import Link


def collision_table(links: Mapping[str, Link]) -> pd.DataFrame:
    """A row for each rule of each link; see `Robot.collision_table`."""
    import pandas as pd

    rows = [
        {
            "link": name,
            "rule": found.rule,
            "shapes": len(found.shapes),
            "excess": found.judgement.excess,
            "overhang": found.judgement.overhang,
        }
        for name, link in links.items()
        for found in link.collision_fits
    ]
    columns = ["link", "rule", "shapes", "excess", "overhang"]
    return pd.DataFrame(rows, columns=columns)
