"""What the page of depth marks shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.ring.depth_marks import Audit, MarkRecord, audit
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import StoredRecord
from welotrope.web.components.marks.view import MarksView, marks_view
from welotrope.web.rooms.scale.marks.form import MarksForm


@dataclass(frozen=True, kw_only=True)
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


def marks_page(
    stored: StoredSetup, form: MarksForm, problems: list[str], record: MarkRecord | None, saved: StoredRecord | None,
    unit: Unit,
) -> MarksPage:  # fmt: skip
    """Compute the page of depth marks."""
    setup = stored.setup
    found = rule = view = None
    if record is not None:
        found = audit(record.blurs(setup.lens.focal_mm, lead_of(setup), h_mm=setup.lens.separation_mm), setup.blur_mm)
        rule = found.rule(setup.lens.stops)
        view = marks_view(setup, found.blur_mm, unit)
    return MarksPage(
        stored=stored, form=form, problems=problems, audit=found, rule=rule or "", view=view, saved=saved, unit=unit
    )


def lead_of(setup: Setup) -> float:
    """Lead of the ring in mm a turn, that of the infinity end for a ring that is no plain helicoid."""
    return 360 / setup.known.true.degrees_per_mm(max(setup.known.true.infinity_deg, 0.0))
