"""The sheet that reports are written on: headings, tables, pictures."""

from __future__ import annotations

import base64
import datetime
import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from html import escape
from pathlib import Path
from typing import TYPE_CHECKING

from PIL import Image

from mooring.errors import ModelError
from mooring.files import write_text
from mooring.version import VERSION

if TYPE_CHECKING:
    from matplotlib.figure import Figure

_STYLE = """\
@page { size: A4; margin: 14mm 13mm 16mm; }
body { font: 10.5pt/1.4 "Source Sans 3", "Segoe UI", "DejaVu Sans", sans-serif; color: #1f2a33;
  max-width: 184mm; margin: 10mm auto; padding: 0 4mm; }
h1 { font-size: 20pt; margin: 0 0 1mm; }
h2 { font-size: 13pt; margin: 8mm 0 2mm; border-bottom: 0.5mm solid #2f6db3; padding-bottom: 0.6mm;
  break-after: avoid; }
p { margin: 1.5mm 0; }
.lead { color: #5d6b75; margin-bottom: 4mm; }
table { border-collapse: collapse; width: 100%; font-size: 8.2pt; }
thead { display: table-header-group; }
th { text-align: left; border-bottom: 0.3mm solid #1f2a33; padding: 0.8mm 1.5mm 0.8mm 0; }
td { border-bottom: 0.2mm solid #d6dde1; padding: 0.8mm 1.5mm 0.8mm 0; vertical-align: top; }
tr { break-inside: avoid; }
.number { text-align: right; padding-right: 4mm; font-variant-numeric: tabular-nums;
  white-space: nowrap; }
img, svg { max-width: 100%; height: auto; }
figure { margin: 2mm 0; break-inside: avoid; }
figcaption { font-size: 8.8pt; color: #5d6b75; }
.pair { display: grid; grid-template-columns: 1fr 1fr; gap: 3mm; }
.finding { border-left: 1mm solid #d6dde1; padding: 0.5mm 0 0.5mm 3mm; margin: 2mm 0;
  break-inside: avoid; }
.error { border-color: #b3261e; } .warning { border-color: #b8651b; }
.good { border-color: #237a4b; }
.tree, .tree ul { list-style: none; margin: 0; padding: 0; font-size: 9pt; }
.tree ul { margin-left: 2mm; padding-left: 4mm; border-left: 0.3mm solid #8d9aa3; }
.tree li { margin: 0.6mm 0; break-inside: avoid-page; }
.tree ul > li::before { content: ""; display: inline-block; width: 3.2mm; margin-left: -4mm;
  margin-right: 0.8mm; border-top: 0.3mm solid #8d9aa3; vertical-align: middle; }
.remedy { color: #5d6b75; }
footer { margin-top: 8mm; font-size: 8.5pt; color: #5d6b75; }
"""
_CELL = """\
.mooring-cell { max-width: 960px; font-size: 13px; line-height: 1.4; }
.mooring-cell h1 { font-size: 16px; margin: 0 0 2px; }
.mooring-cell h2 { font-size: 14px; margin: 12px 0 4px; }
.mooring-cell p { margin: 2px 0 6px; }
.mooring-cell table { border-collapse: collapse; font-size: 12px; margin: 4px 0; }
.mooring-cell th, .mooring-cell td { text-align: left; padding: 2px 14px 2px 0;
  border-bottom: 1px solid #8d9aa355; background: none; vertical-align: top; }
.mooring-cell .number { text-align: right; font-variant-numeric: tabular-nums; }
.mooring-cell img, .mooring-cell svg { max-width: 100%; height: auto; }
.mooring-cell figure { margin: 4px 0; }
.mooring-cell figcaption, .mooring-cell .lead, .mooring-cell .remedy { opacity: 0.75; }
.mooring-cell .finding { border-left: 4px solid #8d9aa3; padding: 1px 0 1px 10px; margin: 6px 0; }
.mooring-cell .error { border-color: #b3261e; } .mooring-cell .warning { border-color: #b8651b; }
.mooring-cell .good { border-color: #237a4b; }
"""
"""Of a fragment: nothing outside it is touched, and colors are the page's own."""


