"""The sheets that are printed and photographed, as geometry in mm from the top left corner of the page, y downwards.

Markers and detail stand at the same places about the mark on both papers, so that nobody has to say which was used.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from functools import cache

import numpy as np
from numpy.typing import NDArray

CELL_MM = 25.4 / 200  # three dots of a printer with 600 to the inch
OCTAVES = 7
DOT_MM = 25.4 / 600
MODULES = 6  # of a marker's side, with its border
DICTIONARY = "DICT_4X4_250"  # of the markers, by OpenCV's name
MOST_SHEETS = 9  # of a row, and beside one another on a wall
MARK_OF_ROW = 5  # number of the sheet of a row that focus is put on
BAR_MM = 50.0
_LARGE, _MEDIUM, _SMALL = 22.0, 7.0, 4.0
_EDGE_U, _MEDIUM_U, _SMALL_U = 82.0, 40.5, 10.5
_LARGE_V = (115.0, 76.0, 38.0)
_MEDIUM_V = (5.0, 14.0, 24.0, 36.0, 50.0, 66.0, 84.0, 104.0)
_SMALL_V = (3.0, 8.2, 13.4, 18.6, 23.8, 29.0, 34.2, 40.0, 47.0, 55.0)
_INNER_U, _OUTER_U = (14.5, 35.0), (46.0, 67.0)
_DETAIL_V = 124.0
_OTHER_IDS, _ROW_IDS, _WALL_IDS = 8, 100, 160
_LINE_MM, _LINE_HALF_MM = 1.0, 8.0
_TICK_MM, SCALE_V = 0.2, 120  # thickness of a tick; how far the scale goes, mm
TICKS_MM = {1: 1.6, 5: 3.0, 10: 4.6}  # length of those of each number of millimetres
_BAR_V, _BAR_LINE_MM = 130.5, 0.4
_CROSS_MM, _CLEAR_MM = 24.0, 34.0


class SheetPaper(StrEnum):
    """A size of paper, used standing."""

    A4 = "a4"
    LETTER = "letter"

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height, mm."""
        return (210.0, 297.0) if self is SheetPaper.A4 else (215.9, 279.4)


class SheetKind(StrEnum):
    """What a sheet is for."""

    SLOPE = "slope"
    ROW = "row"
    WALL = "wall"


Cells = NDArray[np.uint8]


