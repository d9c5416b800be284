"""/plan/compare: the same zone by other kit."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.compare.context import compare_page
from welotrope.web.rooms.plan.compare.form import CompareForm

router = APIRouter()


@router.get("/plan/compare")
def compare(context: CurrentContext) -> Response:
    """Compare what holds a zone."""
    form, asked, errors = read_asked(CompareForm, context, {})
    page = compare_page(
        context.selected_setup(), kit.list_setups(context.uow), form, asked, errors, context.preferences.unit
    )
    return context.page("plan/compare/page.html", page, status=422 if page.errors else 200)
