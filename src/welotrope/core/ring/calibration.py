"""From readings to a ring: its lead and where infinity lies, how sure both are, and which reading is off.

A plain helicoid makes ring angle a straight line over extension, once the separation ``h`` of the principal planes
is right; a lens that focuses internally bends it. ``ring.ring_fit`` weighs both against the readings; here the weights
become a ring, an answer of its kind, and a word on what to read when they cannot decide.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from welotrope.core.errors import ConflictError
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.optics.thin_lens import extension_at_film_distance, extension_at_object_distance
from welotrope.core.ring.curved_ring import CurvedRing
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.helicoid import Helicoid, check_lead
from welotrope.core.ring.ring_fit import H_PRIOR, Readings, RingFit, fit_ring
from welotrope.core.ring.survey import MeasuredFrom, ReadingUnit, ReadingUse, Survey

# A kind is stated when the other has no more than this chance.
_DOUBT_HELICOID, _DOUBT_CURVED = 0.05, 0.03
# Planes far apart and a gentle curve look alike: a bow of this share of the throw may be either.
_BOW_SHARE, _LEAST_BOW_DEG = 0.0125, 1.0
# What must be believed of a reading before it is named: on a straight ring, on a curved one, and on one that may be
# curved and has few readings, where a wrong one bends the curve and accuses its neighbour.
_NAMED, _NAMED_ON_CURVE = 0.5, 0.95
_FEW, _NAMED_OF_FEW = 8, 0.98
_LEAST_TO_STATE = 5
_H_LEARNED = 0.6
_ROUND_MM = (250, 300, 350, 400, 450, 500, 600, 700, 800, 1000, 1200, 1500, 2000, 2500, 3000, 4000, 5000, 7000, 10000)


class Model(StrEnum):
    """What kind of ring the readings show."""

    HELICOID = "helicoid"
    CURVED = "curved"
    UNDECIDED = "undecided"


@dataclass(frozen=True, kw_only=True)
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
        """How far the reading lies from where it belongs, degrees; positive towards closest focus."""
        return self.angle_deg - self.expected_deg


@dataclass(frozen=True, kw_only=True)
class Calibration:
    """A ring worked out from a survey.

    Parameters
    ----------
    model
        Plain helicoid, curve, or not to be told yet.
    ring
        The ring; extension is counted from where the readings put infinity.
    lead_mm, lead_low_mm, lead_high_mm
        Mean lead from infinity to the nearest reading and the ends of its 95 % interval, mm a turn; the upper end is
        infinite when the readings do not bound it.
    infinity_deg, infinity_half_deg
        Where infinity lies on the ring and the half-width of its 95 % interval, degrees.
    h_mm, h_half_mm
        Separation of the principal planes that the readings show and the half-width of its 95 % interval, mm; None
        where they cannot show it.
    rms_deg
        Root mean square of the used readings about the ring, degrees.
    residuals
        Every reading, in order of the survey.
    to_read_mm
        Distances that would decide between kinds when the model is undecided, mm from the film plane.
    fit
        What is believed of the ring.
    """

    model: Model
    ring: FocusRing
    lead_mm: float
    lead_low_mm: float
    lead_high_mm: float
    infinity_deg: float
    infinity_half_deg: float
    h_mm: float | None
    h_half_mm: float | None
    rms_deg: float
    residuals: tuple[Residual, ...]
    to_read_mm: tuple[float, ...]
    fit: RingFit

    @property
    def outliers(self) -> tuple[Residual, ...]:
        """The readings found not to belong, worst first."""
        return tuple(sorted((r for r in self.residuals if r.outlier), key=lambda r: -abs(r.off_deg)))

    @property
    def used(self) -> int:
        """How many readings counted."""
        return sum(residual.used for residual in self.residuals)

    def half_deg(self, distance_mm: float) -> float:
        """Half-width in degrees of the 95 % interval of the setting for a film-plane distance."""
        low, high = self.fit.angle_at(distance_mm).interval()
        return (high - low) / 2


@functools.lru_cache(maxsize=128)
def calibrate(
    survey: Survey,
    focal_mm: float,
    closest_mm: float,
    *,
    throw_deg: float | None = None,
    h_mm: float | None = None,
    beyond: bool = False,
    shortens: bool = False,
) -> Calibration:
    """Work out a ring from its readings.

    Parameters
    ----------
    survey
        The readings.
    focal_mm, closest_mm
        Marked focal length, and closest focus from the film plane, mm.
    throw_deg
        Travel when it is known otherwise; else the survey's end, else where the fit puts closest focus.
    h_mm
        Separation of the principal planes when it is known; else the readings are asked for it.
    beyond
        Whether the lens works beyond life size.
    shortens
        Whether the lens is known to focus internally: its ring is then a curve whatever the readings look like.

    Raises
    ------
    ConflictError
        When the angle does not grow towards closest focus, or too few readings are left in.
    WelotropeError
        When a distance cannot be focused, or no helicoid has the lead found.
    """
    distances = survey.film_distances(focal_mm, h_mm=h_mm or 0.0)
    survey.check_near(distances, closest_mm)
    readings = _readings(survey, distances, focal_mm, h_mm, beyond)
    kept, named = _sift(survey, readings)
    fit = fit_ring(readings.without(set(range(len(distances))) - set(kept)))
    _check_direction(fit, survey)
    h, h_sd = fit.h_known()
    model = _model(fit, h, h_sd, shortens=shortens)
    believed = fit.even() if model is Model.UNDECIDED else fit
    if survey.end is not None:
        throw_deg = survey.end_deg
    curved = model is Model.CURVED or (model is Model.UNDECIDED and fit.chance_curved > 0.5)
    ring: FocusRing
    if curved:
        ring = _curve(survey, readings, kept, believed, closest_mm, throw_deg)
    else:
        ring = _helicoid(
            fit, h, closest_mm, throw_deg, from_principal=survey.start is MeasuredFrom.PRINCIPAL, beyond=beyond
        )
    own_h = ring.h_mm
    x = readings.extensions(distances, own_h)
    expected = np.asarray(ring.angle_at_extension(x))
    if curved:  # a curve goes through what counts; what does not is held against what is believed
        expected = np.array([float(e) if i in kept else fit.angle_at(d, curved=True).mean
                             for i, (e, d) in enumerate(zip(expected, distances, strict=True))])  # fmt: skip
    residuals = tuple(
        Residual(
            index=i,
            angle_deg=float(readings.angles_deg[i]),
            expected_deg=float(expected[i]),
            extension_mm=float(x[i]),
            outlier=i in named,
            used=i in kept,
        )
        for i in range(len(distances))
    )
    low, high = believed.slope.interval()
    near, far = believed.infinity_deg.interval()
    learned = h_mm is None and survey.start is not MeasuredFrom.PRINCIPAL and h_sd < _H_LEARNED * H_PRIOR * focal_mm
    stated = learned and model is not Model.CURVED
    return Calibration(
        model=model, ring=ring,
        lead_mm=check_lead(ring.lead_mm if isinstance(ring, Helicoid) else 360 / believed.slope.mean),
        lead_low_mm=360 / high, lead_high_mm=360 / low if low > 0 else math.inf, infinity_deg=ring.infinity_deg,
        infinity_half_deg=max(abs(near - ring.infinity_deg), abs(far - ring.infinity_deg), (far - near) / 2),
        h_mm=h if stated else None, h_half_mm=1.96 * h_sd if stated else None,
        rms_deg=math.sqrt(float(np.mean((readings.angles_deg - expected)[kept] ** 2))), residuals=residuals,
        to_read_mm=_to_read(fit, closest_mm) if model is Model.UNDECIDED else (), fit=believed,
    )  # fmt: skip


def _readings(survey: Survey, distances: FloatArray, focal_mm: float, h_mm: float | None, beyond: bool) -> Readings:
    return Readings(
        angles_deg=survey.angles_deg(), distances_mm=distances, angle_error_deg=survey.error_deg,
        distance_errors_mm=survey.distance_errors(distances), focal_mm=focal_mm,
        angle_error_told=survey.error is not None, distance_error_told=survey.distance_error is not None,
        from_film=survey.start is not MeasuredFrom.PRINCIPAL, h_mm=h_mm, beyond=beyond,
        may_be_gross=tuple(point.use is not ReadingUse.DROP for point in survey.points),
    )  # fmt: skip


def _sift(survey: Survey, readings: Readings) -> tuple[list[int], set[int]]:
    """Return the readings that count and those found not to belong, at most a third of them."""
    dropped = {i for i, point in enumerate(survey.points) if point.use is ReadingUse.DROP}
    judged = [i for i in range(len(survey.points)) if i not in dropped]
    if len(judged) < 2:
        raise ConflictError("readings", f"{len(judged)} left in", "two at least must count", "Put one back in")
    _check_spread(readings.distances_mm[judged])
    named: set[int] = set()
    for _ in range(max(len(judged) // 3, 1)):
        left = [i for i in judged if i not in named]
        fit = fit_ring(readings.without(dropped | named))
        chances = [fit.chance_gross(place) for place in range(len(left))]
        worst = int(np.argmax(chances))
        if chances[worst] <= _belief_to_name(fit.chance_curved, len(left)):
            break
        named.add(left[worst])
    kept = [i for i in judged if i not in named or survey.points[i].use is ReadingUse.KEEP]
    return kept, named


def _belief_to_name(chance_curved: float, count: int) -> float:
    """Return the chance of being gross from which one of so many readings is named."""
    if count < _FEW:
        return _NAMED + (_NAMED_OF_FEW - _NAMED) * min(2 * chance_curved, 1.0)
    return _NAMED + (_NAMED_ON_CURVE - _NAMED) * chance_curved


def _model(fit: RingFit, h: float, h_sd: float, *, shortens: bool) -> Model:
    """State a kind only when the other is next to impossible; planes far apart look like a gentle curve."""
    count = len(fit.readings.angles_deg)
    if shortens and count >= 3:
        return Model.CURVED
    if count < _LEAST_TO_STATE:  # with so few, one bad reading and a curve look alike
        return Model.UNDECIDED
    if fit.chance_curved > 1 - _DOUBT_CURVED:
        return Model.CURVED
    bow = (abs(h) + 1.96 * h_sd) * fit.bow_per_h()
    allowed = max(_LEAST_BOW_DEG, _BOW_SHARE * float(np.ptp(fit.readings.angles_deg)))
    return Model.HELICOID if fit.chance_curved < _DOUBT_HELICOID and bow < allowed else Model.UNDECIDED


def _check_spread(distances: FloatArray) -> None:
    if len(set(distances.tolist())) < 2:
        raise ConflictError("readings", "one distance", "all that count are at one distance", "Put another back in")


def _check_direction(fit: RingFit, survey: Survey) -> None:
    if fit.slope.mean <= 0:
        way = "steps" if survey.way is ReadingUnit.STEPS else "degrees"
        raise ConflictError(
            "readings", f"{way} that fall towards closest focus", "the ring is read the wrong way round",
            "Count from the infinity end: 0 where it reads ∞, more as it comes closer",
        )  # fmt: skip


def _helicoid(
    fit: RingFit, h: float, closest_mm: float, throw_deg: float | None, *, from_principal: bool, beyond: bool
) -> Helicoid:
    f = fit.readings.focal_mm
    infinity, slope = fit.line_at(h)
    lead = check_lead(360 / slope)
    if throw_deg is None:
        if from_principal:
            x = float(extension_at_object_distance(closest_mm, f))
        else:
            x = float(extension_at_film_distance(max(closest_mm, 4 * f + h), f, h=h, beyond=beyond))
        throw_deg = infinity + slope * x
    return Helicoid(focal_mm=f, lead_mm=lead, throw_deg=throw_deg, h_mm=h, start_mm=-infinity / slope, beyond=beyond)


def _curve(
    survey: Survey, readings: Readings, kept: Sequence[int], fit: RingFit, closest_mm: float, throw_deg: float | None
) -> CurvedRing:
    """Go through the readings that count, infinity where all of them together put it."""
    h = fit.own_h_mm
    x = readings.extensions(readings.distances_mm, h)
    near = [i for i in kept if x[i] > 0]
    angles = np.append(readings.angles_deg[near], fit.infinity_deg.mean)
    nodes = _monotone_nodes(angles, np.append(x[near], 0.0))
    ends = tuple(angle for angle, _ in nodes), tuple(extension for _, extension in nodes)
    last = max(ends[0][-1], 5.0)
    draft = CurvedRing(
        focal_mm=readings.focal_mm, throw_deg=last, angles_deg=ends[0], extensions_mm=ends[1], h_mm=h,
    )  # fmt: skip
    closest = max(closest_mm, 4 * readings.focal_mm + h)
    end = last if survey.start is MeasuredFrom.PRINCIPAL else float(draft.angle_at_distance(closest))
    return replace(draft, throw_deg=throw_deg or max(end, last))


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


def _to_read(fit: RingFit, closest_mm: float) -> tuple[float, ...]:
    """Return the two round distances, not read yet, at which straight and curved rings differ most."""
    read = fit.readings.distances_mm
    reach = [mm for mm in _ROUND_MM if mm >= closest_mm * 0.999]
    fresh = [mm for mm in reach if float(np.min(np.abs(read / mm - 1))) > 0.06] or reach
    apart = {mm: abs(fit.angle_at(mm, curved=False).mean - fit.angle_at(mm, curved=True).mean) for mm in fresh}
    return tuple(sorted(sorted(apart, key=lambda mm: -apart[mm])[:2]))