@cache
def detail(number: int, rows: int, columns: int) -> Cells:
    """Return the cells of a patch of detail, 0 for black and 1 for white, shape (rows, columns).

    Each octave holds squares twice as large as the one before, each as light as its hash says; what is lighter than
    the middle of all is white.

    Parameters
    ----------
    number
        Number of the patch, which its pattern follows from.
    rows
        How many rows.
    columns
        How many columns.
    """
    total = np.zeros((rows, columns), dtype=np.int32)
    for octave in range(OCTAVES):
        side = 1 << octave
        light = _hashed(number, octave, -(-rows // side), -(-columns // side))
        total += light.repeat(side, axis=0).repeat(side, axis=1)[:rows, :columns]
    found = (total > 0).astype(np.uint8)
    found.flags.writeable = False
    return found


def _hashed(number: int, octave: int, rows: int, columns: int) -> NDArray[np.int32]:
    """Return a number from -128 to 127 for each square, by the finaliser of the SplitMix64 generator."""
    row, column = np.indices((rows, columns), dtype=np.uint64)
    key = (np.uint64(number * OCTAVES + octave) << np.uint64(40)) + (row << np.uint64(20)) + column
    with np.errstate(over="ignore"):
        key = key * np.uint64(0x9E3779B97F4A7C15)
        key = (key ^ (key >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        key = (key ^ (key >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        key ^= key >> np.uint64(31)
    return (key >> np.uint64(56)).astype(np.int32) - 128


_PER_CELL = round(CELL_MM / DOT_MM)


@cache
def marker_modules(id: int) -> NDArray[np.uint8]:
    """Return the modules of a marker, 0 for black and 1 for white, shape (6, 6).

    Parameters
    ----------
    id
        Key of the record.
    """
    import cv2

    dictionary = cv2.aruco.getPredefinedDictionary(getattr(cv2.aruco, DICTIONARY))
    return np.asarray(cv2.aruco.generateImageMarker(dictionary, id, MODULES) > 0, dtype=np.uint8)


def dots_of(sheet: Sheet) -> NDArray[np.uint8]:
    """Return a page as dots, 255 for paper and 0 for ink, shape (rows, columns); its small print is left out.

    Parameters
    ----------
    sheet
        The printed sheet.
    """
    width, height = (round(side / DOT_MM) for side in sheet.paper_mm)
    page = np.full((height, width), 255, dtype=np.uint8)
    for area in sheet.areas:
        _place(page, 255 * area.cells.repeat(_PER_CELL, axis=0).repeat(_PER_CELL, axis=1), area.x, area.y)
    for marker in sheet.markers:
        side = round(marker.side / DOT_MM)
        which = (np.arange(side) + 0.5) * MODULES // side
        modules = marker_modules(marker.id)[np.ix_(which.astype(int), which.astype(int))]
        _place(page, 255 * modules, marker.x - marker.side / 2, marker.y - marker.side / 2)
    for block in blocks_of(sheet):
        top, left = round(block.y / DOT_MM), round(block.x / DOT_MM)
        bottom, right = round((block.y + block.height) / DOT_MM), round((block.x + block.width) / DOT_MM)
        page[top:bottom, left:right] = 0 if block.ink else 255
    return page


def _place(page: NDArray[np.uint8], dots: NDArray[np.uint8], x: float, y: float) -> None:
    row, column = round(y / DOT_MM), round(x / DOT_MM)
    page[row : row + dots.shape[0], column : column + dots.shape[1]] = dots


@dataclass(frozen=True, kw_only=True)
class SheetMarker:
    """A marker: its number in the dictionary, its middle and its side, mm."""

    id: int
    x: float
    y: float
    side: float

    @property
    def corners_mm(self) -> NDArray[np.float64]:
        """Its corners clockwise from its top left, shape (4, 2), mm."""
        half = self.side / 2
        return np.array([self.x, self.y]) + half * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])


@dataclass(frozen=True, kw_only=True)
class DetailArea:
    """A rectangle of detail: which, its top left corner, mm, and how many cells it has."""

    number: int
    x: float
    y: float
    rows: int
    columns: int

    @property
    def cells(self) -> Cells:
        """Its cells, 0 for black and 1 for white, shape (rows, columns)."""
        return detail(self.number, self.rows, self.columns)

    @property
    def width(self) -> float:
        """In mm."""
        return self.columns * CELL_MM

    @property
    def height(self) -> float:
        """In mm."""
        return self.rows * CELL_MM


@dataclass(frozen=True)
class Block:
    """A rectangle of ink, or of paper where there was ink: its top left corner and size, mm."""

    x: float
    y: float
    width: float
    height: float
    ink: bool = True


@dataclass(frozen=True, kw_only=True)
class Sheet:
    """A printed page.

    Parameters
    ----------
    kind, paper, number
        What it is for, what it is printed on, and which of several it is, from 1.
    mark_mm
        The point focus is put on.
    markers, areas
        What is found and what is measured on it.
    """

    kind: SheetKind
    paper: SheetPaper
    number: int
    mark_mm: tuple[float, float]
    markers: tuple[SheetMarker, ...]
    areas: tuple[DetailArea, ...]
    slope_axis: tuple[float, float] = (0.0, -1.0)

    @property
    def paper_mm(self) -> tuple[float, float]:
        """Width and height of the page, mm."""
        return self.paper.size_mm

    @property
    def corner_ids(self) -> frozenset[int]:
        """The markers that tell on what paper a slope sheet was printed."""
        first = _CORNERS[self.paper]
        return frozenset(range(first, first + 4))

    def marker(self, id: int) -> SheetMarker | None:
        """Return the marker of a number, if it is on this sheet."""
        return next((one for one in self.markers if one.id == id), None)


_CORNERS = {SheetPaper.A4: 0, SheetPaper.LETTER: 4}


@cache
def slope_sheet(paper: SheetPaper) -> Sheet:
    """Return the sheet that is laid flat or stood at an angle, the top of the page away from the camera.

    Parameters
    ----------
    paper
        Paper that it is printed on.
    """
    middle_x, middle_y = paper.size_mm[0] / 2, paper.size_mm[1] / 2

    def marker(id: int, u: float, v: float, side: float) -> SheetMarker:
        return SheetMarker(id=id, x=middle_x + u, y=middle_y - v, side=side)

    corners = [(u, v) for v in (_LARGE_V[0], -_LARGE_V[0]) for u in (-_EDGE_U, _EDGE_U)]
    others = [(u, sign * v, _LARGE) for v in _LARGE_V[1:] for sign in (1, -1) for u in (-_EDGE_U, _EDGE_U)]
    for column, along, side in ((_MEDIUM_U, _MEDIUM_V, _MEDIUM), (_SMALL_U, _SMALL_V, _SMALL)):
        others += [(u, sign * v, side) for v in along for sign in (1, -1) for u in (-column, column)]
    markers = [marker(_CORNERS[paper] + k, u, v, _LARGE) for k, (u, v) in enumerate(corners)]
    markers += [marker(_OTHER_IDS + k, *one) for k, one in enumerate(others)]
    strips = [(-_OUTER_U[1], -_OUTER_U[0]), (-_INNER_U[1], -_INNER_U[0]), _INNER_U, _OUTER_U]
    areas = [
        _area(number, middle_x + left, middle_y - _DETAIL_V, right - left, 2 * _DETAIL_V)
        for number, (left, right) in enumerate(strips)
    ]
    return Sheet(
        kind=SheetKind.SLOPE, paper=paper, number=1, mark_mm=(middle_x, middle_y),
        markers=tuple(markers), areas=tuple(areas),
    )  # fmt: skip


def row_sheet(paper: SheetPaper, number: int) -> Sheet:
    """Return one of the sheets stood one behind another, number 1 nearest to the camera.

    Parameters
    ----------
    paper
        Paper that it is printed on.
    number
        Number of the sheet, counted from 1.
    """
    return _facing(SheetKind.ROW, paper, number, _ROW_IDS, first_area=10)


def wall_sheet(paper: SheetPaper, number: int) -> Sheet:
    """Return one of the sheets pinned to a wall side by side.

    Parameters
    ----------
    paper
        Paper that it is printed on.
    number
        Number of the sheet, counted from 1.
    """
    return _facing(SheetKind.WALL, paper, number, _WALL_IDS, first_area=40)


@cache
def _facing(kind: SheetKind, paper: SheetPaper, number: int, ids: int, *, first_area: int) -> Sheet:
    """Return a sheet looked at straight: markers in its corners and middle, detail over the rest."""
    middle_x, middle_y = paper.size_mm[0] / 2, paper.size_mm[1] / 2
    places = [(-_EDGE_U, 115.0), (_EDGE_U, 115.0), (-_EDGE_U, -115.0), (_EDGE_U, -115.0), (0.0, 115.0), (0.0, -115.0)]
    markers = tuple(
        SheetMarker(id=ids + (number - 1) * len(places) + k, x=middle_x + u, y=middle_y - v, side=_LARGE)
        for k, (u, v) in enumerate(places)
    )
    area = _area(first_area + number, middle_x - 93.0, middle_y - 100.0, 186.0, 200.0)
    return Sheet(
        kind=kind, paper=paper, number=number, mark_mm=(middle_x, middle_y), markers=markers, areas=(area,),
    )  # fmt: skip


def _area(number: int, x: float, y: float, width: float, height: float) -> DetailArea:
    left, top = (round(place / CELL_MM) * CELL_MM for place in (x, y))  # on the grid of all cells of the page
    return DetailArea(number=number, x=left, y=top, rows=int(height / CELL_MM), columns=int(width / CELL_MM))


def sheets_of(kind: SheetKind, paper: SheetPaper) -> tuple[Sheet, ...]:
    """Return the pages of a kind of sheet.

    Parameters
    ----------
    kind
        Kind of sheet.
    paper
        Paper that it is printed on.
    """
    if kind is SheetKind.SLOPE:
        return (slope_sheet(paper),)
    make = row_sheet if kind is SheetKind.ROW else wall_sheet
    return tuple(make(paper, number) for number in range(1, MOST_SHEETS + 1))


@cache
def blocks_of(sheet: Sheet) -> tuple[Block, ...]:
    """Return the lines of a page: mark, millimetres, and the bar that tells whether it was printed at its size.

    Parameters
    ----------
    sheet
        The printed sheet.
    """
    x, y = sheet.mark_mm
    bar = y + _BAR_V
    blocks = [Block(x - BAR_MM / 2, bar - _BAR_LINE_MM / 2, BAR_MM, _BAR_LINE_MM)]
    blocks += [
        Block(x + side * (BAR_MM / 2 - _BAR_LINE_MM / 2) - _BAR_LINE_MM / 2, bar - 1.5, _BAR_LINE_MM, 3.0)
        for side in (-1, 1)
    ]
    if sheet.kind is SheetKind.SLOPE:
        blocks.append(Block(x - _LINE_HALF_MM, y - _LINE_MM / 2, 2 * _LINE_HALF_MM, _LINE_MM))
        for mm in range(-SCALE_V, SCALE_V + 1):
            if mm:
                length = TICKS_MM[10 if mm % 10 == 0 else 5 if mm % 5 == 0 else 1]
                blocks.append(Block(x - _LINE_HALF_MM, y - mm - _TICK_MM / 2, length, _TICK_MM))
    else:
        blocks.append(Block(x - _CLEAR_MM / 2, y - _CLEAR_MM / 2, _CLEAR_MM, _CLEAR_MM, ink=False))
        blocks.append(Block(x - _CROSS_MM / 2, y - _LINE_MM / 2, _CROSS_MM, _LINE_MM))
        blocks.append(Block(x - _LINE_MM / 2, y - _CROSS_MM / 2, _LINE_MM, _CROSS_MM))
    return tuple(blocks)


def geometry(kind: SheetKind, paper: SheetPaper) -> dict[str, object]:
    """Return where everything stands, for other programs; mm from the top left of the page, y downwards.

    Parameters
    ----------
    kind
        Kind of sheet.
    paper
        Paper that it is printed on.
    """
    pages = sheets_of(kind, paper)
    first = pages[0]
    return {
        "kind": kind.value, "paper": paper.value, "paper_mm": list(first.paper_mm), "dictionary": DICTIONARY,
        "markers": [
            {"id": one.id, "corners_mm": one.corners_mm.tolist(), "page": page.number}
            for page in pages for one in page.markers
        ],
        "mark_mm": list(first.mark_mm), "slope_axis": list(first.slope_axis),
        "bar_mm": BAR_MM, "pages": len(pages),
    }  # fmt: skip
