"""/field/queue: entries of the field page, taken over once each."""

from __future__ import annotations

import datetime as dt
from typing import Annotated

from fastapi import APIRouter, Body
from starlette.responses import JSONResponse, Response

from welotrope.core.json_values import JsonObject
from welotrope.core.review.field_entry import clock_offset
from welotrope.interchange.field_log import read_entries
from welotrope.interchange.field_transfer import Taken, Took, new_among, take_over
from welotrope.web.request.context import CurrentContext

router = APIRouter()


@router.post("/field/queue")
def take_queue(context: CurrentContext, sent: Annotated[JsonObject, Body()]) -> Response:
    """Take entries over; says of each by its key what became of it."""
    read = read_entries(sent.get("entries", []))
    offset = _offset(sent.get("now"), context.now())
    results = [Taken(bad.key, Took.REFUSED, bad.sentence) for bad in read.bad]
    fresh = new_among(context.uow, read.entries)
    results += [Taken(key, Took.ALREADY) for key in {one.key for one in read.entries} - {one.key for one in fresh}]
    if fresh:
        with context.undoable_transaction(
            f"Took over {len(fresh)} {'entry' if len(fresh) == 1 else 'entries'} from the field"
        ):
            results += take_over(context.uow, fresh, context.now(), offset=offset)
    answer = [{"key": one.key, "took": one.took.value, "sentence": one.sentence} for one in results]
    return JSONResponse(
        {"results": answer, "clock": _words(offset, made_up=context.request.app.state.clock_is_made_up)}
    )


def _offset(said: object, now: dt.datetime) -> dt.timedelta:
    try:
        return clock_offset(dt.datetime.fromisoformat(str(said)).replace(tzinfo=None), now)
    except (ValueError, OverflowError):
        return dt.timedelta()


def _words(offset: dt.timedelta, *, made_up: bool) -> str:
    minutes = round(offset.total_seconds() / 60)
    if not minutes:
        return ""
    if made_up:
        return "The demo has a clock of its own; the times were put to it."
    way = "behind" if minutes > 0 else "ahead"
    return f"This device’s clock is {abs(minutes)} min {way}; the times were put right."
