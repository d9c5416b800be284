"""From readings to a ring: its lead and where infinity lies, how sure both are, and which reading is off.

A plain helicoid makes ring angle a straight line over extension, ``θ = θ∞ + x·360/L``, so lead and infinity come
from a line fitted by least squares once readings that do not belong are left out. When the line bends by more
than the readings scatter, the lens is no plain helicoid and a monotone curve takes its place.
"""

from __future__ import annotations

import functools
import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.errors import ConflictError
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.optics.thin_lens import extension_at_film_distance
from welotrope.core.ring.curved_ring import CurvedRing
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.helicoid import Helicoid, check_lead
from welotrope.core.ring.survey import Survey, Use, Way
from welotrope.core.stats.regression import LineFit, bends, curve_scatter, discordant, fit_line

_LEAST_TO_BEND = 5


class Model(StrEnum):
    """What kind of ring the readings show."""

    HELICOID = "helicoid"
    CURVED = "curved"


@dataclass(frozen=True)
class Residual:
    """A reading against the fit.

    Parameters
    ----------
    index
        Its place in the survey.
    angle_deg, expected_deg
        Where it was read, and where the ring fitted to the others has its distance.
    extension_mm
        Extension of its distance.
    outlier, used
        Whether it was found not to belong, and whether it counted.
    """

    index: int
    angle_deg: float
    expected_deg: float
    extension_mm: float
    outlier: bool
    used: bool

    @property
    def off_deg(self) -> float:
        """How far the reading lies from where it belongs; positive towards closest focus."""
        return self.angle_deg - self.expected_deg


@dataclass(frozen=True)
class Calibration:
    """A ring worked out from a survey.

    Parameters
    ----------
    model
        Plain helicoid or curve.
    ring
        The ring; extension is counted from where the readings put infinity.
    lead_mm, lead_low_mm, lead_high_mm
        Lead of the best straight line and the ends of its 95 % interval, mm a turn; the interval is (0, ∞)
        when there are too few readings to tell.
    infinity_deg, infinity_half_deg
        Where infinity lies on the ring and the half-width of its 95 % interval, degrees.
    rms_deg
        Root mean square of the used readings about the fit, degrees.
    residuals
        Every reading, in order of the survey.
    line
        The straight line of angle over extension.
    """

    model: Model
    ring: FocusRing
    lead_mm: float
    lead_low_mm: float
    lead_high_mm: float
    infinity_deg: float
    infinity_half_deg: float
    rms_deg: float
    residuals: tuple[Residual, ...]
    line: LineFit

    @property
    def outliers(self) -> tuple[Residual, ...]:
        """The readings found not to belong, worst first."""
        return tuple(sorted((r for r in self.residuals if r.outlier), key=lambda r: -abs(r.off_deg)))

    @property
    def used(self) -> int:
        """How many readings counted."""
        return sum(residual.used for residual in self.residuals)

    def half_deg(self, extension_mm: float) -> float:
        """Half-width in degrees of the 95 % interval of the setting for an extension (plain helicoid)."""
        return self.line.half_at(extension_mm)


@functools.lru_cache(maxsize=128)
def calibrate(survey: Survey, focal_mm: float, closest_mm: float, throw_deg: float | None = None) -> Calibration:
    """Work out a ring from its readings.

    Parameters
    ----------
    survey
        The readings.
    focal_mm, closest_mm
        Marked focal length, and closest focus from the film plane, mm.
    throw_deg
        Travel when it is known otherwise; else the survey's end, else where the fit puts closest focus.

    Raises
    ------
    ConflictError
        When the angle does not grow towards closest focus, or too few readings are left in.
    WelotropeError
        When a distance cannot be focused, or no helicoid has the lead found.
    """
    angles, x = survey.angles_deg(), survey.extensions(focal_mm, closest_mm)
    kept, outliers = _sift(survey, angles, x)
    told = survey.error_deg if survey.error is not None or len(kept) == 2 else None
    line = fit_line(x[kept], angles[kept], told)
    _check_direction(line, survey, x[kept])
    if survey.end is not None:
        throw_deg = survey.end_deg
    curved = _is_curved(survey, angles, x, kept, outliers, line)
    if curved:
        kept, outliers = _sift_curve(survey, angles, x)
        line = fit_line(x[kept], angles[kept], told)
    lead = check_lead(360 / line.slope)
    ring: FocusRing
    if curved:
        ring = _curve(survey, angles[kept], x[kept], focal_mm, closest_mm, throw_deg)
        expected = np.asarray(ring.angle_at_extension(x))
    else:
        end = line.intercept + line.slope * float(extension_at_film_distance(closest_mm, focal_mm))
        ring = Helicoid(focal_mm, lead, throw_deg or end, start_mm=-line.intercept / line.slope)
        expected = line.intercept + line.slope * x
    used = set(kept)
    residuals = tuple(
        Residual(i, float(angles[i]), float(expected[i]), float(x[i]), i in outliers, i in used)
        for i in range(len(angles))
    )
    rest = (angles - expected)[kept]
    half = line.slope_half
    return Calibration(
        Model.CURVED if curved else Model.HELICOID,
        ring,
        lead,
        360 / (line.slope + half),
        360 / (line.slope - half) if half < line.slope else math.inf,
        ring.infinity_deg,
        line.half_at(0.0) if not curved else max(survey.error_deg, 2 * float(np.std(rest))),
        math.sqrt(float(np.mean(rest**2))),
        residuals,
        line,
    )