@dataclass(frozen=True)
class Branch:
    """A link in a tree that is drawn.

    Attributes:
        link, mass: its name, and its mass in words.
        joint: how it hangs on the link above, in words; empty for the root.
        below: what hangs on it.
    """

    link: str
    mass: str
    joint: str
    below: tuple[Branch, ...]


class Sheet:
    """An HTML document as it grows; it needs no other file."""

    def __init__(self, title: str, lead: str) -> None:
        self.title = title
        self._body = [f"<h1>{escape(title)}</h1>", f'<p class="lead">{escape(lead)}</p>']

    def heading(self, text: str) -> None:
        self._body.append(f"<h2>{escape(text)}</h2>")

    def words(self, text: str) -> None:
        self._body.append(f"<p>{escape(text)}</p>")

    def table(self, columns: Sequence[str], rows: Iterable[Sequence[str]], right: str = "") -> None:
        """A table; `right` has an `r` at the place of each column of numbers."""
        kinds = [' class="number"' if mark == "r" else "" for mark in right.ljust(len(columns))]
        head = "".join(f"<th{k}>{escape(c)}</th>" for k, c in zip(kinds, columns, strict=True))
        lines = [
            "<tr>" + "".join(f"<td{k}>{escape(c)}</td>" for k, c in zip(kinds, row, strict=True))
            + "</tr>"
            for row in rows
        ]  # fmt: skip
        self._body.append(
            f"<table><thead><tr>{head}</tr></thead><tbody>{''.join(lines)}</tbody></table>"
        )

    def pictures(self, shown: Sequence[tuple[Image.Image, str]]) -> None:
        """Pictures with their captions: one over the whole width, or two beside each other."""
        figures = "".join(_figure(_png(image), text) for image, text in shown)
        self._body.append(figures if len(shown) == 1 else f'<div class="pair">{figures}</div>')

    def plot(self, figure: Figure, text: str) -> None:
        stream = io.BytesIO()
        figure.savefig(stream, format="png")
        self._body.append(_figure(stream.getvalue(), text))

    def tree(self, root: Branch) -> None:
        """A kinematic tree: every link under the one it hangs on, a line for each joint."""
        self._body.append(f'<ul class="tree">{_grown(root)}</ul>')

    def finding(self, kind: str, title: str, message: str, remedy: str) -> None:
        """What is wrong, or might be; `kind` is error, warning, note or good."""
        self._body.append(
            f'<div class="finding {escape(kind)}"><b>{escape(title)}</b> {escape(message)}'
            f'<div class="remedy">{escape(remedy)}</div></div>'
        )

    def fragment(self) -> str:
        """What was put on it, to stand in a page of somebody else's."""
        return f'<div class="mooring-cell"><style>{_CELL}</style>{"".join(self._body)}</div>'

    def save(self, file: Path) -> None:
        """Write the sheet, whole or not at all.

        Raises:
            ModelError: the suffix is not .html.
        """
        if file.suffix.lower() not in (".html", ".htm"):
            raise ModelError(f"{file}: a report is written as .html; browsers print it to PDF")
        today = datetime.date.today().isoformat()
        footer = f"<footer>Made with Mooring {VERSION} on {today}.</footer>"
        head = f'<meta charset="utf-8"><title>{escape(self.title)}</title><style>{_STYLE}</style>'
        body = "\n".join([*self._body, footer])
        write_text(
            file,
            f'<!doctype html>\n<html lang="en"><head>{head}</head><body>\n{body}\n</body></html>\n',
        )


def _grown(branch: Branch) -> str:
    below = "".join(_grown(other) for other in branch.below)
    joint = f'<span class="remedy">{escape(branch.joint)}</span> ' if branch.joint else ""
    inner = f"<ul>{below}</ul>" if below else ""
    return f"<li>{joint}<strong>{escape(branch.link)}</strong> {escape(branch.mass)}{inner}</li>"


def _figure(png: bytes, text: str) -> str:
    data = base64.b64encode(png).decode("ascii")
    caption = f"<figcaption>{escape(text)}</figcaption>" if text else ""
    return (
        f'<figure><img alt="{escape(text)}" src="data:image/png;base64,{data}">{caption}</figure>'
    )


def _png(image: Image.Image) -> bytes:
    stream = io.BytesIO()
    image.save(stream, "PNG")
    return stream.getvalue()
