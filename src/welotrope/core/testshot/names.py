"""Which sheets there are, and on what paper."""

from __future__ import annotations

from enum import StrEnum


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
