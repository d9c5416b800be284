"""Someone close: sway against the window, turning after focusing, and which parts of a face fit.

Depths of a head are those of adults in round figures (Farkas, *Anthropometry of the Head and Face*, 1994): pupils 63
mm apart, from the pupil to the front of the ear about 85 mm, from the tip of the nose to the ear about 120 mm. The
lips stand about 15 mm before the pupil; the knot of a tie lies about 60 mm behind it with the head held upright.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError, TooCloseError, WelotropeError
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import film_zone, film_zone_extension
from welotrope.core.plan.framing import background_blur
from welotrope.core.plan.setting import RingSetting, ring_setting
from welotrope.core.plan.zone import ZoneVerdict, plan_film_zone
from welotrope.core.stats import Proportion, chance_within

MOST_TURN_DEG = 89.0
EYES_MM, EYE_TO_EAR_MM, FACE_MM = 63.0, 85.0, 120.0
BREATHING_MM = 4.0
UNSURE = 1.6
TURNED_DEG = 30.0
_HALVINGS = 14  # of a hundredfold range: to 0.03 %


def recompose_shift(distance_mm: float, angle_deg: float) -> float:
    """Return how far behind the subject the plane falls, mm: ``d·(1 − cos φ)``.

    Parameters
    ----------
    distance_mm
        Of the subject from the entrance pupil, mm, focused on the axis; may be infinite.
    angle_deg
        Turned by afterwards, −89 to 89°.

    Raises
    ------
    OutOfRangeError
        When the angle is out of range.

    Examples
    --------
    >>> round(recompose_shift(1500, 20), 2)
    90.46
    """
    if not -MOST_TURN_DEG <= angle_deg <= MOST_TURN_DEG:
        raise OutOfRangeError(
            "angle", f"{angle_deg:g}°", "turned so far the subject is out of any picture",
            f"Write 0 to {MOST_TURN_DEG:g}°; a head moved to the third of a normal lens takes about 7°",
        )  # fmt: skip
    lost = 1 - math.cos(math.radians(angle_deg))
    return 0.0 if lost == 0 else distance_mm * lost


def turn_for_offset(offset_mm: float, v_mm: float) -> float:
    """Return the angle, degrees, that moves a subject from the middle by ``offset_mm`` on the picture, ``v`` mm away.

    Parameters
    ----------
    offset_mm
        How far the subject lies off the axis in mm of the picture.
    v_mm
        Image distance in mm from the rear principal plane.

    Examples
    --------
    >>> round(turn_for_offset(6, 50), 2)
    6.84
    """
    return math.degrees(math.atan2(offset_mm, v_mm))


@dataclass(frozen=True)
class FacePart:
    """What of a face is to be sharp, how deep that is, mm, and whether it lies before the nearer eye, not behind."""

    name: str
    depth_mm: float
    before: bool = False


FACE_PARTS: tuple[FacePart, ...] = (
    FacePart("one eye", 10.0),
    FacePart("eyes and mouth", 15.0, before=True),
    FacePart("both eyes, head turned a little", EYES_MM * math.sin(math.radians(TURNED_DEG))),
    FacePart("eyes and the knot of a tie", 60.0),
    FacePart("eye to ear", EYE_TO_EAR_MM),
    FacePart("the whole face", FACE_MM),
)


@dataclass(frozen=True, kw_only=True)
class PartRow:
    """A part of a face.

    Parameters
    ----------
    part
        Which.
    stop
        Widest marked stop that holds it at this distance; None when none does.
    from_mm
        From how near the stop in use holds it, mm from the film plane; infinite when from nowhere within reach.
    fits
        Whether the stop in use holds it here, the plane on the eye.
    plane_mm
        Where else to put the plane so that it does, mm from the film plane; None where nothing does.
    """

    part: FacePart
    stop: float | None
    from_mm: float
    fits: bool
    plane_mm: float | None


@dataclass(frozen=True, kw_only=True)
class Recomposed:
    """What moving the head to a place in the picture does: turned by degrees, plane behind by mm, still inside."""

    angle_deg: float
    behind_mm: float
    room_mm: float
    inside: bool


@dataclass(frozen=True, kw_only=True)
class SitterPlan:
    """A sitter at a distance.

    Parameters
    ----------
    setting
        Ring, plane and limits.
    before_mm, behind_mm
        How far sharpness reaches before and behind the plane.
    sway_mm
        Sway of both people together, standard deviation.
    chance
        That the eye is sharp when the release comes.
    nearest_stop
        The widest marked stop at which nine in ten frames are sharp for that sway; None when none.
    turned, third_deg
        What turning the head to its place does, and by how much the camera turns for a third of the picture.
    parts
        Parts of the face.
    background_mm, background_share
        Diameter of the blur disc of a far background, mm on the film, and as a share of the width of the picture.
    """

    setting: RingSetting
    before_mm: float
    behind_mm: float
    sway_mm: float
    chance: Proportion
    nearest_stop: float | None
    turned: Recomposed
    third_deg: float
    parts: tuple[PartRow, ...]
    background_mm: float
    background_share: float

    @property
    def more_with(self) -> PartRow | None:
        """The deepest part that fits only with the plane put behind the eye; None where there is none."""
        return next(
            (one for one in reversed(self.parts) if not one.fits and not one.part.before and one.plane_mm is not None),
            None,
        )


def together(*sways_mm: float) -> float:
    """Return the sway of several people and a breath together, mm: independent, so root of squares.

    Parameters
    ----------
    *sways_mm
        Sways in mm that add up.

    Examples
    --------
    >>> together(3.0)
    5.0
    """
    return math.hypot(BREATHING_MM, *sways_mm)


def plan_sitter(setup: Setup, distance_mm: float, stop: float, sway_mm: float, offset_share: float) -> SitterPlan:
    """Plan a portrait.

    Parameters
    ----------
    setup
        In hand.
    distance_mm, stop
        Of the eye from the film plane, mm, and the marked stop.
    sway_mm
        Standard deviation of sway along the axis between focusing and release, mm.
    offset_share
        How far from the middle the eye goes, as a share of the picture's width, 0 to 0.5; a third of it is 1/6.

    Raises
    ------
    TooCloseError, OutOfRangeError
        When the ring does not reach, or a value is out of range.
    """
    ring = setup.ring(setup.lens.check_has(stop))
    ring.check_reach(distance_mm, field="distance")
    setting = ring_setting(setup, ring.clamp(float(ring.angle_at_distance(distance_mm))), stop)
    before, behind = setting.focus_mm - setting.near_mm, setting.far_mm - setting.focus_mm
    x = float(ring.extension_at_angle(setting.angle_deg))
    v = ring.focal_mm + x
    width = setup.body.image.width_mm
    turned = turn_for_offset(offset_share * width, v)
    shift = recompose_shift(setting.focus_mm - v - ring.h_mm, turned)
    background = background_blur(ring.focal_mm, stop, setting.focus_mm - v - ring.h_mm)
    return SitterPlan(
        setting=setting,
        before_mm=before,
        behind_mm=behind,
        sway_mm=sway_mm,
        chance=_sway_chance(before, behind, sway_mm),
        nearest_stop=_stop_for_sway(setup, distance_mm, sway_mm),
        turned=Recomposed(angle_deg=turned, behind_mm=shift, room_mm=before, inside=shift <= before),
        third_deg=turn_for_offset(width / 6, v),
        parts=tuple(_part(setup, setting, one) for one in FACE_PARTS),
        background_mm=background,
        background_share=background / width,
    )


def _sway_chance(before_mm: float, behind_mm: float, sway_mm: float) -> Proportion:
    """Chance that sway stays in the window, with what it is for people 1.6 times steadier or less steady."""

    def chance(sway: float) -> float:
        behind = min(behind_mm, 50 * sway + before_mm) if sway > 0 else behind_mm
        if math.isinf(behind):
            return 1.0
        return chance_within((before_mm + behind) / 2, sway, bias=(before_mm - behind) / 2)

    ends = [chance(sway_mm * by) for by in (1 / UNSURE, 1.0, UNSURE)]
    return Proportion(ends[1], min(ends), max(ends))


def _stop_for_sway(setup: Setup, distance_mm: float, sway_mm: float) -> float | None:
    for stop in sorted(setup.lens.stops):
        one = ring_setting(setup, setup.ring(stop).setting_for(distance_mm), stop)
        if _sway_chance(one.focus_mm - one.near_mm, one.far_mm - one.focus_mm, sway_mm).share >= 0.9:
            return stop
    return None


def _part(setup: Setup, setting: RingSetting, part: FacePart) -> PartRow:
    eye, stop = setting.focus_mm, setting.stop
    begins = eye - part.depth_mm if part.before else eye
    room = eye - setting.near_mm if part.before else setting.far_mm - eye
    return PartRow(
        part=part, stop=_stop_for(setup, begins, part.depth_mm), from_mm=_nearest_with(setup, stop, part.depth_mm),
        fits=room >= part.depth_mm, plane_mm=_plane_for(setup, begins, stop, part.depth_mm),
    )  # fmt: skip


def _plane_for(setup: Setup, near_mm: float, stop: float, depth_mm: float) -> float | None:
    """Where to put the plane so that a stop holds so deep behind the eye, mm from the film; None where it cannot."""
    ring = setup.ring(stop)
    x = film_zone_extension(near_mm, near_mm + depth_mm, ring.focal_mm, h=ring.h_mm, beyond=ring.beyond)
    zone = film_zone(x, ring.focal_mm, stop, setup.blur_mm, h=ring.h_mm)
    return zone.focus_mm if zone.contains(near_mm) and zone.contains(near_mm + depth_mm) else None


def _stop_for(setup: Setup, near_mm: float, depth_mm: float) -> float | None:
    """Widest marked stop that holds from the near side, where the eye is, so deep; None when none does."""
    ring = setup.ring()
    try:
        plan = plan_film_zone(
            near_mm,
            near_mm + depth_mm,
            ring.focal_mm,
            setup.blur_mm,
            setup.lens.stops,
            h=ring.h_mm,
            beyond=ring.beyond,
            travel=ring.travel_x,
        )
    except WelotropeError:
        return None
    return None if plan.verdict is ZoneVerdict.NO_STOP else plan.stop_marked


def _nearest_with(setup: Setup, stop: float, depth_mm: float) -> float:
    """Nearest distance, mm, from which ``stop`` holds so much depth, found by halving."""
    ring = setup.ring()

    def holds(near_mm: float) -> bool:
        try:
            plan = plan_film_zone(
                near_mm,
                near_mm + depth_mm,
                ring.focal_mm,
                setup.blur_mm,
                (stop,),
                h=ring.h_mm,
                beyond=ring.beyond,
                travel=ring.travel_x,
            )
        except TooCloseError:
            return False
        return plan.verdict is not ZoneVerdict.NO_STOP

    low, high = ring.closest_mm, 50_000.0
    if holds(low):
        return low
    if not holds(high):
        return math.inf
    for _ in range(_HALVINGS):
        middle = math.sqrt(low * high)
        low, high = (low, middle) if holds(middle) else (middle, high)
    return high
