"""What is known of a set-up's ring: the scale as engraved, the ring as it truly is, and from what each is known."""

from __future__ import annotations

import functools
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import TYPE_CHECKING

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.lens import Lens, RingSource
from welotrope.core.optics.thin_lens import extension_at_film_distance, shortest_film_distance
from welotrope.core.ring.curved_ring import ring_at_focal
from welotrope.core.ring.depth_marks import MarkRecord
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.focus_shift import FocusShift
from welotrope.core.ring.helicoid import Helicoid
from welotrope.core.ring.survey import ReadingUnit, Survey
from welotrope.core.ring.true_infinity import ONE_READING_DEG, InfinityFound, InfinityRecord, find_infinity

if TYPE_CHECKING:  # only a ring with readings needs it
    from welotrope.core.ring.calibration import Calibration

_SAME_DEG = 0.3
_ENOUGH_TO_SHOW = 6


class Basis(StrEnum):
    """What the distances of a ring rest on."""

    CALIBRATED = "calibrated"
    ENGRAVED = "engraved"
    ASSUMED = "assumed"


class InfinityBasis(StrEnum):
    """What the place of infinity rests on."""

    SIGHTED = "sighted"
    MEASURED = "measured"
    ADAPTER = "adapter"
    ENGRAVED = "engraved"


@dataclass(frozen=True, kw_only=True)
class RingRecords:
    """What the photographer has recorded of a ring.

    Parameters
    ----------
    scale
        Readings of the engraved scale; holds for the lens.
    measured
        Readings at measured distances on this set-up.
    infinity
        What was seen of infinity on this set-up.
    shift
        Trials of focus shift; hold for the lens.
    marks
        What the depth marks show; holds for the lens.
    elsewhere
        Readings at measured distances on another set-up of the lens: they give its lead, not its infinity here.
    unreadable
        A sentence for each record that is kept but cannot be read.
    """

    scale: Survey | None = None
    measured: Survey | None = None
    infinity: InfinityRecord | None = None
    shift: FocusShift | None = None
    marks: MarkRecord | None = None
    elsewhere: Survey | None = None
    unreadable: tuple[str, ...] = ()


