"""Documents proposed from CAD: the first, and its second pass when the CAD has changed."""

from mooring.formats.document.drafting.redraft import redraft
from mooring.formats.document.drafting.remembered import remember
from mooring.formats.document.drafting.text import draft_text

__all__ = ["draft_text", "redraft", "remember"]
