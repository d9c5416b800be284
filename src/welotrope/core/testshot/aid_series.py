"""Test shots with one aid: how far it is off, near and far, how it scatters, how many more pictures would tell."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.hand.evidence import ShownBy
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import shown_by
from welotrope.core.kit.setup import Setup
from welotrope.core.review.evidence import EvidenceFrame, evidence_of
from welotrope.core.review.outcomes import Outcome
from welotrope.core.stats import mean_interval
from welotrope.core.testshot.plane_reading import WIDE

LEAST_SHOTS, MOST_SHOTS = 3, 10
_NEVER_MORE_STEADY = 0.1  # of what the aid shows: scatter that few shots may not go below
_SCREEN = (
    "Most likely the ground glass does not stand as far from the lens as the film. It is then off by the same amount "
    "on the film at every distance: take a second series far away to be sure. A repairer shims the screen.",
)
_PICTURE = (
    "You see the picture itself, so the aid cannot be off. Look for focus shift between the stop you focus at and the "
    "one you take at, or for a habit of stopping on one side.",
)
_CAUSES: dict[ShownBy, tuple[str, ...]] = {
    ShownBy.RANGEFINDER: (
        "Most likely the rangefinder is out of line, or its cam and the lens do not agree. Take a second series far "
        "away: off as much near and far in the window, it is its own setting; off differently, it is the cam.",
        "A rangefinder is set by a qualified repairer. Until then, correct by what is said here.",
    ),
    ShownBy.SCREEN: _SCREEN,
    ShownBy.LAMP: (
        "Most likely the indicator’s sensor does not stand where the film or sensor is. It is then off by the same "
        "amount on the film at every distance.",
    ),
    ShownBy.SCALE: (
        "The scale does not say where the lens focuses: an adapter that is too thin or thick, or a ring that was set "
        "wrong. Measure the ring under Scale.",
    ),
    ShownBy.PICTURE: _PICTURE,
    ShownBy.PEAKS: _PICTURE,
    ShownBy.OTHER: (),
}
_LEAST_RATIO = 1.5  # of two distances that can tell the causes apart


@dataclass(frozen=True, kw_only=True)
class MeasuredShot:
    """What a picture of the slope sheet told; mm.

    Parameters
    ----------
    picture
        Name of its file.
    stop, distance_mm
        f-number, and from the film to the mark; None where the picture does not tell.
    plane_mm, low_mm, high_mm
        Where the plane fell, behind the mark (+) or before it (-), with its 95 % interval.
    tilt_deg
        How the plane leans, degrees.
    mark, line
        Where mark and plane lie in the picture, as shares of its width and height.
    warnings
        Why it is not counted; empty for one that is.
    """

    picture: str
    stop: float
    distance_mm: float | None = None
    plane_mm: float | None = None
    low_mm: float | None = None
    high_mm: float | None = None
    tilt_deg: float | None = None
    mark: tuple[float, float] | None = None
    line: tuple[tuple[float, float], tuple[float, float]] | None = None
    warnings: tuple[str, ...] = ()

    @property
    def counts(self) -> bool:
        """Whether it says where focus fell, without a doubt."""
        return self.plane_mm is not None and self.distance_mm is not None and not self.warnings


class AidVerdictFound(StrEnum):
    """What test shots with an aid say of it."""

    FEW = "few"
    RIGHT = "right"
    OFF = "off"
    OPEN = "open"


@dataclass(frozen=True, kw_only=True)
class AidReading:
    """How an aid is off, in all pictures of a series that count.

    Parameters
    ----------
    verdict
        What can be said: too few pictures, right within half a window, off one way, or still open.
    count
        Pictures that count.
    bias_mm, low_mm, high_mm
        Where focus falls on the mean, behind the mark (+), mm before the lens, with its 95 % interval.
    film_mm, low_film_mm, high_film_mm
        The same on the film, mm.
    bias_deg, bias_windows
        The same as degrees of ring, and in halves of the sharp window.
    low_windows, high_windows
        Its interval in halves of the window.
    scatter_windows
        The standard deviation from shot to shot, in halves of the window.
    more
        How many more pictures would about settle it; 0 when it is settled.
    """

    verdict: AidVerdictFound
    count: int
    bias_mm: float = 0.0
    low_mm: float = 0.0
    high_mm: float = 0.0
    film_mm: float = 0.0
    low_film_mm: float = 0.0
    high_film_mm: float = 0.0
    bias_deg: float = 0.0
    bias_windows: float = 0.0
    low_windows: float = 0.0
    high_windows: float = 0.0
    scatter_windows: float = 0.0
    more: int = LEAST_SHOTS


def as_frame(shot: MeasuredShot, aid: str, taken_at: dt.datetime, *, id: int = 0, link: str = "") -> EvidenceFrame:
    """Return a shot that counts as a frame whose miss is known, mm; with its key and where it is shown.

    Parameters
    ----------
    shot
        A measured picture.
    aid
        Name of the aid, or its tag.
    taken_at
        When it was taken.
    id
        Key of the record.
    link
        Address of the page that shows it.
    """
    plane = shot.plane_mm or 0.0
    return EvidenceFrame(
        id=id, aid=aid, technique="", light="", stop=shot.stop, distance_mm=shot.distance_mm or math.inf, focal_mm=None,
        outcome=Outcome.BEHIND if plane > 0 else Outcome.FRONT, miss_mm=abs(plane), taken_at=taken_at,
        outing="test shots", link=link,
    )  # fmt: skip


def read_aid(setup: Setup, aid: str, shots: Sequence[MeasuredShot], *, eye: Eye = AVERAGE_EYE) -> AidReading:
    """Return what a series of test shots with one aid tells.

    Parameters
    ----------
    setup, aid
        What they were taken with, and the key of the aid they were focused with.
    shots
        The pictures, in any order; those with a warning are left out.
    eye
        Constants of the eye, for what the aid can show.
    """
    counted = [shot for shot in shots if shot.counts]
    found = evidence_of(setup, [as_frame(shot, aid, dt.datetime.min) for shot in counted], eye=eye)
    errors = [one.half_window_errors for one in found if one.error_mm is not None]
    if len(errors) < LEAST_SHOTS:
        return AidReading(verdict=AidVerdictFound.FEW, count=len(errors), more=LEAST_SHOTS - len(errors))
    shown = found[0].shown
    told = _NEVER_MORE_STEADY * shown.defocus_mm / shown.half_mm
    bias, wide = mean_interval(errors, told)
    scatter = math.sqrt(sum((one - bias) ** 2 for one in errors) / (len(errors) - 1))
    # mm before the lens for half a window: of the shots themselves, so that it is that of their distance.
    planes = [shot.plane_mm or 0.0 for shot in counted]
    per_window = _slope(errors, planes)
    verdict = _verdict(bias, wide)
    more = 0 if verdict is not AidVerdictFound.OPEN else _more(len(errors), scatter, wide)
    return AidReading(
        verdict=verdict, count=len(errors), bias_mm=bias * per_window, low_mm=(bias - wide) * per_window,
        high_mm=(bias + wide) * per_window, film_mm=bias * shown.half_mm, low_film_mm=(bias - wide) * shown.half_mm,
        high_film_mm=(bias + wide) * shown.half_mm, bias_deg=bias * shown.half_mm * shown.degrees_per_defocus,
        bias_windows=bias, low_windows=bias - wide, high_windows=bias + wide, scatter_windows=scatter, more=more,
    )  # fmt: skip


def _slope(errors: Sequence[float], planes: Sequence[float]) -> float:
    """Return mm before the lens for half a window, from shots of both."""
    weight = sum(error * error for error in errors)
    return sum(error * plane for error, plane in zip(errors, planes, strict=True)) / weight if weight > 0 else 0.0


def _verdict(bias: float, wide: float) -> AidVerdictFound:
    if abs(bias) > wide and abs(bias) > 0.25:
        return AidVerdictFound.OFF
    return AidVerdictFound.RIGHT if abs(bias) + wide < 1.0 else AidVerdictFound.OPEN


def _more(count: int, scatter: float, wide: float) -> int:
    """Return how many more shots would bring the interval within half a half window, most of ten in all."""
    wanted = math.ceil(count * (max(wide, 0.5) / 0.5) ** 2) if scatter > 0 else count + 1
    return max(min(wanted, MOST_SHOTS) - count, 0)


def aid_headline(reading: AidReading, name: str) -> str:
    """Return what a series with an aid, by its name, told, in one line; mm before the lens.

    Parameters
    ----------
    reading
        What the series told.
    name
        Name of the aid.
    """
    if reading.verdict is AidVerdictFound.OFF:
        side = "behind" if reading.bias_mm > 0 else "in front"
        return f"With the {name.lower()} focus falls {abs(reading.bias_mm):.1f} mm {side}"
    if reading.verdict is AidVerdictFound.RIGHT:
        return f"The {name.lower()} is right: no bias that matters in {reading.count} pictures"
    return f"{reading.count} picture{'' if reading.count == 1 else 's'} measured, not settled yet"


def likely_causes(reading: AidReading, aid: str) -> tuple[str, ...]:
    """Return what an aid that is off may be and what would tell, in sentences; none where it is not off.

    Parameters
    ----------
    reading
        What the series told.
    aid
        Name of the aid, or its tag.
    """
    return _CAUSES[shown_by(aid)] if reading.verdict is AidVerdictFound.OFF else ()


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
    """Return what a series at a distance, mm, told on the film, mm.

    Parameters
    ----------
    reading
        What the series told.
    distance_mm
        Distance in mm; infinity allowed.
    """
    return DistantReading(
        distance_mm=distance_mm, film_mm=reading.film_mm,
        error_mm=abs(reading.high_film_mm - reading.low_film_mm) / (2 * WIDE),
    )  # fmt: skip


def readings_at_distances(
    setup: Setup, aid: str, series: Iterable[Sequence[MeasuredShot]], *, eye: Eye = AVERAGE_EYE
) -> list[DistantReading]:
    """Return what each of several series with an aid told, at its mean distance, mm; without those with too few.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    aid
        Name of the aid, or its tag.
    series
        Measured pictures of each series.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
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
    """Return what shots with an aid, each with the key of its series, tell near and far; None as :func:`told_apart`.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    aid
        Name of the aid, or its tag.
    shots
        Measured pictures, each with the key of its series.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    by_series: dict[str, list[MeasuredShot]] = {}
    for series, shot in shots:
        by_series.setdefault(series, []).append(shot)
    return told_apart(readings_at_distances(setup, aid, by_series.values(), eye=eye))


def told_apart(readings: Sequence[DistantReading]) -> ToldApart | None:
    """Return what the nearest and the farthest of some series tell together.

    None with fewer than two, or where their distances are too alike to tell anything.

    Parameters
    ----------
    readings
        What series at several distances told.
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
    """Return what two series say of an aid, in one or two sentences.

    Parameters
    ----------
    told
        What the series near and far tell together.
    aid
        Name of the aid, or its tag.
    """
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
