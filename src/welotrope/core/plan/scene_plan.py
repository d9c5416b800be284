"""From named subjects to a ring setting, by the school chosen, with what is achieved and what is not."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import ConflictError
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import hyperfocal_extension
from welotrope.core.optics.thin_lens import extension_at_film_distance, film_distance_at_extension
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.plan.subjects import Placement, Subject, place_subjects
from welotrope.core.plan.zone import StopOutcome, ZonePlan, ZoneVerdict, clearest_stop, neighbouring_stops, plan_zone
from welotrope.core.units.stops import snap_stop

SUBJECT_DEPTH_MM = 1.0


class FocusSchool(StrEnum):
    """Where to put the plane for a zone."""

    MIDDLE = "middle"
    HYPERFOCAL = "hyperfocal"


class StopSchool(StrEnum):
    """Which stop to use for a zone."""

    NEEDED = "needed"
    BALANCED = "balanced"
    SMALLEST = "smallest"


@dataclass(frozen=True)
class StopRow:
    """What a stop achieves at the planned setting: limits in mm from the film plane, and each subject's place."""

    outcome: StopOutcome
    near_mm: float
    far_mm: float
    placements: tuple[Placement, ...]


@dataclass(frozen=True)
class NearestPossible:
    """What the smallest stop can hold when the whole zone cannot be: one end kept, the other given up (mm)."""

    stop: float
    near_with_far_kept_mm: float
    far_with_near_kept_mm: float


@dataclass(frozen=True)
class ScenePlan:
    """The setting for a scene and its alternatives.

    ``clearest`` is the marked stop with the least total blur at the ends and that blur in mm;
    ``nearest_possible`` is filled when no marked stop holds the zone.
    """

    zone: ZonePlan
    setting: RingSetting
    placements: tuple[Placement, ...]
    rows: tuple[StopRow, ...]
    clearest: tuple[float, float]
    nearest_possible: NearestPossible | None


def plan_scene(
    setup: Setup,
    subjects: tuple[Subject, ...],
    focus: FocusSchool = FocusSchool.MIDDLE,
    stop_rule: StopSchool = StopSchool.NEEDED,
) -> ScenePlan:
    """Plan a scene for a set-up.

    Parameters
    ----------
    setup
        The set-up in hand.
    subjects
        At least one subject; a single one is planned as itself with 1 mm of depth.
    focus, stop_rule
        The schools: focus in the middle of the zone on the ring or hyperfocal; the widest stop that holds
        the zone, the marked stop nearest the balance with diffraction, or the smallest there is.

    Raises
    ------
    ConflictError
        When there is no subject.
    TooCloseError
        When a subject is nearer than closest focus.
    """
    ring = setup.ring()
    if not subjects:
        raise ConflictError("subjects", "", "there is nothing to plan for", "Name a near and a far subject")
    for subject in subjects:
        ring.check_near(subject.distance_mm, field=f"distance of {subject.name or 'subject'}")
    near_x, far_x = _ends(setup, subjects)
    zone = plan_zone(near_x, far_x, ring.focal_mm, setup.blur_mm, setup.lens.stops)
    stop = _stop(zone, setup, stop_rule)
    focus_x = zone.focus_x
    if focus is FocusSchool.HYPERFOCAL:
        focus_x = hyperfocal_extension(ring.focal_mm, stop, setup.blur_mm)
    at_stop = setup.ring(stop)
    angle = at_stop.clamp(at_stop.angle_at_extension(focus_x))
    setting = ring_setting(setup, angle, stop)
    rows = _rows(setup, at_stop.extension_at_angle(angle), stop, subjects)
    possible = None
    if zone.verdict is ZoneVerdict.NO_STOP:
        possible = _nearest_possible(setup, near_x, far_x)
    return ScenePlan(
        zone,
        setting,
        tuple(place_subjects(subjects, setting.near_mm, setting.far_mm)),
        rows,
        clearest_stop(near_x, far_x, ring.focal_mm, setup.lens.stops),
        possible,
    )


def _ends(setup: Setup, subjects: tuple[Subject, ...]) -> tuple[float, float]:
    ring = setup.ring()
    distances = [subject.distance_mm for subject in subjects]
    near, far = min(distances), max(distances)
    if near == far:
        if near == float("inf"):
            return SUBJECT_DEPTH_MM * 1e-6, 0.0
        far = near + SUBJECT_DEPTH_MM
    near_x, far_x = (extension_at_film_distance(distance, ring.focal_mm, ring.h_mm) for distance in (near, far))
    return near_x, far_x


def _stop(zone: ZonePlan, setup: Setup, rule: StopSchool) -> float:
    if rule is StopSchool.BALANCED:
        return snap_stop(zone.balanced_stop, setup.lens.stops)
    return max(setup.lens.stops) if rule is StopSchool.SMALLEST else zone.stop_marked


def _rows(setup: Setup, focus_x: float, stop: float, subjects: tuple[Subject, ...]) -> tuple[StopRow, ...]:
    ring = setup.ring()
    rows = []
    for outcome in neighbouring_stops(focus_x, stop, ring.focal_mm, setup.blur_mm):
        near, far = (
            film_distance_at_extension(x, ring.focal_mm, ring.h_mm)
            for x in (outcome.limits.near_x, outcome.limits.far_x)
        )
        rows.append(StopRow(outcome, near, far, tuple(place_subjects(subjects, near, far))))
    return tuple(rows)


def _nearest_possible(setup: Setup, near_x: float, far_x: float) -> NearestPossible:
    ring = setup.ring()
    stop = max(setup.lens.stops)
    held = 2 * stop * setup.blur_mm
    return NearestPossible(
        stop,
        film_distance_at_extension(far_x + held, ring.focal_mm, ring.h_mm),
        film_distance_at_extension(near_x - held, ring.focal_mm, ring.h_mm),
    )
