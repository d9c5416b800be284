"""Zones to remember: adjacent ring settings of a set-up that leave no gap, and what each holds."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from welotrope.core.errors import ConflictError
from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.plan.framing import STANDING_MM, half_angle, height_seen, standing_fits_from
from welotrope.core.plan.own_measures import guess_by_hand
from welotrope.core.plan.setting import RingSetting, angle_with_far_limit, ring_setting
from welotrope.core.plan.zones import LensAt, check_overlap
from welotrope.core.stats import Proportion
from welotrope.core.units.distance import check_ends, format_metric
from welotrope.core.units.exposure import format_stop

MOST_SET = 6
_AT_END_DEG = 1e-6
_REACHED = 1.0005


@dataclass(frozen=True, kw_only=True)
class Framing:
    """What the picture holds at a distance with the lens left at its setting, mm; infinite at infinity."""

    distance_mm: float
    width_mm: float
    height_mm: float


@dataclass(frozen=True, kw_only=True)
class RememberedZone:
    """A zone to remember.

    Parameters
    ----------
    setting
        Ring angle, stop, plane and limits.
    frames
        What it frames at its near limit, its plane and its far limit.
    figure_from_mm
        From where a standing figure fits the picture held upright and level at half its height; from the film plane.
    at_end
        Whether the ring's end keeps it from being set farther in.
    """

    setting: RingSetting
    frames: tuple[Framing, ...]
    figure_from_mm: float
    at_end: bool


def lens_at(setup: Setup, stop: float) -> LensAt:
    """Return a set-up's lens at a stop, its distances from the film plane.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    stop
        F-number, 0.5 to 128.
    """
    ring = setup.ring(stop)
    return LensAt(f=ring.focal_mm, N=stop, c=setup.blur_mm, h=ring.h_mm, beyond=ring.beyond)


def remembered_zones(
    setup: Setup, stop: float, count: int, *, far_mm: float = math.inf, overlap: float = 0.0
) -> tuple[RememberedZone, ...]:
    """Return up to ``count`` zones side by side, farthest first, from ``far_mm`` inwards, within the ring's travel.

    ``overlap`` is the share of a window by which each lies over the one before, 0 to 0.9.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    stop
        F-number, 0.5 to 128.
    count
        How many.
    far_mm
        Farthest distance in mm; infinity allowed.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.
    """
    ring, lens = setup.ring(stop), lens_at(setup, stop)
    check_overlap(overlap)
    found: list[RememberedZone] = []
    for _ in range(min(count, MOST_SET)):
        angle = angle_with_far_limit(setup, far_mm, stop)
        at_end = angle >= ring.throw_deg - _AT_END_DEG
        one = ring_setting(setup, angle, stop)
        found.append(_remembered(setup, one, at_end=at_end))
        x = float(ring.extension_at_angle(angle))
        limits = lens.limits(x)
        far_mm = lens.distance_of(limits.near_x - overlap * limits.spread, x)
        if at_end:
            break
    return tuple(found)


def _remembered(setup: Setup, one: RingSetting, *, at_end: bool) -> RememberedZone:
    image = setup.body.image
    ring = setup.ring(one.stop)
    x = float(ring.extension_at_angle(one.angle_deg))
    v = ring.focal_mm + x
    frames = tuple(_framing(setup, x, mm) for mm in (one.near_mm, one.focus_mm, one.far_mm))
    upright = half_angle(max(image.width_mm, image.height_mm), v)
    figure = standing_fits_from(STANDING_MM / 2, upright) + v + ring.h_mm
    return RememberedZone(setting=one, frames=frames, figure_from_mm=figure, at_end=at_end)


def _framing(setup: Setup, x: float, distance_mm: float) -> Framing:
    if math.isinf(distance_mm):
        return Framing(distance_mm=distance_mm, width_mm=math.inf, height_mm=math.inf)
    ring, image = setup.ring(), setup.body.image
    v = ring.focal_mm + x
    scale = max(distance_mm - v - ring.h_mm, 0.0) / v
    return Framing(distance_mm=distance_mm, width_mm=image.width_mm * scale, height_mm=image.height_mm * scale)


def zones_between(
    setup: Setup, near_mm: float, far_mm: float, count: int, *, overlap: float = 0.0
) -> tuple[RememberedZone, ...]:
    """Return the zones, at the widest marked stop that does it, that cover two distances, mm, with ``count`` settings.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    count
        How many.
    overlap
        Share of a window by which neighbours overlap, 0 to 0.9.

    Raises
    ------
    ConflictError
        When near is not nearer than far, or no marked stop does it; it says what would.
    """
    check_ends(near_mm, far_mm)
    for stop in sorted(setup.lens.stops):
        found = remembered_zones(setup, stop, count, far_mm=far_mm, overlap=overlap)
        if found[-1].setting.near_mm <= near_mm * _REACHED:
            return found
    smallest = max(setup.lens.stops)
    best = remembered_zones(setup, smallest, count, far_mm=far_mm, overlap=overlap)[-1].setting.near_mm
    more = next(
        (
            n
            for n in range(count + 1, MOST_SET + 1)
            if remembered_zones(setup, smallest, n, far_mm=far_mm, overlap=overlap)[-1].setting.near_mm
            <= near_mm * _REACHED
        ),
        None,
    )
    works = f"{count} reach in to {format_metric(best)} at {format_stop(smallest)}"
    raise ConflictError(
        "near",
        format_metric(near_mm),
        f"no marked stop covers that with {count} setting{'s' if count > 1 else ''}",
        f"{works}; {more} settings would do it" if more else f"{works}, and more settings do not come nearer",
    )


@dataclass(frozen=True, kw_only=True)
class GuessRow:
    """A subject believed at a distance: which zone it takes and the chance that it is sharp there."""

    believed_mm: float
    zone: int
    chance: Proportion


def guess_rows(
    zones: tuple[RememberedZone, ...], believed_mm: Iterable[float], share: float, hand: SkillEstimate
) -> tuple[GuessRow, ...]:
    """Return, for subjects believed at distances, mm, the best zone and the chance for a hand counted in ``share``.

    Parameters
    ----------
    zones
        Zones to remember.
    believed_mm
        Distances in mm as they are believed to be.
    share
        Share of the distance, that the hand's scores are counted in.
    hand
        What is known of the photographer's hand.
    """
    rows = []
    for mm in believed_mm:
        chances = [guess_by_hand(mm, zone.setting.near_mm, zone.setting.far_mm, share, hand) for zone in zones]
        best = max(range(len(chances)), key=lambda index: chances[index].share)
        rows.append(GuessRow(believed_mm=mm, zone=best + 1, chance=chances[best]))
    return tuple(rows)


@dataclass(frozen=True, kw_only=True)
class SchoolRow:
    """What a school makes of the same number of zones: its stop, standard, and where the nearest zone begins, mm."""

    school: str
    cost: str
    stop: float
    blur_mm: float
    near_mm: float


def school_rows(setup: Setup, stop: float, count: int, far_mm: float) -> tuple[SchoolRow, ...]:
    """Return what the schools of stop and of standard make of zones from ``far_mm``, mm, inwards.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    stop
        F-number, 0.5 to 128.
    count
        How many.
    far_mm
        Farthest distance in mm; infinity allowed.
    """
    stops = sorted(setup.lens.stops)
    middle = setup.lens.best_stop or min(stops, key=lambda one: abs(math.log2(one / 8)))
    standards = [SharpnessStandard(kind=kind) for kind in (Standard.PRINT, Standard.FILM)]
    if setup.body.image.pitch_mm is not None:
        standards.append(SharpnessStandard(kind=Standard.PIXEL))
    cases = [
        ("the lens’s sharpest aperture", "sharpest at the focus distance; least depth of field", setup, middle),
        ("smallest aperture", "most depth of field; costs light, and diffraction softens everything", setup, stops[-1]),
        *((f"{one.kind.value} criterion", one.kind.cost, replace(setup, standard=one), stop) for one in standards),
    ]
    by_stop_and_standard = tuple(
        SchoolRow(
            school=school,
            cost=cost,
            stop=at,
            blur_mm=made.blur_mm,
            near_mm=remembered_zones(made, at, count, far_mm=far_mm)[-1].setting.near_mm,
        )
        for school, cost, made, at in cases
    )
    return (*by_stop_and_standard, _horizon_row(setup, stop, count))


def _horizon_row(setup: Setup, stop: float, count: int) -> SchoolRow:
    """Return the school that focuses on the horizon itself and takes what is left for the nearer zones."""
    ring = setup.ring(stop)
    first = ring_setting(setup, ring.clamp(ring.infinity_deg), stop)
    rest = remembered_zones(setup, stop, count - 1, far_mm=first.near_mm) if count > 1 else ()
    near = rest[-1].setting.near_mm if rest else first.near_mm
    cost = "sharpest at the horizon, for landscapes and stars; the far zone begins twice as far away"
    return SchoolRow(school="focus on the horizon", cost=cost, stop=stop, blur_mm=setup.blur_mm, near_mm=near)


@dataclass(frozen=True, kw_only=True)
class WaistView:
    """What a camera at the waist sees at a distance, mm above the ground, and from where a standing figure fits.

    ``upright`` for the picture held upright; distances from the film plane, infinite where a figure never fits.
    """

    tilt_deg: float
    upright: bool
    low_mm: float
    high_mm: float
    figure_from_mm: float


def waist_views(
    setup: Setup, zone: RememberedZone, camera_mm: float, *, tilts_deg: Iterable[float] = (0.0, 10.0)
) -> tuple[WaistView, ...]:
    """Return what is seen from ``camera_mm`` above the ground at a zone's plane, level and tilted by degrees.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    zone
        The zone.
    camera_mm
        Height of the camera above the ground in mm.
    tilts_deg
        Tilts of the camera in degrees.
    """
    image, one = setup.body.image, zone.setting
    ring = setup.ring(one.stop)
    v = ring.focal_mm + float(ring.extension_at_angle(one.angle_deg))
    before = v + ring.h_mm
    rows = []
    for upright in (False, True):
        side = max(image.width_mm, image.height_mm) if upright else min(image.width_mm, image.height_mm)
        half = half_angle(side, v)
        for tilt in tilts_deg:
            plane = max((one.focus_mm if math.isfinite(one.focus_mm) else one.near_mm) - before, 1.0)
            seen = height_seen(camera_mm, plane, half, tilt_deg=tilt)
            figure = standing_fits_from(camera_mm, half, tilt_deg=tilt) + before
            rows.append(
                WaistView(
                    tilt_deg=tilt, upright=upright, low_mm=seen.low_mm, high_mm=seen.high_mm, figure_from_mm=figure
                )
            )
    return tuple(rows)
