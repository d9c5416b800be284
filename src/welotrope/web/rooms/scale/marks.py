"""/scale/marks: what the depth marks imply."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.inputs import FormInput, Input, inputs_of
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.depth_marks import (
    Audit,
    MarkPair,
    MarkReading,
    MarkRecord,
    audit,
    blur_of_pair,
    blur_of_reading,
)
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import RecordKind, StoredRecord, get_record
from welotrope.web.components.marks import MarksView, marks_view
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, keep, padded, read_rows

_LEAST_READINGS, _LEAST_PAIRS = 4, 3


class MarksForm(RowsForm):
    """Depth marks as typed: readings of the scale, and pairs of marks by the degrees between them."""

    intent: str = ""
    stop: list[str] = []
    far: list[str] = []
    at_index: list[str] = []
    near: list[str] = []
    pair_stop: list[str] = []
    between: list[str] = []

    @classmethod
    def of(cls, record: MarkRecord) -> MarksForm:
        """Fill the form from a record."""
        return cls.model_validate(columns_of(MarkReading, record.readings) | columns_of(MarkPair, record.pairs))

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row of readings."""
        return inputs_of(MarkReading)

    @property
    def rows(self) -> list[Row]:
        """Readings with blank rows after them."""
        return padded(self.rows_of(MarkReading), self.columns, least=_LEAST_READINGS)

    @property
    def pair_columns(self) -> tuple[Input, ...]:
        """What is asked for in a row of pairs."""
        return inputs_of(MarkPair)

    @property
    def pair_rows(self) -> list[Row]:
        """Pairs with blank rows after them."""
        return padded(self.rows_of(MarkPair), self.pair_columns, least=_LEAST_PAIRS)

    def record(self, typed: FormInput, focal_mm: float, lead_mm: float) -> tuple[MarkRecord | None, list[str]]:
        """Return the record, or None with a sentence per row that is wrong."""
        readings, problems = read_rows(
            MarkReading,
            self.rows_of(MarkReading),
            "Reading",
            typed,
            check=lambda found: blur_of_reading(found, focal_mm),
        )
        pairs, more = read_rows(
            MarkPair, self.rows_of(MarkPair), "Pair", typed, check=lambda found: blur_of_pair(found, lead_mm)
        )
        return built(lambda: MarkRecord(tuple(readings), tuple(pairs)), [*problems, *more])


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


router = APIRouter()


@router.get("/scale/marks")
def marks(context: CurrentContext) -> Response:
    """Show what the depth marks imply."""
    stored = context.setup_as_read()
    saved = get_record(context.uow, RecordKind.MARKS, stored.lens_id, stored.id)
    record = saved.record if saved else None
    return _marks(context, MarksForm.of(record) if record else MarksForm(), [], record)


@router.post("/scale/marks")
def read_marks(context: CurrentContext) -> Response:
    """Work the depth marks out; keep them when asked to."""
    data = context.typed
    form = MarksForm.read(data)
    setup = context.setup_as_read().setup
    record, problems = form.record(context.form_input(), setup.lens.focal_mm, lead_of(setup))
    if record is not None and form.intent == "keep":
        return keep(context, RecordKind.MARKS, record, "marks")
    return _marks(context, form, problems, record)


def _marks(context: RequestContext, form: MarksForm, problems: list[str], record: MarkRecord | None) -> Response:
    stored = context.setup_as_read()
    saved = get_record(context.uow, RecordKind.MARKS, stored.lens_id, stored.id)
    page = marks_page(stored, form, problems, record, saved, context.preferences.unit)
    return context.page("scale/marks/page.html", page, status=422 if problems else 200)