# What each kind of record holds; the names are those of the fields above.
RECORD_TYPES: dict[str, type[Survey | InfinityRecord | FocusShift | MarkRecord]] = {
    "scale": Survey, "measured": Survey, "infinity": InfinityRecord, "shift": FocusShift, "marks": MarkRecord,
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class KnownRing:
    """The ring of a set-up.

    Parameters
    ----------
    scale
        Angle to distance as engraved.
    true
        Angle to distance in focus, before any focus shift.
    basis, infinity_basis
        What lead and infinity rest on.
    calibration
        The fit behind the true ring, else behind the scale, if any.
    found
        Infinity by the photographer's own record, if any.
    step_deg
        Degrees that stand for one step of an on-screen indicator; None for a ring of its own.
    problems
        A sentence for each record that no longer fits the lens and was left aside.
    """

    scale: FocusRing
    true: FocusRing
    basis: Basis
    infinity_basis: InfinityBasis
    calibration: Calibration | None
    found: InfinityFound | None
    step_deg: float | None
    problems: tuple[str, ...] = ()

    @property
    def infinity_short_mm(self) -> float:
        """How far the lens stands out past infinity at its ∞ mark, mm; negative when it is too deep."""
        return float(self.true.extension_at_angle(self.scale.infinity_deg))

    @property
    def scale_is_off(self) -> bool:
        """Whether infinity truly lies elsewhere than engraved, by more than an eye reads."""
        return self.step_deg is None and abs(self.true.infinity_deg - self.scale.infinity_deg) > _SAME_DEG


@functools.lru_cache(maxsize=128)
def known_ring(lens: Lens, adapter_error_mm: float | None, records: RingRecords) -> KnownRing:
    """Work out a set-up's ring from the best there is; the adapter's error in mm, positive too thick.

    Sightings of infinity outrank measured distances, those the adapter's thickness, and that the engraving;
    measured distances outrank engraved ones for the lead.

    Parameters
    ----------
    lens
        The lens.
    adapter_error_mm
        Error of the adapter's thickness in mm, positive too thick; None where it is not known.
    records
        What was recorded of the ring.
    """
    problems = list(records.unreadable)
    engraved = _fit(lens, records.scale, problems)
    measured = _fit(lens, records.measured, problems)
    elsewhere = _fit(lens, records.elsewhere, problems)
    nominal = _plain(lens.helicoid(), elsewhere) if elsewhere else lens.helicoid()
    step_deg = None
    if measured and records.measured and records.measured.way is ReadingUnit.STEPS:
        step_deg = records.measured.deg_per_unit
    scale: FocusRing = engraved.ring if engraved else nominal
    true, infinity_basis = scale, InfinityBasis.ENGRAVED
    if measured:
        true, infinity_basis = measured.ring, InfinityBasis.MEASURED
        scale = engraved.ring if engraved else measured.ring if step_deg else _plain(lens.helicoid(), measured)
    elif adapter_error_mm is not None:
        true, infinity_basis = scale.moved(adapter_error_mm), InfinityBasis.ADAPTER
    best = measured or engraved or elsewhere
    true, found = _sighted(true, records.infinity, _reading_error(best), problems)
    return KnownRing(
        scale=scale, true=true, basis=_basis(lens, engraved, measured or elsewhere),
        infinity_basis=InfinityBasis.SIGHTED if found else infinity_basis, calibration=best, found=found,
        step_deg=step_deg, problems=tuple(problems),
    )  # fmt: skip


@functools.lru_cache(maxsize=128)
def ring_zoomed(known: KnownRing, lens: Lens, behind: bool) -> KnownRing:
    """Return what is known of a zoom's ring at the focal length of ``lens``, from that at its long end.

    Where infinity was found out of place, what is ``behind`` the lens (an adapter) moves the image by the same
    millimetres at every focal length; without one it is the lens's own and goes with its distances. A trial of the
    zoom at both ends outranks both; between them it is taken to grow in a straight line.

    Parameters
    ----------
    known
        What is known of the ring at the focal length it was read at.
    lens
        The lens.
    behind
        Whether a converter stands behind the lens.
    """
    f, past = lens.focal_mm, known.infinity_short_mm
    scale = ring_at_focal(known.scale, 0.0, f, 0.0)
    own = past if behind or lens.zoom.tried else 0.0
    moved = past if behind and not lens.zoom.tried else 0.0
    if lens.zoom.tried:
        moved = _drift_mm(lens)
    return replace(known, scale=scale, true=ring_at_focal(known.true, own, f, moved))


def _drift_mm(lens: Lens) -> float:
    """Return what the image moves by when zoomed here from the long end, the ring untouched: an extension, mm."""
    zoom, short = lens.zoom, lens.zoomed(lens.zoom.focals_mm[0])
    if zoom.drift_from_mm is None or zoom.drift_to_mm is None:
        return 0.0
    held, wanted = (
        float(extension_at_film_distance(mm, short.focal_mm, h=short.separation_mm))
        for mm in (zoom.drift_from_mm, zoom.drift_to_mm)
    )
    return (held - wanted) * (1 - zoom.share(lens.focal_mm))


def calibrate_lens(lens: Lens, survey: Survey) -> Calibration:
    """Work out a lens's ring from readings, with what is known of the lens; errors as ``ring.calibration``.

    Parameters
    ----------
    lens
        The lens.
    survey
        Readings of the ring.
    """
    from welotrope.core.ring.calibration import calibrate

    throw = None if survey.way is ReadingUnit.STEPS else lens.throw_deg
    known = lens.separation_known or lens.closest_mm < shortest_film_distance(lens.focal_mm)
    return calibrate(
        survey, lens.focal_mm, lens.closest_mm, throw_deg=throw,
        h_mm=lens.separation_mm if known else None, beyond=lens.beyond, shortens=lens.shortens,
    )  # fmt: skip


def _fit(lens: Lens, survey: Survey | None, problems: list[str]) -> Calibration | None:
    if survey is None:
        return None
    try:
        return calibrate_lens(lens, survey)
    except WelotropeError as error:  # the lens was changed after its ring was measured
        problems.append(error.sentence)
        return None


def _sighted(
    ring: FocusRing, record: InfinityRecord | None, error_deg: float, problems: list[str]
) -> tuple[FocusRing, InfinityFound | None]:
    """Return the ring moved to where infinity was seen, or as it is when nothing usable was."""
    if record is None:
        return ring, None
    try:
        found = find_infinity(record, ring, error_deg=error_deg)
    except WelotropeError as error:
        problems.append(error.sentence)
        return ring, None
    seen = found.angle_deg if record.farthest_mm is None else 0.0
    wanted = found.extension_mm - float(ring.extension_at_angle(seen))
    return ring.moved(wanted), found


def _reading_error(calibration: Calibration | None) -> float:
    """How finely this ring has been read so far, degrees: by its own readings when they show it."""
    if calibration is None or calibration.used < _ENOUGH_TO_SHOW:
        return ONE_READING_DEG
    return min(max(calibration.rms_deg, ONE_READING_DEG / 2), 4 * ONE_READING_DEG)


def _basis(lens: Lens, engraved: Calibration | None, measured: Calibration | None) -> Basis:
    if measured:
        return Basis.CALIBRATED
    return Basis.ENGRAVED if engraved or lens.ring_source not in (RingSource.ASSUMED, RingSource.EYE) else Basis.ASSUMED


def _plain(nominal: Helicoid, measured: Calibration) -> FocusRing:
    """Return the scale of a lens whose engraving was not read: its measured lead, infinity where it says."""
    return replace(nominal, lead_mm=measured.lead_mm, throw_deg=measured.ring.throw_deg, h_mm=measured.ring.h_mm)
