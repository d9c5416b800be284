"""A contact sheet: the pictures of an outing in rows, each with its frame below it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.review.frame import Frame
from welotrope.core.units.distance import Unit, format_distance
from welotrope.core.units.exposure import format_stop
from welotrope.interchange.print.drawing import Box, Page, Paper, PlacedImage, Text
from welotrope.interchange.print.pdf import text_width, write_pdf

_MARGIN, _HEAD = 12.0, 12.0
_COLS, _ROWS, _GAP = 5, 3, 4.0
_LINE, _SIZE = 3.1, 2.5


@dataclass(frozen=True)
class ContactFrame:
    """A frame on the sheet: its lines, and its thumbnail as JPEG, None without a picture."""

    lines: tuple[str, ...]
    thumb: bytes | None

    @classmethod
    def of(cls, frame: Frame, taken: str, found: str, unit: Unit, thumb: bytes | None) -> ContactFrame:
        """Return a frame as it stands on the sheet."""
        at = "" if frame.distance_mm is None else format_distance(frame.distance_mm, unit)
        stop = "" if frame.stop is None else format_stop(frame.stop)
        number = f"{frame.film_frame}  " if frame.film_frame else ""
        outcome = frame.outcome.value if frame.outcome else "not checked"
        lines = (f"{number}{frame.lens_name or 'Lens not known'} {at} {stop}", taken, frame.subject, found or outcome)
        return cls(tuple(" ".join(line.split()) for line in lines), thumb)


def contact_sheet(title: str, frames: Sequence[ContactFrame], *, paper: Paper = Paper.A4) -> bytes:
    """Return the sheet as PDF, fifteen frames a page."""
    width, height = paper.size_mm
    each = _COLS * _ROWS
    parts = [frames[start : start + each] for start in range(0, len(frames), each)] or [()]
    pages = []
    for number, part in enumerate(parts, start=1):
        page = Page(width, height)
        page.add(Text(x=_MARGIN, y=_MARGIN + 4, text=title, size=4.5, anchor="start", bold=True))
        page.add(Text(x=width - _MARGIN, y=_MARGIN + 4, text=f"{number} of {len(parts)}", size=3, anchor="end"))
        if not part:
            page.add(Text(x=_MARGIN, y=_MARGIN + 14, text="No frame in this outing.", size=3.5, anchor="start"))
        for index, frame in enumerate(part):
            _place(page, frame, index)
        pages.append(page)
    return write_pdf(pages, title)


def _place(page: Page, frame: ContactFrame, index: int) -> None:
    cell_w = (page.width - 2 * _MARGIN - (_COLS - 1) * _GAP) / _COLS
    cell_h = (page.height - 2 * _MARGIN - _HEAD - (_ROWS - 1) * _GAP) / _ROWS
    row, col = divmod(index, _COLS)
    x, y = _MARGIN + col * (cell_w + _GAP), _MARGIN + _HEAD + row * (cell_h + _GAP)
    photo_h = cell_h - len(frame.lines) * _LINE - 1
    if frame.thumb is None:
        page.add(Box(x=x, y=y, width=cell_w, height=photo_h, dashed=True))
    else:
        page.add(PlacedImage(x=x, y=y, width=cell_w, height=photo_h, data=frame.thumb))
    for number, line in enumerate(frame.lines, start=1):
        fitted = _fitted(line, cell_w, bold=number == 1)
        page.add(Text(x=x, y=y + photo_h + number * _LINE, text=fitted, size=_SIZE, anchor="start", bold=number == 1))


def _fitted(text: str, width: float, *, bold: bool) -> str:
    if text_width(text, _SIZE, bold=bold) <= width:
        return text
    while text and text_width(text + "…", _SIZE, bold=bold) > width:
        text = text[:-1]
    return text.rstrip() + "…"
