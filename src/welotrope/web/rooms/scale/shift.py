"""/scale/shift: what the plane does as the lens stops down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.inputs import FormInput, Input, inputs_of
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import RecordKind, StoredRecord, get_record
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.scale.rows import Row, RowsForm, built, columns_of, keep, padded, read_rows

_STOPS_TRIED = 4


class ShiftForm(RowsForm):
    """Trials of focus shift as typed."""

    intent: str = ""
    stop: list[str] = []
    angle: list[str] = []

    @classmethod
    def of(cls, record: FocusShift) -> ShiftForm:
        """Fill the form from a record."""
        return cls.model_validate(columns_of(ShiftTrial, record.trials))

    @classmethod
    def blank(cls, stops: Sequence[float]) -> ShiftForm:
        """Return a form with two rows for each of the widest marked stops, in which only the ring is to be read."""
        rows = [f"{stop:g}" for stop in sorted(stops)[:_STOPS_TRIED] for _ in range(2)]
        return cls(stop=rows, angle=[""] * len(rows))

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return inputs_of(ShiftTrial)

    @property
    def rows(self) -> list[Row]:
        """Trials with blank rows after them."""
        return padded(self.rows_of(ShiftTrial), self.columns)

    def record(self, typed: FormInput) -> tuple[FocusShift | None, list[str]]:
        """Return the record, or None with the sentences of what is wrong."""
        names = [one.name for one in self.columns]
        tried = [row for row in self.rows_of(ShiftTrial) if row[names.index("angle")]]  # a stop alone is not tried yet
        trials, problems = read_rows(ShiftTrial, tried, "Trial", typed)
        return built(lambda: FocusShift(tuple(trials)), problems)


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


router = APIRouter()


@router.get("/scale/shift")
def shift(context: CurrentContext) -> Response:
    """Show the focus shift per stop."""
    stored = context.setup_as_read()
    saved = get_record(context.uow, RecordKind.SHIFT, stored.lens_id, stored.id)
    record = saved.record if saved else None
    form = ShiftForm.of(record) if record else ShiftForm.blank(stored.setup.lens.stops)
    return context.page("scale/shift/page.html", shift_page(stored, form, [], record, saved, context.preferences.unit))


@router.post("/scale/shift")
def try_shift(context: CurrentContext) -> Response:
    """Work trials of focus shift out; keep them when asked to."""
    data = context.typed
    form = ShiftForm.read(data)
    stored = context.setup_as_read()
    record, problems = form.record(context.form_input())
    if record is not None and form.intent == "keep":
        return keep(context, RecordKind.SHIFT, record, "shift")
    saved = get_record(context.uow, RecordKind.SHIFT, stored.lens_id, stored.id)
    page = shift_page(stored, form, problems, record, saved, context.preferences.unit)
    return context.page("scale/shift/page.html", page, status=422 if problems else 200)
