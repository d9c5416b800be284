"""The sheets that are printed and photographed, as pages at true size."""

from __future__ import annotations

from welotrope.core.testshot.sheets import (
    CELL_MM,
    MARK_OF_ROW,
    MODULES,
    SCALE_V,
    Sheet,
    SheetKind,
    SheetPaper,
    blocks_of,
    marker_modules,
    sheets_of,
)
from welotrope.interchange.print.drawing import Bitmap, Page, Text
from welotrope.interchange.print.pdf import write_pdf

_SMALL, _NUMBER = 2.5, 18.0
_HOW = {
    SheetKind.SLOPE: "Slope sheet. Lay it flat, or stand it at 45°, this edge away from the camera.",
    SheetKind.ROW: "Row, sheet {number} of {count}. Number 1 stands nearest to the camera.",
    SheetKind.WALL: "Wall, sheet {number} of {count}. Pin as many side by side as fill the picture.",
}


def target_pdf(kind: SheetKind, paper: SheetPaper) -> bytes:
    """Return the sheets of a kind as a PDF document at true size."""
    pages = sheets_of(kind, paper)
    return write_pdf([target_page(sheet, len(pages)) for sheet in pages], f"Welotrope test shot: {kind.value} sheet")


def target_page(sheet: Sheet, count: int) -> Page:
    """Return one page; ``count`` is how many there are of its kind."""
    page = Page(*sheet.paper_mm)
    for area in sheet.areas:
        page.add(Bitmap(x=area.x, y=area.y, cell=CELL_MM, cells=area.cells))
    for marker in sheet.markers:
        left, top = marker.x - marker.side / 2, marker.y - marker.side / 2
        page.add(Bitmap(x=left, y=top, cell=marker.side / MODULES, cells=marker_modules(marker.id)))
    page.add(*blocks_of(sheet))
    page.add(*_texts(sheet, count))
    return page


def _texts(sheet: Sheet, count: int) -> list[Text]:
    x, y = sheet.mark_mm
    words = _HOW[sheet.kind].format(number=sheet.number, count=count)
    if sheet.kind is SheetKind.ROW and sheet.number == MARK_OF_ROW:
        words += " Focus on the cross of this one."
    texts = [
        Text(x=x, y=y - 131.0, text=words, size=_SMALL),
        Text(x=x + 28, y=y + 131.4, text="50 mm: print at 100 %", size=_SMALL, anchor="start"),
    ]
    if sheet.kind is SheetKind.SLOPE:
        texts += [
            Text(x=x + 3, y=y - mm + 0.8, text=f"{mm}".replace("-", "−"), size=_SMALL)
            for mm in range(-SCALE_V, SCALE_V + 1, 10) if mm
        ]  # fmt: skip
        texts.append(Text(x=x - 28, y=y + 131.4, text="mm on the paper, − is nearer", size=_SMALL, anchor="end"))
    else:
        texts += [Text(x=x + u, y=y - 108.0, text=str(sheet.number), size=_NUMBER, bold=True) for u in (-41.0, 41.0)]
    return texts
