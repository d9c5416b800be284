"""/log/type: lines typed in with a live echo, stored together."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.inputs import FormInput, read_record
from welotrope.core.units.text import format_date
from welotrope.store.queries import log, rolls
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.log.frame.context import roll_options
from welotrope.web.rooms.log.typing.context import TypingPage, echo_of, frames_of, known_kit, read_typed
from welotrope.web.rooms.log.typing.form import LinesAsked, LinesForm

router = APIRouter()


@router.get("/log/type")
def show(context: CurrentContext) -> Response:
    """Offer an empty sheet for the newest outing."""
    newest = next(iter(log.list_outings(context.uow)), None)
    today = context.now().date()
    form = LinesForm.model_validate(
        {
            "outing": newest.name if newest else f"Outing of {format_date(today)}",
            "day": str(newest.day if newest else today),
        }
    )
    return context.page("log/typing/page.html", _page(context, form, {}, ""))


@router.post("/log/type/echo")
def echo(context: CurrentContext) -> Response:
    """Say the lines back as they are typed; nothing is stored."""
    form = LinesForm.read(context.typed)
    return context.fragment("log/typing/echo.html", _page(context, form, {}, str(context.typed.get("text", ""))))


@router.post("/log/type")
def store(context: CurrentContext) -> Response:
    """Store the lines when each of them is understood; undoable as one change."""
    form, text = LinesForm.read(context.typed), str(context.typed.get("text", ""))
    asked, errors = read_record(LinesAsked, FormInput(texts=form.model_dump(), bare=context.numbers_in))
    page = _page(context, form, errors, text)
    if asked is None or page.bad or not page.good or page.errors or context.typed.get("intent") == "show":
        status = 422 if asked is None or page.bad or page.errors else 200
        return context.page("log/typing/page.html", page, status=status)
    lines, _ = read_typed(context, known_kit(context), text, asked.first)
    with context.undoable_transaction(f"Typed in {page.good} frame{'' if page.good == 1 else 's'}"):
        outing = _outing(context, asked)
        for frame, said in frames_of(lines, asked):
            log.add_frame(context.uow, outing, frame, outcome=said.outcome)
    return context.back_to(f"/log?outing={outing}")


def _outing(context: RequestContext, asked: LinesAsked) -> int:
    """Return the outing of a name and day, made when there is none."""
    found = next(
        (one.id for one in log.list_outings(context.uow) if (one.name, one.day) == (asked.outing, asked.day)), None
    )
    return log.add_outing(context.uow, asked.outing, asked.day) if found is None else found


def _page(context: RequestContext, form: Any, errors: dict[str, str], text: str) -> TypingPage:
    first = int(form.first) if form.first.isascii() and form.first.isdigit() and len(form.first) < 5 else 1
    kit = known_kit(context)
    lines, problem = read_typed(context, kit, text, first)
    echo = echo_of(context, lines)
    lenses = tuple(
        (f"{one.setup.marked_mm:g}", one.setup.name, tuple(setting.name for setting in one.settings)) for one in kit
    )
    return TypingPage(
        form=form, errors=errors | ({"text": problem} if problem and text.strip() else {}), text=text, echo=echo,
        good=sum(bool(one.words) for one in echo), bad=sum(bool(one.problem) for one in echo),
        outings=tuple(dict.fromkeys(one.name for one in log.list_outings(context.uow)))[:20], lenses=lenses,
        rolls=roll_options(rolls.roll_names(context.uow)),
    )  # fmt: skip
