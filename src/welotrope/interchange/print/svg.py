"""A sheet as SVG in real millimetres; several pages stand under each other."""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from html import escape

import numpy as np

from welotrope.core.testshot.sheets import Block
from welotrope.interchange.print.drawing import Bitmap, Box, Infinity, Item, Line, Page, PlacedImage, Text
from welotrope.interchange.print.pdf import text_width

_LONG = 4  # signs; what is shorter overlaps nothing

_HEAD = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="{w}mm" height="{h}mm" viewBox="0 0 {w} {h}" '
    'font-family="Helvetica, Arial, sans-serif" fill="none" stroke="#000" stroke-linecap="butt">'
    "<title>{title}</title>"
)


def write_svg(pages: Sequence[Page], title: str) -> str:
    """Return the pages as one SVG document at true size."""
    width, height = pages[0].width, sum(page.height for page in pages)
    parts = [_HEAD.format(w=_n(width), h=_n(height), title=escape(title))]
    parts.append(f'<rect width="{_n(width)}" height="{_n(height)}" fill="#fff" stroke="none"/>')
    top = 0.0
    for page in pages:
        parts.append(f'<g transform="translate(0 {_n(top)})">')
        parts += [_item(item) for item in page.items]
        parts.append("</g>")
        top += page.height
    return "".join([*parts, "</svg>"])


def _item(item: Item) -> str:
    if isinstance(item, Line):
        ends = f'x1="{_n(item.x1)}" y1="{_n(item.y1)}" x2="{_n(item.x2)}" y2="{_n(item.y2)}"'
        return f'<line {ends} stroke-width="{_n(item.width)}"{_dash(item.dashed)}/>'
    if isinstance(item, Box):
        box = f'x="{_n(item.x)}" y="{_n(item.y)}" width="{_n(item.width)}" height="{_n(item.height)}"'
        return f'<rect {box} stroke-width="{_n(item.line)}"{_dash(item.dashed)}/>'
    if isinstance(item, PlacedImage):
        held = base64.b64encode(item.data).decode()
        box = f'x="{_n(item.x)}" y="{_n(item.y)}" width="{_n(item.width)}" height="{_n(item.height)}"'
        return f'<image {box} href="data:image/jpeg;base64,{held}"/>'
    if isinstance(item, Infinity):
        curves = item.curves()
        path = f"M{_n(curves[0][0])} {_n(curves[0][1])}" + "".join(
            "C" + " ".join(_n(value) for value in curve[2:]) for curve in curves
        )
        return f'<path d="{path}" stroke-width="{_n(item.width / 13)}"/>'
    if isinstance(item, Block):
        box = f'x="{_n(item.x)}" y="{_n(item.y)}" width="{_n(item.width)}" height="{_n(item.height)}"'
        return f'<rect {box} fill="{"#000" if item.ink else "#fff"}" stroke="none"/>'
    if isinstance(item, Bitmap):
        return _bitmap(item)
    weight = ' font-weight="bold"' if item.bold else ""
    place = f'x="{_n(item.x)}" y="{_n(item.y)}" font-size="{_n(item.size)}" text-anchor="{item.anchor}"{weight}'
    return f'<text {place}{_as_wide(item)} fill="#000" stroke="none">{escape(item.text)}</text>'


def _bitmap(item: Bitmap) -> str:
    """Place cells as a picture that is shown with hard edges."""
    from PIL import Image

    rows, columns = item.cells.shape
    stream = io.BytesIO()
    Image.fromarray(item.cells * np.uint8(255)).convert("1").save(stream, "PNG")
    box = f'x="{_n(item.x)}" y="{_n(item.y)}" width="{_n(columns * item.cell)}" height="{_n(rows * item.cell)}"'
    held = base64.b64encode(stream.getvalue()).decode()
    return f'<image {box} preserveAspectRatio="none" image-rendering="pixelated" href="data:image/png;base64,{held}"/>'


def _as_wide(item: Text) -> str:
    """Hold a longer text to the width it has on paper, whatever type a browser shows it in."""
    if len(item.text) < _LONG:
        return ""
    return f' textLength="{_n(text_width(item.text, item.size, bold=item.bold))}" lengthAdjust="spacingAndGlyphs"'


def _dash(dashed: bool) -> str:
    return ' stroke-dasharray="1 1"' if dashed else ""


def _n(value: float) -> str:
    """Write a length to a hundred-thousandth of a millimetre, so that no window feels the rounding."""
    text = f"{value:.5f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
