"""From named subjects to a ring setting, by the school chosen, with what is achieved and what is not."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import ConflictError
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import FilmZone, extension_with_limit
from welotrope.core.plan.setting import (
    Placement,
    RingSetting,
    Subject,
    angle_with_far_limit,
    hyperfocal_angle,
    place_subjects,
    ring_setting,
)
from welotrope.core.plan.zone import (
    StopOutcome,
    ZonePlan,
    ZoneVerdict,
    clearest_stop,
    neighbouring_stops,
    plan_film_zone,
    plan_zone,
)
from welotrope.core.ring.window import ring_zone
from welotrope.core.units.exposure import snap_stop

SUBJECT_DEPTH_MM = 1.0
_SAME_STOP = 0.03


class FocusSchool(StrEnum):
    """Where to put the plane for a zone."""

    MIDDLE = "middle"
    HYPERFOCAL = "hyperfocal"
    FAR_MARK = "far mark"

    @property
    def label(self) -> str:
        """What it is called."""
        return {
            "middle": "Middle of the zone", "hyperfocal": "Hyperfocal", "far mark": "Farthest subject on the far mark",
        }[self.value]  # fmt: skip

    @property
    def cost(self) -> str:
        """What it gives and what it takes."""
        return {
            "middle": "near and far equally sharp; allows the widest aperture",
            "hyperfocal": "sharp to the horizon; less sharpness in the foreground",
            "far mark": "the farthest subject is just sharp; the near mark shows the near limit",
        }[self.value]


class StopSchool(StrEnum):
    """Which stop to use for a zone."""

    NEEDED = "needed"
    BALANCED = "balanced"
    SMALLEST = "smallest"
    OWN = "own"

    @property
    def label(self) -> str:
        """What it is called."""
        return {
            "needed": "Widest aperture for the zone", "balanced": "Balance of defocus and diffraction",
            "smallest": "Smallest aperture", "own": "A stop I choose",
        }[self.value]  # fmt: skip

    @property
    def cost(self) -> str:
        """What it gives and what it takes."""
        return {
            "needed": "most light; near and far just within the criterion",
            "balanced": "near and far become sharper; costs light",
            "smallest": "most depth of field; costs the most light, and diffraction softens everything",
            "own": "for a given light; shows what is not sharp",
        }[self.value]


@dataclass(frozen=True)
class ApertureRow:
    """What a stop achieves at the planned setting: its zone in front of the film, and each subject's place."""

    outcome: StopOutcome
    zone: FilmZone
    placements: tuple[Placement, ...]

    @property
    def near_mm(self) -> float:
        """Near limit, mm from the film plane."""
        return self.zone.near_mm

    @property
    def far_mm(self) -> float:
        """Far limit, mm from the film plane."""
        return self.zone.far_mm


@dataclass(frozen=True)
class NearestPossible:
    """What the smallest stop can hold when the whole zone cannot be: one end kept, the other given up (mm)."""

    stop: float
    near_with_far_kept_mm: float
    far_with_near_kept_mm: float


@dataclass(frozen=True, kw_only=True)
class ScenePlan:
    """The setting for a scene and its alternatives.

    ``clearest`` is the marked stop with the least total blur at the ends and that blur in mm;
    ``nearest_possible`` is filled when no marked stop holds the zone. ``slack_deg`` is how far the ring may be off,
    towards infinity and towards closest focus, before an end of the zone is soft; None when it does not hold it.
    """

    zone: ZonePlan
    setting: RingSetting
    placements: tuple[Placement, ...]
    rows: tuple[ApertureRow, ...]
    clearest: tuple[float, float]
    nearest_possible: NearestPossible | None
    slack_deg: tuple[float, float] | None


