"""A sheet as the dots of a printer, for the simulated camera and to be measured against."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.detail import CELL_MM
from welotrope.core.testshot.sheets import DICTIONARY, Sheet, blocks_of

DOT_MM = 25.4 / 600
_PER_CELL = round(CELL_MM / DOT_MM)
MODULES = 6  # of a marker's side, with its border


@cache
def marker_modules(id: int) -> NDArray[np.uint8]:
    """Return the modules of a marker, 0 for black and 1 for white, shape (6, 6)."""
    import cv2

    dictionary = cv2.aruco.getPredefinedDictionary(getattr(cv2.aruco, DICTIONARY))
    return np.asarray(cv2.aruco.generateImageMarker(dictionary, id, MODULES) > 0, dtype=np.uint8)


def dots_of(sheet: Sheet) -> NDArray[np.uint8]:
    """Return a page as dots, 255 for paper and 0 for ink, shape (rows, columns); its small print is left out."""
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
