"""Where infinity really lies on a ring, by sightings or by an adapter’s error, and what would put it right."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from welotrope.core.errors import ConflictError, Field, OutOfRangeError
from welotrope.core.inputs import choice_input, field_spec
from welotrope.core.optics.thin_lens import Datum, check_focal, distance_at
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.helicoid import check_lead, ring_mm_per_degree
from welotrope.core.ring.survey import angle_cell, distance_cell
from welotrope.core.stats import mean_interval

MAX_ERROR_MM = 50.0
MAX_SIGHTINGS = 40
ONE_READING_DEG = 0.5


@dataclass(frozen=True)
class AdapterEffect:
    """Where infinity lies with an adapter of a certain error.

    Parameters
    ----------
    reaches_infinity
        Whether infinity is in focus anywhere within the travel: ε ≤ 0.
    farthest_mm
        Farthest distance in focus, mm from the datum asked for; infinite when infinity is reached.
    infinity_extension_mm
        Extension at which infinity is in focus, ``−ε``; None when not reached.
    infinity_deg, infinity_mm
        The same from the ring's own infinity stop, in degrees and in mm of ring surface; None when not
        reached or when lead or diameter is not known.
    """

    reaches_infinity: bool
    farthest_mm: float
    infinity_extension_mm: float | None
    infinity_deg: float | None
    infinity_mm: float | None


def adapter_effect(
    focal_mm: float,
    error_mm: float,
    *,
    datum: Datum = Datum.FILM,
    lead_mm: float | None = None,
    diameter_mm: float | None = None,
) -> AdapterEffect:
    """Return where infinity lies for an adapter error ε in mm, at most 50 either way.

    ε > 0: farthest object distance ``f + f²/ε``. ε < 0: infinity lies at extension ``−ε``, that is
    ``−ε·360/L`` degrees before the stop.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    error_mm
        Error of the adapter's thickness in mm, positive too thick; at most 50 either way.
    datum
        Plane that distances are measured from.
    lead_mm
        Advance of the helicoid in mm a turn, 0.05 to 500.
    diameter_mm
        Diameter of the ring in mm.

    Examples
    --------
    >>> from welotrope.core.optics.thin_lens import Datum
    >>> adapter_effect(50, 0.10, datum=Datum.PRINCIPAL).farthest_mm
    25050.0
    """
    f = check_focal(focal_mm)
    if not abs(error_mm) <= MAX_ERROR_MM:
        raise OutOfRangeError(
            "adapter error", f"{error_mm:g} mm", "no adapter is that far off", "Write −50 to 50 mm, such as 0.1"
        )
    if error_mm > 0:
        return AdapterEffect(
            reaches_infinity=False, farthest_mm=distance_at(error_mm, f, datum), infinity_extension_mm=None,
            infinity_deg=None, infinity_mm=None,
        )  # fmt: skip
    extension = abs(error_mm)
    degrees = None if lead_mm is None else extension * 360 / check_lead(lead_mm)
    known = degrees is not None and diameter_mm is not None
    surface = degrees * ring_mm_per_degree(diameter_mm) if known and degrees is not None and diameter_mm else None
    return AdapterEffect(
        reaches_infinity=True, farthest_mm=math.inf, infinity_extension_mm=extension, infinity_deg=degrees,
        infinity_mm=surface,
    )  # fmt: skip


class Warmth(StrEnum):
    """How warm the lens was."""

    UNNOTED = "not noted"
    WARM = "warm"
    COLD = "cold"


SIGHTED_AT = angle_cell("Degrees from the stop", half_empty="Write where the ring stood", example="2.5, or 1.2 mm")
FARTHEST = distance_cell(
    "farthest", Field("farthest_sharp", "farthest sharp"),
    "If infinity is not reached: the farthest sharp distance at the end stop",
    optional=True, example="25 m", example_ft="80 ft",
)  # fmt: skip


@dataclass(frozen=True)
class Sighting:
    """Where on the ring something far away was sharpest, degrees from the infinity stop."""

    angle_deg: float = field(metadata=field_spec(SIGHTED_AT))
    warmth: Warmth = field(
        default=Warmth.UNNOTED, metadata=field_spec(choice_input("warmth", "Lens was", Warmth, Warmth.UNNOTED))
    )


@dataclass(frozen=True)
class InfinityRecord:
    """What was seen of infinity on one set-up.

    Parameters
    ----------
    sightings
        At most 40 sightings of a distant target, −30° to 1080°.
    farthest_mm
        When infinity is not reached: the farthest thing that is sharp at the stop, mm from the film plane.
    """

    sightings: tuple[Sighting, ...] = ()
    farthest_mm: float | None = field(default=None, metadata=field_spec(FARTHEST))

    def __post_init__(self) -> None:
        if len(self.sightings) > MAX_SIGHTINGS:
            raise OutOfRangeError(
                "sightings", len(self.sightings), "that is more than are of use", f"Keep at most {MAX_SIGHTINGS}"
            )
        for sighting in self.sightings:
            if not -30 <= sighting.angle_deg <= 1080:
                raise OutOfRangeError(
                    "sighting", f"{sighting.angle_deg:g}°", "no ring has infinity there", "Write −30° to 1080°"
                )
        if self.farthest_mm is not None and self.sightings:
            raise ConflictError(
                "farthest sharp", "both", "infinity cannot be seen and missed at once",
                "Give sightings when infinity is reached, else the farthest sharp distance",
            )  # fmt: skip
        if self.farthest_mm is not None and not math.isfinite(self.farthest_mm):
            raise OutOfRangeError(
                "farthest sharp", "∞", "then infinity is reached", "Give a sighting at the stop, 0°, instead"
            )


@dataclass(frozen=True)
class InfinityFound:
    """Where infinity lies, degrees from the stop with the half-width of its 95 % interval.

    ``warm_cold_deg`` is how far warm sightings lie beyond cold ones, None without both; ``extension_mm`` the
    extension at the stop when infinity is not reached, else 0.
    """

    angle_deg: float
    half_deg: float
    count: int
    warm_cold_deg: float | None
    extension_mm: float = 0.0


def find_infinity(record: InfinityRecord, ring: FocusRing, *, error_deg: float = ONE_READING_DEG) -> InfinityFound:
    """Return where infinity lies on a ring by the record, degrees.

    ``error_deg`` is the error of a sighting known beforehand.

    Parameters
    ----------
    record
        Sightings of infinity on the ring.
    ring
        The focus ring.
    error_deg
        Error of a sighting known beforehand, degrees.

    Raises
    ------
    ConflictError
        When the record holds nothing.
    """
    if record.farthest_mm is not None:
        x = float(ring.extension_at_distance(record.farthest_mm))
        return InfinityFound(-x * ring.degrees_per_mm(0.0), mean_interval([0.0], error_deg)[1], 1, None, x)
    if not record.sightings:
        raise ConflictError("sightings", "", "there is none", "Focus something far away and read the ring")
    angle, half = mean_interval([sighting.angle_deg for sighting in record.sightings], error_deg)
    means = [_mean(record.sightings, warmth) for warmth in (Warmth.WARM, Warmth.COLD)]
    warm, cold = means
    return InfinityFound(angle, half, len(record.sightings), None if warm is None or cold is None else warm - cold)


def infinity_stop(short_mm: float, blur_mm: float) -> float:
    """Return the f-number from which infinity is within a blur (mm) when the lens stands ``short_mm`` too far out.

    A point at infinity is then spread over ``A·ε/f = ε/N``, whatever the focal length; 0 when it is reached.

    Parameters
    ----------
    short_mm
        How far in mm the lens stands too far out at its stop.
    blur_mm
        Acceptable blur diameter in mm, 0.0001 to 2.

    Examples
    --------
    >>> round(infinity_stop(0.1, 0.03), 2)
    3.33
    """
    return max(short_mm, 0.0) / blur_mm


def thickness_error(angle_deg: float, ring: FocusRing) -> float:
    """Return the adapter error ε in mm that puts infinity ``angle_deg`` from the stop; positive too thick.

    Parameters
    ----------
    angle_deg
        Angle of the ring in degrees from its infinity stop.
    ring
        The focus ring.
    """
    return -angle_deg / ring.degrees_per_mm(max(angle_deg, 0.0))


@dataclass(frozen=True)
class ScaleRow:
    """An engraved distance, where it sits, and what is in focus there; mm and degrees."""

    engraved_mm: float
    angle_deg: float
    true_mm: float


def corrected_scale(scale: FocusRing, true: FocusRing, engraved_mm: Sequence[float]) -> list[ScaleRow]:
    """Return what engraved distances, mm, really are: ``scale`` places them, ``true`` says what is in focus there.

    Parameters
    ----------
    scale
        The ring as engraved.
    true
        The ring as it truly is.
    engraved_mm
        Engraved distances in mm.
    """
    angles = [float(scale.angle_at_distance(mm)) for mm in engraved_mm]
    return [
        ScaleRow(mm, angle, float(true.distance_at_angle(angle))) for mm, angle in zip(engraved_mm, angles, strict=True)
    ]


def _mean(sightings: Sequence[Sighting], warmth: Warmth) -> float | None:
    angles = [sighting.angle_deg for sighting in sightings if sighting.warmth is warmth]
    return sum(angles) / len(angles) if angles else None
