"""/plan/close: close-ups and stacks."""

from __future__ import annotations

from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries.attachments import list_attachments
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.close.context import close_page
from welotrope.web.rooms.plan.close.form import CloseForm

router = APIRouter()


@router.get("/plan/close")
def close(context: CurrentContext) -> Response:
    """Plan a close-up."""
    form, asked, errors = read_asked(CloseForm, context, {})
    attachments = [one for _, one in list_attachments(context.uow)]
    query = urlencode([pair for pair in form.model_dump().items() if pair[0] != "chosen"])
    page = close_page(context.selected_setup(), attachments, form, asked, errors, query, context.preferences.unit)
    return context.page("plan/close/page.html", page, status=422 if page.errors else 200)
