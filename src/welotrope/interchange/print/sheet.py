"""Strips, collars and cards laid out on paper, with crop marks and a bar to check the printer's scale by."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from welotrope.core.ring.strip import MarkKind, StripMark, Wrap
from welotrope.interchange.print.drawing import Box, Infinity, Item, Line, Page, Paper, Text

MARGIN_MM = 12.0
TAB_MM = 8.0
STRIP_MM = 13.0
CROP_MM = 3.0
CHECK_BAR_MM = 50.0
CHECK_WORDS = "This bar is 50 mm. If it is not, print again at 100 %, without fitting to the page."
CARD_WIDTH_MM, CARD_HEIGHT_MM = 85.6, 53.98
_EDGE_MM = 4.0
_ROW_MM = 27.0


@dataclass(frozen=True)
class Strip:
    """A strip to cut out: its marks, the ring it goes round, and what is written over it.

    ``whole_turn`` closes it into a collar; otherwise it covers its marks. ``foot`` is said under it.
    """

    title: str
    wrap: Wrap
    marks: tuple[StripMark, ...]
    foot: str
    whole_turn: bool = True


@dataclass(frozen=True)
class _Piece:
    start: float
    end: float
    number: int
    count: int
    tab: bool


def lay_out(strips: Sequence[Strip], paper: Paper, *, cards: Sequence[Sequence[Item]] = ()) -> list[Page]:
    """Return pages with all strips, then cards (drawn from their own top left corner, see ``card``)."""
    width, height = paper.size_mm
    pages = [_page(width, height)]
    y = 26.0
    for strip in strips:
        for piece in _pieces(strip, width - 2 * MARGIN_MM - TAB_MM):
            if y + _ROW_MM > height - 18:
                pages.append(_page(width, height))
                y = 26.0
            pages[-1].add(*_strip(strip, piece, MARGIN_MM, y))
            y += _ROW_MM
    if cards:
        pages = _add_cards(pages, cards, y, width, height)
    return pages


def band(strip: Strip) -> tuple[float, float]:
    """Return where a strip starts and ends, mm along it: once round, its marks in the middle, or just its marks."""
    places = [mark.at_mm for mark in strip.marks]
    middle = (min(places) + max(places)) / 2
    around = strip.wrap.circumference_mm
    if strip.whole_turn:
        return middle - around / 2, middle + around / 2
    half = min((max(places) - min(places)) / 2 + _EDGE_MM, around / 2)
    return middle - half, middle + half


def _pieces(strip: Strip, longest: float) -> list[_Piece]:
    """Cut a strip into equal pieces that fit the paper; each but the last of an open strip has a tab to glue."""
    start, end = band(strip)
    count = math.ceil((end - start) / longest)
    length = (end - start) / count
    return [
        _Piece(start + i * length, start + (i + 1) * length, i + 1, count, strip.whole_turn or i + 1 < count)
        for i in range(count)
    ]


def _strip(strip: Strip, piece: _Piece, x: float, y: float) -> list[Item]:
    """Draw one piece with its left end at x and its upper edge at y."""
    length = piece.end - piece.start
    part = f", piece {piece.number} of {piece.count}" if piece.count > 1 else ""
    facing = "upper edge towards the front of the lens"
    items: list[Item] = [
        Text(x=x, y=y - 4.4, text=f"{strip.title}{part}; {facing}", size=2.4, anchor="start", bold=True),
        Box(x=x, y=y, width=length, height=STRIP_MM),
        *_crops(x, y, length, STRIP_MM, right=not piece.tab),
        Text(x=x, y=y + STRIP_MM + 5.2, text=strip.foot, size=2.2, anchor="start"),
    ]
    if piece.tab:
        items += [
            Box(x=x + length, y=y, width=TAB_MM, height=STRIP_MM, dashed=True),
            *(Line(x1=x + length + i * 2, y1=y + STRIP_MM, x2=x + length + i * 2 + 2, y2=y) for i in range(4)),
            Text(
                x=x + length + TAB_MM,
                y=y + STRIP_MM + 2.6,
                text="tab: glue under the other end",
                size=1.9,
                anchor="end",
            ),
        ]
    for mark in strip.marks:
        if piece.start - 1e-9 <= mark.at_mm <= piece.end + 1e-9:
            items += _mark(mark, x + mark.at_mm - piece.start, y)
    return items


def _mark(mark: StripMark, x: float, y: float) -> list[Item]:
    bottom = y + STRIP_MM
    if mark.kind is MarkKind.LEADING:
        tick = Line(x1=x, y1=y, x2=x, y2=y + (2.4 if mark.labelled else 1.5), width=0.2)
        return [tick, *_numeral(mark, x, y + 5.2, 2.9, bold=True)]
    if mark.kind is MarkKind.OTHER:
        tick = Line(x1=x, y1=bottom, x2=x, y2=bottom - (1.8 if mark.labelled else 1.1), width=0.15)
        return [tick, *_numeral(mark, x, bottom - 2.4, 2.2, bold=False)]
    if mark.kind is MarkKind.PRESET:
        items: list[Item] = [Line(x1=x, y1=y + 5.8, x2=x, y2=bottom - 4.8, width=0.25)]
        return items + ([Text(x=x + 0.6, y=y + 7.8, text=mark.text, size=1.7, anchor="start")] if mark.labelled else [])
    if mark.kind is MarkKind.INDEX:
        arrow = (Line(x1=x + side, y1=bottom - 2.2, x2=x, y2=bottom, width=0.3) for side in (-1.2, 1.2))
        return [Line(x1=x, y1=y, x2=x, y2=bottom, width=0.4), *arrow]
    if mark.kind is MarkKind.ZERO:
        return [Line(x1=x + side, y1=bottom, x2=x, y2=bottom - 1.6, width=0.25) for side in (-0.9, 0.9)]
    if mark.kind is MarkKind.STOP:
        tick = Line(x1=x, y1=bottom, x2=x, y2=bottom - (4.2 if mark.labelled else 3), width=0.2)
        return [tick, *([Text(x=x, y=bottom - 5, text=mark.text, size=2.2)] if mark.labelled else [])]
    reach = next((long for every, long in ((10, 4.2), (5, 2.8)) if (mark.degree or 0) % every == 0), 1.8)
    return [
        Line(x1=x, y1=bottom, x2=x, y2=bottom - reach),
        *([Text(x=x, y=bottom - 5, text=mark.text, size=2.3)] if mark.labelled else []),
    ]


def _numeral(mark: StripMark, x: float, y: float, size: float, *, bold: bool) -> list[Item]:
    if not mark.labelled:
        return []
    if mark.text == "∞":
        return [Infinity(x, y - size * 0.35, size * 1.15)]
    return [Text(x=x, y=y, text=mark.text, size=size, anchor="middle", bold=bold)]


def _crops(x: float, y: float, width: float, height: float, *, right: bool = True) -> list[Item]:
    """Draw marks outside the four corners, 1 mm off; none beside a tab on the right."""
    lines: list[Item] = []
    for cx, sx in ((x, -1), (x + width, 1)):
        for cy, sy in ((y, -1), (y + height, 1)):
            lines.append(Line(x1=cx, y1=cy + sy, x2=cx, y2=cy + sy * CROP_MM))
            if sx < 0 or right:
                lines.append(Line(x1=cx + sx, y1=cy, x2=cx + sx * CROP_MM, y2=cy))
    return lines


def _page(width: float, height: float) -> Page:
    page = Page(width, height)
    x, y = MARGIN_MM, height - 10
    page.add(
        Line(x1=x, y1=y, x2=x + CHECK_BAR_MM, y2=y, width=0.3),
        Line(x1=x, y1=y - 1.5, x2=x, y2=y + 1.5, width=0.2),
        Line(x1=x + CHECK_BAR_MM, y1=y - 1.5, x2=x + CHECK_BAR_MM, y2=y + 1.5, width=0.2),
        Text(x=x + CHECK_BAR_MM + 3, y=y + 0.8, text=CHECK_WORDS, size=2.6, anchor="start"),
    )
    return page


def _add_cards(pages: list[Page], cards: Sequence[Sequence[Item]], y: float, width: float, height: float) -> list[Page]:
    x = MARGIN_MM
    for items in cards:
        if x + CARD_WIDTH_MM > width - MARGIN_MM:
            x, y = MARGIN_MM, y + CARD_HEIGHT_MM + 10
        if y + CARD_HEIGHT_MM > height - 18:
            pages.append(_page(width, height))
            x, y = MARGIN_MM, 20.0
        pages[-1].add(*(moved(item, x, y) for item in items), *_crops(x, y, CARD_WIDTH_MM, CARD_HEIGHT_MM))
        x += CARD_WIDTH_MM + 10
    return pages


def moved(item: Item, dx: float, dy: float) -> Item:
    """Return an item moved right and down."""
    if isinstance(item, Line):
        return replace(item, x1=item.x1 + dx, y1=item.y1 + dy, x2=item.x2 + dx, y2=item.y2 + dy)
    return replace(item, x=item.x + dx, y=item.y + dy)
