"""What a series of pictures told, as it is kept."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.ring.focus_shift import ShiftTrial


@dataclass(frozen=True, kw_only=True)
class SeriesPoint:
    """How sharp a picture was, 1 for the sharpest: where ring or stop stood, and its 95 % interval where known."""

    at: float
    score: float
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, kw_only=True)
class SeriesCurve:
    """How sharp the pictures are in one part of them, and the best place where it stands clear."""

    part: str
    points: tuple[SeriesPoint, ...]
    best: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass(frozen=True, kw_only=True)
class SeriesFigure:
    """A value that a series told, with its 95 % interval; ``name`` says of what, its unit at the end."""

    name: str
    value: float
    low: float
    high: float


@dataclass(frozen=True, kw_only=True)
class SeriesRecord:
    """A series.

    Parameters
    ----------
    pictures
        By name.
    curves
        By part of the picture, where pictures were compared.
    figures
        What was measured as values.
    trials
        Where the ring would have had to stand at each stop, of focus shift.
    stop
        f-number of the pictures, where it was one.
    distance_mm
        From the film to the sheet, of focus shift.
    in_degrees, at_infinity
        Whether the ring was read in degrees from its infinity stop, and the subject was far enough to be infinity.
    warnings
        What was doubtful.
    """

    pictures: tuple[str, ...]
    curves: tuple[SeriesCurve, ...] = ()
    figures: tuple[SeriesFigure, ...] = ()
    trials: tuple[ShiftTrial, ...] = ()
    stop: float | None = None
    distance_mm: float | None = None
    in_degrees: bool = False
    at_infinity: bool = False
    warnings: tuple[str, ...] = ()

    def figure(self, name: str) -> SeriesFigure | None:
        """Return a value by its name."""
        return next((one for one in self.figures if one.name == name), None)

    def sure_amount(self, name: str) -> float | None:
        """Return a value that is surely above 0, mm or px as its name ends; None for one that may be 0."""
        found = self.figure(name)
        return None if found is None or found.low <= 0 else found.value

    def curve(self, part: str) -> SeriesCurve | None:
        """Return the curve of a part of the picture."""
        return next((one for one in self.curves if one.part == part), None)
