"""Focus shift: how far the best setting moves as the lens stops down, from the photographer's own trials.

Undercorrected spherical aberration moves the plane of best focus with the stop (Ray, *Applied Photographic
Optics*, ch. 13). The correction is kept in degrees of ring against the widest stop tried, and is read between
tried stops in proportion to exposure steps.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.inputs import field_spec
from welotrope.core.ring.survey import angle_cell, stop_cell
from welotrope.core.stats import mean_interval
from welotrope.core.units.exposure import check_stop, format_stop

MAX_TRIALS = 60
MAX_SHIFT_DEG = 60.0
ONE_READING_DEG = 0.5


@dataclass(frozen=True)
class ShiftTrial:
    """Where the ring was sharpest at a stop, degrees from the infinity stop, on one unmoved target."""

    stop: float = field(metadata=field_spec(stop_cell("stop", "Stop", "Write the stop, such as 2.8")))
    angle_deg: float = field(
        metadata=field_spec(angle_cell("Sharpest at, degrees", half_empty="Write where it was sharpest"))
    )


@dataclass(frozen=True)
class StopShift:
    """The correction at a stop: degrees to turn from the setting at the widest stop, positive towards closest focus."""

    stop: float
    shift_deg: float
    half_deg: float
    trials: int


@dataclass(frozen=True)
class FocusShift:
    """All trials of a lens; at least two stops, at most 60 trials.

    Raises
    ------
    ConflictError, OutOfRangeError
        When the trials cannot give a shift.
    """

    trials: tuple[ShiftTrial, ...]

    def __post_init__(self) -> None:
        stops = {check_stop(trial.stop) for trial in self.trials}
        if len(stops) < 2:
            raise ConflictError(
                "stops tried", ", ".join(format_stop(stop) for stop in stops), "a shift needs two stops",
                "Try the widest stop and the one you use",
            )  # fmt: skip
        if len(self.trials) > MAX_TRIALS:
            raise OutOfRangeError("trials", len(self.trials), "more than are of use", f"Keep at most {MAX_TRIALS}")
        angles = [trial.angle_deg for trial in self.trials]
        if max(angles) - min(angles) > MAX_SHIFT_DEG:
            raise OutOfRangeError(
                "trials", f"{max(angles) - min(angles):.0f}° apart", "no lens shifts that far",
                "Keep camera and target where they are and move the ring only",
            )  # fmt: skip

    @cached_property
    def per_stop(self) -> tuple[StopShift, ...]:
        """The correction at every stop tried, widest first."""
        stops = sorted({trial.stop for trial in self.trials})
        found = [
            mean_interval([trial.angle_deg for trial in self.trials if trial.stop == stop], ONE_READING_DEG)
            for stop in stops
        ]
        counts = [sum(trial.stop == stop for trial in self.trials) for stop in stops]
        start = found[0][0]
        return tuple(
            StopShift(stop, mean - start, half, count)
            for stop, (mean, half), count in zip(stops, found, counts, strict=True)
        )

    def at(self, stop: float) -> float:
        """Return the correction in degrees at any stop; beyond those tried, that of the last."""
        shifts = self.per_stop
        if stop <= shifts[0].stop:
            return 0.0
        for wider, smaller in pairwise(shifts):
            if stop <= smaller.stop:
                share = math.log2(stop / wider.stop) / math.log2(smaller.stop / wider.stop)
                return wider.shift_deg + share * (smaller.shift_deg - wider.shift_deg)
        return shifts[-1].shift_deg
