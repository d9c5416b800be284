"""A sheet as PDF in real millimetres."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from welotrope.core.testshot.sheets import Block
from welotrope.interchange.print.drawing import Bitmap, Box, Infinity, Item, Line, Page, PlacedImage, Text

if TYPE_CHECKING:
    from reportlab.pdfgen.canvas import Canvas

_POINTS_PER_MM = 72 / 25.4
# The type every PDF reader has knows these only so.
_PLAIN = {
    "′": "'", "″": '"', "→": "to", "−": "-", "⅓": " 1/3", "⅔": " 2/3", "⅛": " 1/8", "⅜": " 3/8", "⅝": " 5/8",
    "⅞": " 7/8", "✓": "x", "\u00a0": " ",
}  # fmt: skip
_INFINITY = "\N{INFINITY}"  # in the type of symbols every PDF reader has


def write_pdf(pages: Sequence[Page], title: str) -> bytes:
    """Return the pages as a PDF document at true size; the same pages always give the same bytes."""
    from reportlab.pdfgen.canvas import Canvas  # slow to import; needed for a download only

    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=(_points(pages[0].width), _points(pages[0].height)), invariant=1)
    canvas.setTitle(title)
    canvas.setViewerPreference("PrintScaling", "None")
    for page in pages:
        canvas.setPageSize((_points(page.width), _points(page.height)))
        for item in page.items:
            _draw(canvas, item, page.height)
        canvas.showPage()
    canvas.save()
    return stream.getvalue()


def _draw(canvas: Canvas, item: Item, height: float) -> None:
    def up(y: float) -> float:
        return _points(height - y)

    if isinstance(item, Text):
        _write(canvas, item, up(item.y))
        return
    if isinstance(item, PlacedImage):
        from reportlab.lib.utils import ImageReader

        box = _points(item.x), up(item.y + item.height), _points(item.width), _points(item.height)
        canvas.drawImage(ImageReader(io.BytesIO(item.data)), *box, preserveAspectRatio=True, anchor="c")
        return
    if isinstance(item, Block):
        canvas.setFillGray(0 if item.ink else 1)
        canvas.rect(
            _points(item.x), up(item.y + item.height), _points(item.width), _points(item.height), stroke=0, fill=1
        )
        canvas.setFillGray(0)
        return
    if isinstance(item, Bitmap):
        _print_cells(canvas, item, up(item.y + item.cell * item.cells.shape[0]))
        return
    width = item.width / 13 if isinstance(item, Infinity) else item.line if isinstance(item, Box) else item.width
    canvas.setLineWidth(_points(width))
    if isinstance(item, Infinity):
        path = canvas.beginPath()
        curves = item.curves()
        path.moveTo(_points(curves[0][0]), up(curves[0][1]))
        for _, _, x1, y1, x2, y2, x3, y3 in curves:
            path.curveTo(_points(x1), up(y1), _points(x2), up(y2), _points(x3), up(y3))
        canvas.drawPath(path)
        return
    canvas.setDash(*((_points(1), _points(1)) if item.dashed else ()))
    if isinstance(item, Line):
        canvas.line(_points(item.x1), up(item.y1), _points(item.x2), up(item.y2))
    else:
        canvas.rect(_points(item.x), up(item.y + item.height), _points(item.width), _points(item.height))
    canvas.setDash()


def _print_cells(canvas: Canvas, item: Bitmap, bottom: float) -> None:
    """Place cells as an image of one bit each, which no program smooths."""
    from PIL import Image
    from reportlab.lib.utils import ImageReader

    rows, columns = item.cells.shape
    image = Image.fromarray(item.cells * np.uint8(255)).convert("1")
    canvas.drawImage(
        ImageReader(image), _points(item.x), bottom, _points(columns * item.cell), _points(rows * item.cell)
    )


def _write(canvas: Canvas, item: Text, y: float) -> None:
    """Write a text on its baseline, infinity in the type of symbols."""
    x = _points(item.x) - _points(text_width(item.text, item.size, bold=item.bold)) * _BEFORE[item.anchor]
    for part, font in _parts(item.text, item.bold):
        canvas.setFont(font, _points(item.size))
        canvas.drawString(x, y, part)
        x += canvas.stringWidth(part, font, _points(item.size))


_BEFORE = {"start": 0.0, "middle": 0.5, "end": 1.0}


def _parts(text: str, bold: bool) -> list[tuple[str, str]]:
    """Part a text into runs of one type."""
    font = "Helvetica-Bold" if bold else "Helvetica"
    pieces = re.split(f"({_INFINITY})", text)
    return [(piece, "Symbol") if piece == _INFINITY else (plain(piece), font) for piece in pieces if piece]


def text_width(text: str, size: float, *, bold: bool = False) -> float:
    """Return how wide a text is, in the unit of its ``size``."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    return float(sum(stringWidth(part, font, size) for part, font in _parts(text, bold)))


def _points(mm: float) -> float:
    return mm * _POINTS_PER_MM


def plain(text: str) -> str:
    """Return a text in the signs the type of every PDF reader has."""
    for sign, plain in _PLAIN.items():
        text = text.replace(sign, plain)
    return text.encode("cp1252", "replace").decode("cp1252")
