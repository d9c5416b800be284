"""What a sheet is drawn with; lengths in mm, x to the right and y down from the top left corner of the paper."""

from __future__ import annotations

from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from welotrope.core.testshot.sheets import Block, SheetPaper

HAIRLINE_MM = 0.12


class Paper(StrEnum):
    """A size of paper, used lying."""

    A4 = "A4"
    LETTER = "Letter"

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height, mm."""
        width, height = SheetPaper[self.name].size_mm
        return height, width


@dataclass(frozen=True, kw_only=True)
class Line:
    """A straight line."""

    x1: float
    y1: float
    x2: float
    y2: float
    width: float = HAIRLINE_MM
    dashed: bool = False


@dataclass(frozen=True, kw_only=True)
class Text:
    """A line of text on its baseline; ``size`` is the height of the type in mm, anchor start, middle or end."""

    x: float
    y: float
    text: str
    size: float = 2.4
    anchor: str = "middle"
    bold: bool = False


@dataclass(frozen=True, kw_only=True)
class Box:
    """An empty rectangle."""

    x: float
    y: float
    width: float
    height: float
    line: float = HAIRLINE_MM
    dashed: bool = False


@dataclass(frozen=True)
class Infinity:
    """Our own infinity sign, ``width`` mm wide, its middle at x, y."""

    x: float
    y: float
    width: float = 3.0

    def curves(self) -> tuple[tuple[float, ...], ...]:
        """Return the Bézier curves of the two loops, each (x0, y0, x1, y1, x2, y2, x3, y3) in mm."""
        s = self.width / 31
        points = (
            (0, 0, -3, -4.5, -6, -6.5, -9, -6.5), (-9, -6.5, -17.7, -6.5, -17.7, 6.5, -9, 6.5),
            (-9, 6.5, -6, 6.5, -3, 4.5, 0, 0), (0, 0, 3, -4.5, 6, -6.5, 9, -6.5),
            (9, -6.5, 17.7, -6.5, 17.7, 6.5, 9, 6.5), (9, 6.5, 6, 6.5, 3, 4.5, 0, 0),
        )  # fmt: skip
        return tuple(
            tuple(self.x + v * s if k % 2 == 0 else self.y + v * s for k, v in enumerate(curve)) for curve in points
        )


@dataclass(frozen=True, kw_only=True)
class PlacedImage:
    """A JPEG, fitted into a rectangle."""

    x: float
    y: float
    width: float
    height: float
    data: bytes


@dataclass(frozen=True, kw_only=True)
class Bitmap:
    """Square cells of ink and paper: 1 for paper, 0 for ink, shape (rows, columns)."""

    x: float
    y: float
    cell: float
    cells: NDArray[np.uint8]


Item = Line | Text | Box | Infinity | PlacedImage | Block | Bitmap


@dataclass
class Page:
    """One page of a sheet."""

    width: float
    height: float
    items: list[Item] = field(default_factory=list)

    def add(self, *items: Item) -> None:
        """Draw."""
        self.items.extend(items)
