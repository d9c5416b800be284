"""What a ring setting gives: plane, limits and window, the hyperfocal setting, and how named subjects stand to it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.kit.lens_inputs import InfinitySide
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.depth import FilmZone
from welotrope.core.ring.depth_marks import audit
from welotrope.core.ring.engraving import place_between
from welotrope.core.ring.window import ring_zone, sharp_window
from welotrope.core.units.distance import Unit, half_up, parse_distance
from welotrope.core.units.text import cleaned

MAX_SUBJECTS = 12
MAX_NAME = 40
_GRAINS = (1.0, 0.5, 0.25, 0.1)  # steps, halves, quarters, tenths
_SHARE = 0.5  # of the window either side that rounding may take
_COUNTS = ("", "one", "two")
# What an eye reads on a ring, degrees; and the share of half the window by which a mark may miss its limit.
READ_DEG, _MARK_SHARE = 0.3, 0.2  # a fifth of it is half a stop


@dataclass(frozen=True)
class Subject:
    """Something to be sharp: a name (may be empty) and a film-plane distance in mm, may be infinite."""

    name: str
    distance_mm: float


class ZonePlace(StrEnum):
    """Where a subject lies against the sharp zone."""

    INSIDE = "inside"
    TOO_NEAR = "too near"
    TOO_FAR = "too far"


@dataclass(frozen=True)
class Placement:
    """A subject against a zone; ``outside_mm`` is how far outside it lies, 0 inside, infinite for ∞ beyond far."""

    subject: Subject
    place: ZonePlace
    outside_mm: float


def place_subjects(subjects: Sequence[Subject], zone: FilmZone) -> list[Placement]:
    """Say for each subject whether it lies within a zone, the tolerance of blur included, and by how much not.

    Parameters
    ----------
    subjects
        Named subjects.
    zone
        The sharp zone in front of the film, mm.
    """
    placements = []
    for subject in subjects:
        d = subject.distance_mm
        if zone.contains(d):
            placements.append(Placement(subject, ZonePlace.INSIDE, 0.0))
        elif d < zone.near_mm:
            placements.append(Placement(subject, ZonePlace.TOO_NEAR, zone.near_mm - d))
        else:
            placements.append(Placement(subject, ZonePlace.TOO_FAR, d - zone.far_mm))
    return placements


def subject_token(subject: Subject) -> str:
    """Write a subject as one word for a URL: ``Ida@2300`` in mm, ``shore@inf``; nothing of the distance is lost.

    Parameters
    ----------
    subject
        The named subject.
    """
    distance = "inf" if math.isinf(subject.distance_mm) else repr(float(subject.distance_mm)).removesuffix(".0")
    return f"{subject.name.replace('@', ' ')}@{distance}"


def parse_subject_token(token: str) -> Subject:
    """Read what :func:`subject_token` writes; the part after the last ``@`` is mm unless it names a unit.

    Parameters
    ----------
    token
        The subject as an address carries it.
    """
    name, at, distance = token.rpartition("@")
    if not at:
        raise UnreadableError("subject", token, "it has no distance", "Write name@distance, such as Ida@2.3m")
    bare_number = distance.isascii() and distance.replace(".", "", 1).isdigit()
    text = f"{distance}mm" if bare_number else distance
    return Subject(cleaned(name).strip()[:MAX_NAME], parse_distance(text, field=f"distance of {name or 'subject'}"))


def check_count(count: int) -> None:
    """Raise OutOfRangeError when there are more subjects than a scene can hold.

    Parameters
    ----------
    count
        How many.
    """
    if count > MAX_SUBJECTS:
        raise OutOfRangeError(
            "subjects",
            count,
            f"a scene holds at most {MAX_SUBJECTS}",
            "Leave out some between the ends; they change nothing",
        )


def indicator_words(setup: Setup, angle_deg: float, stop: float) -> str:
    """Say where to put the indicator for a ring angle, degrees, as a sentence; empty for a ring of its own.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    stop
        F-number, 0.5 to 128.
    """
    words = setting_words(setup, angle_deg, stop)
    return f"Indicator {words}." if words else ""


def setting_words(setup: Setup, angle_deg: float, stop: float) -> str:
    """Say where to put an indicator: “on step 15”, “one and a half steps left of 15”; empty for a ring of its own.

    Whole fives are what an eye finds on a row of unnumbered steps; infinity's side tells left from right. Fractions are
    said where whole steps would leave the middle half of the sharp window.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    stop
        F-number, 0.5 to 128.
    """
    step_deg = setup.known.step_deg
    if step_deg is None:
        return ""
    window = sharp_window(setup.ring(stop), angle_deg - setup.shift_deg(stop), stop, setup.blur_mm)
    step = _rounded(angle_deg / step_deg, float(window.width_deg) / step_deg / 2)
    anchor = 5 * half_up(step / 5)
    off = step - anchor
    if abs(off) < 1e-9:
        return f"on step {anchor}"
    nearward = "left" if setup.lens.infinity_side.value == "right" else "right"
    farward = "right" if nearward == "left" else "left"
    return f"{_count(abs(off))} {nearward if off > 0 else farward} of {anchor}"


def preset_words(setup: Setup, distance_mm: float, stop: float) -> str:
    """Say where the indicator stands for a preset, mm from the film plane; empty for a ring of its own.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    distance_mm
        Distance in mm; infinity allowed.
    stop
        F-number, 0.5 to 128.
    """
    return setting_words(setup, setup.ring(stop).setting_for(distance_mm), stop)


def _rounded(value: float, half_window: float) -> float:
    """Round to the coarsest grain that stays within its share of the window, to tenths at worst."""
    for grain in _GRAINS:
        rounded = half_up(value / grain) * grain
        if abs(rounded - value) <= _SHARE * half_window:
            break
    return rounded


def _count(amount: float) -> str:
    whole, quarters = int(amount + 1e-9), round((amount % 1) * 4, 6)
    if abs(quarters - round(quarters)) > 1e-6:
        return f"{amount:.1f} steps"
    if round(quarters) in (0, 4):
        whole = round(amount)
        return f"{_COUNTS[whole]} step{'s' if whole > 1 else ''}"
    if not whole:
        return ("a quarter step", "half a step", "three quarters of a step")[round(quarters) - 1]
    return f"{_COUNTS[whole]} and {('a quarter', 'a half', 'three quarters')[round(quarters) - 1]} steps"


@dataclass(frozen=True, kw_only=True)
class RingSetting:
    """A ring angle and stop of a set-up; distances in mm from the film plane, angles in degrees from infinity.

    It is made here only, so that every page says the same of it: ``engraved_mm`` is what stands under the index,
    ``zone`` what is in focus and sharp there with the focus shift of the stop, ``shift_deg``, counted in.
    ``reads_true`` tells whether index and plane of focus agree to what an eye reads. Without a scale, as on a screen's
    indicator, there is nothing to read and ``engraved_mm`` is None.
    ``per_degree_mm`` is how far the plane moves for 1° of ring or one step of an indicator (half of it either way),
    infinite at infinity; ``degree_nearer_mm`` is where the plane lies that much nearer.
    ``window_mm`` is None when the ring's diameter is not known.
    """

    angle_deg: float
    stop: float
    shift_deg: float
    engraved_mm: float | None
    reads_true: bool
    zone: FilmZone
    window_deg: float
    window_mm: float | None
    magnification: float
    per_degree_mm: float
    degree_nearer_mm: float

    @property
    def focus_mm(self) -> float:
        """Plane of focus, mm from the film plane."""
        return self.zone.focus_mm

    @property
    def named_mm(self) -> float:
        """Distance that names it, mm: what stands under the index, or what is in focus where there is no scale."""
        return self.focus_mm if self.engraved_mm is None else self.engraved_mm

    @property
    def near_mm(self) -> float:
        """Near limit, mm from the film plane."""
        return self.zone.near_mm

    @property
    def far_mm(self) -> float:
        """Far limit, mm from the film plane; may be infinite."""
        return self.zone.far_mm


def ring_setting(setup: Setup, angle_deg: float, stop: float) -> RingSetting:
    """Return what the set-up gives with the index at ``angle_deg`` and the lens at ``stop``.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    stop
        F-number, 0.5 to 128.
    """
    ring, turn = setup.ring(stop), setup.turn_in.deg if setup.turn_in else 1.0
    window_deg = float(sharp_window(ring, angle_deg, stop, setup.blur_mm).width_deg)
    per_mm = setup.mm_per_degree
    scale = setup.known.scale
    reads = float(scale.angle_at_vergence(ring.vergence_at_angle(angle_deg)))
    return RingSetting(
        angle_deg=angle_deg, stop=stop, shift_deg=setup.shift_deg(stop),
        engraved_mm=float(scale.distance_at_angle(angle_deg)) if setup.has_scale else None,
        reads_true=abs(reads - angle_deg) <= READ_DEG, zone=ring_zone(ring, angle_deg, stop, setup.blur_mm),
        window_deg=window_deg,
        window_mm=None if per_mm is None else window_deg * per_mm, per_degree_mm=ring.travel_mm(angle_deg,
            turn_deg=turn),
        magnification=max(float(ring.extension_at_angle(angle_deg)), 0.0) / ring.focal_mm,
        degree_nearer_mm=float(ring.distance_at_angle(angle_deg + turn)),
    )  # fmt: skip


def index_between(setup: Setup, setting: RingSetting, unit: Unit) -> str:
    """Say where the index stands between the engraved numbers, such as ``halfway from 10 to 15 ft``.

    Read on the scale in ``unit`` where the lens bears it, else on the other. Empty where the lens's own numbers are not
    on record, since what a ring usually bears need not be on this one.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    setting
        What the ring setting gives.
    unit
        Leading unit: metric, or feet and inches.
    """
    for one in (unit, unit.other):
        engraved = setup.lens.engraved_in(one)
        if engraved and setup.has_scale:
            return place_between(setup.known.scale, engraved, setting.angle_deg, one, READ_DEG)
    return ""


@dataclass(frozen=True, kw_only=True)
class LimitMarks:
    """The pair of engraved depth marks, by their stop, that stand on the limits of a setting, and on which side."""

    stop: float
    far_side: InfinitySide
    near_side: InfinitySide


def marks_on_limits(setup: Setup, setting: RingSetting) -> LimitMarks | None:
    """Return the engraved depth marks that stand on both limits of a setting; None where no pair does.

    The marks of a lens stay ``N·c·360/L`` either side of its index: they know neither focus shift nor adapter, and
    drawn for a distant subject they are too narrow close up. Where the blur they were made for is on record, another
    pair than that of the stop may be the one.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    setting
        What the ring setting gives.
    """
    if not setup.has_scale:
        return None
    scale, records, angle = setup.known.scale, setup.records.marks, setting.angle_deg
    per_mm = scale.degrees_per_mm(max(scale.infinity_deg, 0.0))
    blur, stop = setup.blur_mm, setting.stop
    if records is not None:
        made = audit(records.blurs(scale.focal_mm, 360 / per_mm, h_mm=scale.h_mm), blur)
        blur, stop = made.blur_mm, made.stop_to_read(stop, setup.lens.stops)
    half = stop * blur * per_mm
    ends = [float(scale.angle_at_vergence(_vergence(mm))) - angle for mm in (setting.near_mm, setting.far_mm)]
    close = max(READ_DEG, _MARK_SHARE * half)
    # A far limit past infinity has no distance to read: ∞ then stands within the mark.
    far_reads = abs(ends[1] + half) <= close or (math.isinf(setting.far_mm) and ends[1] + half >= -close)
    if abs(ends[0] - half) > close or not far_reads:
        return None
    far = setup.lens.infinity_side
    return LimitMarks(
        stop=stop, far_side=far, near_side=InfinitySide.LEFT if far is InfinitySide.RIGHT else InfinitySide.RIGHT
    )


def _vergence(distance_mm: float) -> float:
    return 0.0 if math.isinf(distance_mm) else 1 / distance_mm


def angle_with_far_limit(setup: Setup, far_mm: float, stop: float) -> float:
    """Return the ring angle, degrees, that puts ``far_mm`` (may be infinite) on the far mark, within the travel.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    far_mm
        Farthest distance in mm; infinity allowed.
    stop
        F-number, 0.5 to 128.
    """
    return setup.ring(stop).angle_with_limit(far_mm, stop, setup.blur_mm, far=True)


def hyperfocal_angle(setup: Setup, stop: float) -> float:
    """Return the ring angle that puts infinity on the far mark of ``stop``, or the nearest to it within the travel.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    stop
        F-number, 0.5 to 128.
    """
    return angle_with_far_limit(setup, math.inf, stop)


def farthest_subject(subjects: tuple[Subject, ...]) -> Subject | None:
    """Return the subject farthest away, or None without subjects.

    Parameters
    ----------
    subjects
        Named subjects.
    """
    return max(subjects, key=lambda subject: subject.distance_mm, default=None)
