"""What the pages of depth marks, infinity and focus shift show."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.kit.known_ring import InfinityBasis
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import film_distance_at_extension
from welotrope.core.ring.depth_marks import Audit, MarkRecord, audit
from welotrope.core.ring.engraving import engraved_marks
from welotrope.core.ring.focus_shift import FocusShift
from welotrope.core.ring.true_infinity import InfinityFound, ScaleRow, corrected_scale, infinity_stop, thickness_error
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import StoredRecord
from welotrope.web.instruments.marks_view import MarksView, marks_view
from welotrope.web.rooms.scale.record_forms import InfinityForm, MarksForm, ShiftForm

_ROOM_DEG = 4.0


@dataclass(frozen=True)
class MarksPage:
    """Depth marks: what they imply, the rule, and engraved and true pairs on one ring."""

    stored: StoredSetup
    form: MarksForm
    problems: list[str]
    audit: Audit | None
    rule: str
    view: MarksView | None
    saved: StoredRecord | None
    unit: Unit


@dataclass(frozen=True)
class InfinityPage:
    """Infinity: where it is, how that is known, what would cure it, and what the engraving really means."""

    stored: StoredSetup
    form: InfinityForm
    problems: list[str]
    reached: bool
    off_deg: float
    off_mm: float | None
    farthest_mm: float
    mark_stop: float
    found: InfinityFound | None
    shim_mm: float
    adapter_error_mm: float | None
    sighted: bool
    rows: list[ScaleRow]
    horizon_mm: float
    saved: StoredRecord | None
    unit: Unit


@dataclass(frozen=True)
class ShiftPage:
    """Focus shift: the correction per stop."""

    stored: StoredSetup
    form: ShiftForm
    problems: list[str]
    shift: FocusShift | None
    marked: tuple[tuple[float, float], ...]
    worst: tuple[float, float] | None
    saved: StoredRecord | None
    unit: Unit


def marks_page(
    stored: StoredSetup, form: MarksForm, problems: list[str], record: MarkRecord | None, saved: StoredRecord | None,
    unit: Unit,
) -> MarksPage:  # fmt: skip
    """Compute the page of depth marks."""
    setup = stored.setup
    found = rule = view = None
    if record is not None:
        found = audit(record.blurs(setup.lens.focal_mm, lead_of(setup), setup.lens.separation_mm), setup.blur_mm)
        rule = found.rule(setup.lens.stops)
        view = marks_view(setup, found.blur_mm, unit)
    return MarksPage(stored, form, problems, found, rule or "", view, saved, unit)


def infinity_page(
    stored: StoredSetup, form: InfinityForm, problems: list[str], saved: StoredRecord | None, unit: Unit
) -> InfinityPage:
    """Compute the page of infinity."""
    setup, known = stored.setup, stored.setup.known
    off = known.true.infinity_deg - known.scale.infinity_deg
    per_mm = setup.mm_per_degree
    return InfinityPage(
        stored, form, problems, known.true.infinity_deg >= -0.05, off, None if per_mm is None else off * per_mm,
        known.true.farthest_mm, _mark_stop(setup), known.found, thickness_error(off, known.true),
        setup.adapter.error_mm if setup.adapter else None, known.infinity_basis is InfinityBasis.SIGHTED,
        corrected_scale(known.scale, known.true, scale_distances(setup, unit)), far_enough(setup), saved, unit,
    )  # fmt: skip


def shift_page(
    stored: StoredSetup, form: ShiftForm, problems: list[str], shift: FocusShift | None, saved: StoredRecord | None,
    unit: Unit,
) -> ShiftPage:  # fmt: skip
    """Compute the page of focus shift."""
    marked = tuple((stop, shift.at(stop)) for stop in setup_stops(stored.setup)) if shift else ()
    worst = max(marked, key=lambda pair: abs(pair[1]), default=None)
    return ShiftPage(stored, form, problems, shift, marked, worst, saved, unit)


def _mark_stop(setup: Setup) -> float:
    """Return the f-number from which infinity is within the standard with the ring left on its mark."""
    return infinity_stop(abs(setup.known.infinity_short_mm), setup.blur_mm)


def far_enough(setup: Setup) -> float:
    """Return the distance in mm beyond which a target is infinity for a hundredth of the widest stop's window."""
    x = setup.lens.widest * setup.blur_mm / 50
    return film_distance_at_extension(x, setup.lens.focal_mm, setup.ring().h_mm)


def lead_of(setup: Setup) -> float:
    """Lead of the ring in mm a turn, that of the infinity end for a ring that is no plain helicoid."""
    return 360 / setup.known.true.degrees_per_mm(max(setup.known.true.infinity_deg, 0.0))


def setup_stops(setup: Setup) -> Sequence[float]:
    """Return the lens's marked stops, widest first."""
    return sorted(setup.lens.stops)


def scale_distances(setup: Setup, unit: Unit) -> list[float]:
    """Return the lens's own engraved distances, or a usual set, nearest first and infinity last."""
    scale = setup.known.scale
    listed = setup.lens.engraved_in(unit) or setup.lens.engraved_in(unit.other)
    own = [mm for mm in listed if mm >= scale.closest_mm * (1 - 1e-6)]
    if own:
        return sorted({*own, math.inf})
    found = engraved_marks(scale, unit, _ROOM_DEG, 0.0, (), _ROOM_DEG)
    return sorted(mark.distance_mm for mark in found if mark.numeral)