def plan_scene(
    setup: Setup,
    subjects: tuple[Subject, ...],
    *,
    focus: FocusSchool = FocusSchool.MIDDLE,
    stop_rule: StopSchool = StopSchool.NEEDED,
    own_stop: float | None = None,
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
    own_stop
        The stop one has, for that school; its widest where none is said.

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
    zone = _zone(setup, subjects)
    stop = (own_stop or setup.lens.widest) if stop_rule is StopSchool.OWN else _stop(zone, setup, stop_rule)
    at_stop = setup.ring(stop)
    if focus is FocusSchool.HYPERFOCAL:
        angle = hyperfocal_angle(setup, stop)
    elif focus is FocusSchool.FAR_MARK:
        angle = angle_with_far_limit(setup, _ends(subjects)[1], stop)
    else:
        angle = at_stop.clamp(float(at_stop.angle_at_extension(zone.focus_x)))
    setting = ring_setting(setup, angle, stop)
    return ScenePlan(
        zone=zone, setting=setting, placements=tuple(place_subjects(subjects, setting.zone)),
        rows=_rows(setup, angle, stop, subjects), slack_deg=_slack(setup, setting, subjects),
        clearest=clearest_stop(zone, ring.focal_mm, setup.lens.stops),
        nearest_possible=_nearest_possible(setup, subjects) if zone.verdict is ZoneVerdict.NO_STOP else None,
    )  # fmt: skip


def _zone(setup: Setup, subjects: tuple[Subject, ...]) -> ZonePlan:
    ring = setup.ring()
    near, far = _ends(subjects)
    if math.isinf(near):
        return plan_zone(
            SUBJECT_DEPTH_MM * 1e-6, 0.0, ring.focal_mm, setup.blur_mm, setup.lens.stops, travel=ring.travel_x
        )
    return plan_film_zone(
        near, far if far > near else near + SUBJECT_DEPTH_MM, ring.focal_mm, setup.blur_mm, setup.lens.stops,
        h=ring.h_mm, beyond=ring.beyond, travel=ring.travel_x,
    )  # fmt: skip


def _ends(subjects: tuple[Subject, ...]) -> tuple[float, float]:
    distances = [subject.distance_mm for subject in subjects]
    return min(distances), max(distances)


def _stop(zone: ZonePlan, setup: Setup, rule: StopSchool) -> float:
    if rule is StopSchool.BALANCED:
        return snap_stop(zone.balanced_stop, setup.lens.stops)
    return max(setup.lens.stops) if rule is StopSchool.SMALLEST else zone.stop_marked


def _rows(setup: Setup, angle_deg: float, stop: float, subjects: tuple[Subject, ...]) -> tuple[ApertureRow, ...]:
    """Return what the stop and its neighbours that the lens has achieve with the ring left where it is."""
    x = float(setup.ring(stop).extension_at_angle(angle_deg))
    ends = min(setup.lens.stops) * (1 - _SAME_STOP), max(setup.lens.stops) * (1 + _SAME_STOP)
    rows = []
    for outcome in neighbouring_stops(x, stop, setup.lens.focal_mm, setup.blur_mm):
        if outcome.stop == stop or ends[0] <= outcome.stop <= ends[1]:
            zone = ring_zone(setup.ring(outcome.stop), angle_deg, outcome.stop, setup.blur_mm)
            rows.append(ApertureRow(outcome, zone, tuple(place_subjects(subjects, zone))))
    return tuple(rows)


def _slack(setup: Setup, setting: RingSetting, subjects: tuple[Subject, ...]) -> tuple[float, float] | None:
    """Return how far the ring may be off either way, degrees: until a limit comes to stand on an end of the zone."""
    near, far = _ends(subjects)
    if not (setting.zone.contains(near) and setting.zone.contains(far)):
        return None
    ring, c = setup.ring(setting.stop), setup.blur_mm

    def limit_on(distance_mm: float, *, far: bool) -> float:
        x = extension_with_limit(distance_mm, ring.focal_mm, setting.stop, c, far=far, h=ring.h_mm, beyond=ring.beyond)
        return float(ring.angle_at_extension(x))

    ways = [setting.angle_deg - limit_on(near, far=False), limit_on(far, far=True) - setting.angle_deg]
    towards_infinity, towards_near = sorted(ways) if ring.beyond else ways
    return max(towards_infinity, 0.0), max(towards_near, 0.0)


def _nearest_possible(setup: Setup, subjects: tuple[Subject, ...]) -> NearestPossible:
    """Keep one end on its mark at the smallest stop, and see where the other mark lies."""
    stop, c = max(setup.lens.stops), setup.blur_mm
    ring = setup.ring(stop)
    near, far = _ends(subjects)
    far_kept, near_kept = (
        ring_zone(ring, ring.angle_with_limit(end, stop, c, far=is_far), stop, c)
        for end, is_far in ((far, True), (near, False))
    )
    return NearestPossible(stop, far_kept.near_mm, near_kept.far_mm)
