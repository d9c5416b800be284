"""An aid that is off near and far: whether it is off by one amount on the film, or by more the nearer the subject.

A ground glass or sensor that stands wrong, and a rangefinder out of line, are off by the same amount on the film at
every distance. A cam that does not fit the lens is off in proportion to how far the lens is moved out, and so by
hardly anything far away.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.hand.focus_sample import ShownBy
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import shown_by
from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.aid_series import AidReading, AidVerdictFound, MeasuredShot, read_aid
from welotrope.core.testshot.plane_reading import WIDE

_LEAST_RATIO = 1.5  # of two distances that can tell the causes apart


class AidFault(StrEnum):
    """How an aid is off."""

    SETTING = "setting"
    CAM = "cam"


@dataclass(frozen=True, kw_only=True)
class DistantReading:
    """What a series told at a distance, mm from the film: how far off on the film, mm, and its standard error."""

    distance_mm: float
    film_mm: float
    error_mm: float


@dataclass(frozen=True, kw_only=True)
class ToldApart:
    """What two series tell together; ``fault`` is None where both explanations are left, or neither.

    ``film_mm`` to ``high_mm`` is how far off it is on the film at all distances, with its 95 % interval, for a setting;
    positive, focus falls behind.
    """

    fault: AidFault | None
    near_mm: float
    far_mm: float
    film_mm: float = 0.0
    low_mm: float = 0.0
    high_mm: float = 0.0


def distant_reading(reading: AidReading, distance_mm: float) -> DistantReading:
    """Return what a series at a distance, mm, told on the film, mm."""
    return DistantReading(
        distance_mm=distance_mm, film_mm=reading.film_mm,
        error_mm=abs(reading.high_film_mm - reading.low_film_mm) / (2 * WIDE),
    )  # fmt: skip


def readings_at_distances(
    setup: Setup, aid: str, series: Iterable[Sequence[MeasuredShot]], *, eye: Eye = AVERAGE_EYE
) -> list[DistantReading]:
    """Return what each of several series with an aid told, at its mean distance, mm; without those with too few."""
    found = []
    for shots in series:
        counted = [shot for shot in shots if shot.counts]
        reading = read_aid(setup, aid, counted, eye=eye)
        if reading.verdict is not AidVerdictFound.FEW:
            mean = sum(shot.distance_mm or 0.0 for shot in counted) / len(counted)
            found.append(distant_reading(reading, mean))
    return found


def told_by_series(
    setup: Setup, aid: str, shots: Iterable[tuple[str, MeasuredShot]], *, eye: Eye = AVERAGE_EYE
) -> ToldApart | None:
    """Return what shots with an aid, each with the key of its series, tell near and far; None as :func:`told_apart`."""
    by_series: dict[str, list[MeasuredShot]] = {}
    for series, shot in shots:
        by_series.setdefault(series, []).append(shot)
    return told_apart(readings_at_distances(setup, aid, by_series.values(), eye=eye))


def told_apart(readings: Sequence[DistantReading]) -> ToldApart | None:
    """Return what the nearest and the farthest of some series tell together.

    None with fewer than two, or where their distances are too alike to tell anything.
    """
    if len(readings) < 2:
        return None
    near, far = min(readings, key=lambda one: one.distance_mm), max(readings, key=lambda one: one.distance_mm)
    if far.distance_mm < _LEAST_RATIO * near.distance_mm:
        return None
    alike = abs(near.film_mm - far.film_mm) <= WIDE * math.hypot(near.error_mm, far.error_mm)
    grows = near.distance_mm / far.distance_mm  # of what a cam would be off, far over near
    in_step = abs(far.film_mm - grows * near.film_mm) <= WIDE * math.hypot(far.error_mm, grows * near.error_mm)
    fault = None if alike == in_step else AidFault.SETTING if alike else AidFault.CAM
    weights = [1 / max(one.error_mm, 1e-9) ** 2 for one in (near, far)]
    mean = (weights[0] * near.film_mm + weights[1] * far.film_mm) / sum(weights)
    wide = WIDE / math.sqrt(sum(weights))
    return ToldApart(
        fault=fault, near_mm=near.distance_mm, far_mm=far.distance_mm, film_mm=mean, low_mm=mean - wide,
        high_mm=mean + wide,
    )  # fmt: skip


def fault_sentence(told: ToldApart, aid: str) -> str:
    """Return what two series say of an aid, in one or two sentences."""
    by = shown_by(aid)
    if told.fault is None:
        return (
            "Near and far do not tell the causes apart yet: take more pictures at both, or with more distance between "
            "them."
        )
    if told.fault is AidFault.CAM and by is ShownBy.RANGEFINDER:
        return (
            "It is off in proportion to how far the lens is moved out: the cam and this lens do not agree. "
            "Another lens may be right on this camera."
        )
    if told.fault is AidFault.CAM:
        return "It is off more the nearer the subject, which no fault of the camera explains. Look at how you focus."
    amount = f"{abs(told.film_mm):.3f} mm ({_range(told)})"
    if by is ShownBy.RANGEFINDER:
        return f"It is off alike near and far, by {amount} on the film: the rangefinder itself is out of line."
    if by is ShownBy.SCREEN:
        side, cure = ("far from", "nearer to") if told.film_mm > 0 else ("near to", "away from")
        return (
            f"It is off alike near and far: the ground glass stands {amount} too {side} the lens. A repairer shims it "
            f"by {abs(told.film_mm):.2f} mm, {cure} the lens."
        )
    return f"It is off alike near and far, by {amount} on the film: what shows focus does not stand where the film is."


def _range(told: ToldApart) -> str:
    """Return the interval without its sign, such as "0.03 to 0.05 mm"."""
    low, high = sorted((abs(told.low_mm), abs(told.high_mm)))
    low = 0.0 if told.low_mm * told.high_mm < 0 else low
    return f"{low:.3f} to {high:.3f} mm"