def _sift(survey: Survey, angles: FloatArray, x: FloatArray) -> tuple[list[int], set[int]]:
    """Return the readings that count and those found discordant."""
    judged = [i for i, point in enumerate(survey.points) if point.use is not Use.DROP]
    if len(judged) < 2:
        raise ConflictError("readings", f"{len(judged)} left in", "two at least must count", "Put one back in")
    _check_spread(x[judged])
    named = {judged[i] for i in discordant(x[judged], angles[judged], survey.error_deg)}
    out = {i for i in named if survey.points[i].use is not Use.KEEP}
    return [i for i in judged if i not in out], named


def _sift_curve(survey: Survey, angles: FloatArray, x: FloatArray) -> tuple[list[int], set[int]]:
    """Leave out readings that stand against the order of all others: the curve must grow."""
    kept = [i for i, point in enumerate(survey.points) if point.use is not Use.DROP]
    named: set[int] = set()
    while True:
        against = {i: sum(_disordered(angles, x, i, j, survey.error_deg) for j in kept) for i in kept}
        worst = max(against, key=lambda i: (against[i], survey.points[i].use is not Use.KEEP))
        if against[worst] == 0 or survey.points[worst].use is Use.KEEP or len(kept) <= 3:
            return kept, named
        kept.remove(worst)
        named.add(worst)


def _disordered(angles: FloatArray, x: FloatArray, i: int, j: int, error_deg: float) -> bool:
    """Whether two readings are the wrong way round by more than two reading errors."""
    apart = (angles[i] - angles[j]) * (1 if x[i] > x[j] else -1)
    return i != j and x[i] != x[j] and bool(apart < -2 * error_deg)


def _is_curved(
    survey: Survey, angles: FloatArray, x: FloatArray, kept: list[int], outliers: set[int], line: LineFit
) -> bool:
    if len(outliers) > 1:
        # Several readings off a line that lie on one curve together are the lens, not the reader.
        judged = [i for i, point in enumerate(survey.points) if point.use is not Use.DROP]
        if curve_scatter(x[judged], angles[judged]) <= 1.5 * survey.error_deg:
            return True
    if len(kept) < _LEAST_TO_BEND or (line.scatter <= survey.error_deg and survey.way is not Way.STEPS):
        return False
    return bends(x[kept], angles[kept])


def _check_spread(x: FloatArray) -> None:
    if float(np.ptp(x)) <= 0:
        raise ConflictError("readings", "one distance", "all that count are at one distance", "Put another back in")


def _check_direction(line: LineFit, survey: Survey, x: FloatArray) -> None:
    if line.slope <= 0:
        way = "steps" if survey.way is Way.STEPS else "degrees"
        raise ConflictError(
            "readings", f"{way} that fall towards closest focus", "the ring is read the wrong way round",
            "Count from the infinity end: 0 where it reads ∞, more as it comes closer",
        )  # fmt: skip


def _curve(
    survey: Survey, angles: FloatArray, x: FloatArray, focal_mm: float, closest_mm: float, throw_deg: float | None
) -> CurvedRing:
    nodes = _monotone_nodes(angles, x)
    ends = tuple(angle for angle, _ in nodes), tuple(extension for _, extension in nodes)
    draft = CurvedRing(focal_mm, max(ends[0][-1], 5.0), *ends)
    end = float(draft.angle_at_distance(closest_mm))
    return CurvedRing(focal_mm, throw_deg or max(end, ends[0][-1]), *ends)


def _monotone_nodes(angles: FloatArray, x: FloatArray) -> list[tuple[float, float]]:
    """Pool readings of one angle, of one distance, or out of order, until both angle and extension grow."""
    order = np.lexsort((x, angles))
    pools = [(float(angles[i]), float(x[i]), 1) for i in order]
    merged: list[tuple[float, float, int]] = []
    for pool in pools:
        merged.append(pool)
        while len(merged) > 1 and not (merged[-1][0] > merged[-2][0] + 1e-6 and merged[-1][1] > merged[-2][1] + 1e-9):
            (a1, x1, n1), (a2, x2, n2) = merged[-2], merged[-1]
            merged[-2:] = [((a1 * n1 + a2 * n2) / (n1 + n2), (x1 * n1 + x2 * n2) / (n1 + n2), n1 + n2)]
    return [(angle, extension) for angle, extension, _ in merged]
