"""What the page of focus shift shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.ring.focus_shift import FocusShift
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import StoredRecord
from welotrope.web.rooms.scale.shift.form import ShiftForm


@dataclass(frozen=True, kw_only=True)
class ShiftPage:
    """Focus shift: the correction per stop."""

    form: ShiftForm
    problems: list[str]
    shift: FocusShift | None
    marked: tuple[tuple[float, float], ...]
    worst: tuple[float, float] | None
    saved: StoredRecord | None
    unit: Unit


def shift_page(
    stored: StoredSetup, form: ShiftForm, problems: list[str], shift: FocusShift | None, saved: StoredRecord | None,
    unit: Unit,
) -> ShiftPage:  # fmt: skip
    """Compute the page of focus shift."""
    marked = tuple((stop, shift.at(stop)) for stop in sorted(stored.setup.lens.stops)) if shift else ()
    worst = max(marked, key=lambda pair: abs(pair[1]), default=None)
    return ShiftPage(form=form, problems=problems, shift=shift, marked=marked, worst=worst, saved=saved, unit=unit)
