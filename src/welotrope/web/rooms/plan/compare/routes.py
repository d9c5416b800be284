"""/plan/compare: the same zone by other kit."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.store.queries import kit
from welotrope.web.forms.asked import read_asked
from welotrope.web.rooms.plan.compare.context import compare_page
from welotrope.web.rooms.plan.compare.form import CompareForm
from welotrope.web.shell.desk import AtDesk

router = APIRouter()


@router.get("/plan/compare")
def compare(desk: AtDesk) -> Response:
    """Compare what holds a zone."""
    form, asked, errors = read_asked(CompareForm, desk, {})
    page = compare_page(desk.in_hand(), kit.list_setups(desk.book), form, asked, errors, desk.preferences.unit)
    return desk.page("plan/compare/page.html", page, status=422 if page.errors else 200)
