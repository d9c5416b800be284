"""Tables of readings as typed, every wrong one named; and what is kept of a ring besides, and forgotten."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from itertools import zip_longest
from typing import TypeVar

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.inputs import Ask, FormInput, Input, Text, attributes_of, inputs_of, read_row
from welotrope.store.queries.ring_records import Record, RecordKind, forget_record, save_record
from welotrope.web.forms import TextForm
from welotrope.web.request.context import CurrentContext, RequestContext

router = APIRouter()
_PAGES = {"marks": RecordKind.MARKS, "infinity": RecordKind.INFINITY, "shift": RecordKind.SHIFT}
_NAMES = {RecordKind.MARKS: "depth marks", RecordKind.INFINITY: "infinity", RecordKind.SHIFT: "focus shift"}
LEAST_ROWS, SPARE_ROWS = 8, 2


@router.post("/scale/{page}/forget")
def forget(context: CurrentContext, page: str) -> Response:
    """Forget a record, undoably."""
    stored, kind = context.selected_setup(), _PAGES.get(page)
    if kind is None:
        return context.go("/scale")
    with context.undoable_transaction(f"Forgot the {_NAMES[kind]} of {stored.setup.lens.name}"):
        forget_record(context.uow, kind, stored.lens_id, stored.id)
    return context.back_to(f"/scale/{page}")


def keep(context: RequestContext, kind: RecordKind, record: Record, page: str) -> Response:
    """Keep a record of the ring in hand, undoably, and go back to its page."""
    stored = context.selected_setup()
    with context.undoable_transaction(f"Saved the {_NAMES[kind]} of {stored.setup.lens.name}"):
        save_record(context.uow, kind, stored.lens_id, stored.id, record, context.now().date())
    return context.back_to(f"/scale/{page}")


RecordT = TypeVar("RecordT")
Value = TypeVar("Value")
Row = tuple[str, ...]


class RowsForm(TextForm):
    """A form with tables of readings: for every input of a record, a list of its cells."""

    def rows_of(self, kind: type) -> list[Row]:
        """Return the rows of a kind of record in which anything was written."""
        columns = inputs_of(kind)
        written = [number for number, one in enumerate(columns) if one.ask is Ask.TEXT]
        rows = zip_longest(*(getattr(self, one.name) for one in columns), fillvalue="")
        return [row for row in rows if any(row[number] for number in written)]


def columns_of(kind: type, records: Sequence[object]) -> dict[str, list[Text]]:
    """Return records as the cells of their table."""
    return {one.name: [one.write(getattr(record, name)) for record in records] for name, one in attributes_of(kind)}


def padded(rows: Sequence[Row], columns: Sequence[Input], *, least: int = LEAST_ROWS, more: int = 0) -> list[Row]:
    """Return the rows with blank ones after them, for typing on."""
    blank = max(least - len(rows), SPARE_ROWS) + more
    return [*rows, *[("",) * len(columns)] * blank]


def read_rows(
    kind: type[RecordT],
    rows: Sequence[Row],
    name: str,
    typed: FormInput,
    *,
    check: Callable[[RecordT], object] | None = None,
) -> tuple[list[RecordT], list[str]]:
    """Read every row; returns the records and a sentence, naming the row, for each that could not be read."""
    names = [one.name for one in inputs_of(kind)]
    values: list[RecordT] = []
    problems: list[str] = []
    for count, row in enumerate(rows, 1):
        try:
            value = read_row(kind, replace(typed, texts=dict(zip(names, row, strict=True))))
            if check is not None:
                check(value)
            values.append(value)
        except WelotropeError as error:
            problems.append(f"{name} {count}. {error.sentence}")
    return values, problems


def built(build: Callable[[], Value], problems: list[str]) -> tuple[Value | None, list[str]]:
    """Return what the rows make, or None with the sentences of what is wrong."""
    if problems:
        return None, problems
    try:
        return build(), []
    except WelotropeError as error:
        return None, [error.sentence]
