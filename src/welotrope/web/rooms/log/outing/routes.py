"""Outings with their frames, and the CSV file."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.interchange.log_csv import log_csv
from welotrope.store.queries import log
from welotrope.web.rooms.log.outing.context import log_page
from welotrope.web.rooms.log.outing.form import OutingForm
from welotrope.web.shell.desk import AtDesk
from welotrope.web.shell.limits import Key, Offset

router = APIRouter()


@router.get("/log")
def show_log(desk: AtDesk, outing: Key | None = None, offset: Offset = 0) -> Response:
    """Show an outing, the newest first; further pages of frames as fragments."""
    page = log_page(desk.book, outing, offset, desk.preferences.unit)
    return desk.page("log/outing/page.html", page, part="log/outing/rows.html")


@router.post("/log/outings")
def create_outing(desk: AtDesk) -> Response:
    """Begin an outing."""
    name, day, errors = OutingForm.read(desk.typed).values(desk.now().date())
    if errors:
        raise UnreadableError("outing", name, next(iter(errors.values())).rstrip("."), "Write a name and a day")
    with desk.change(f"Began outing “{name}”"):
        id = log.add_outing(desk.book, name, day)
    return desk.back_to(f"/log?outing={id}")


@router.post("/log/outings/{id}")
def update_outing(desk: AtDesk, id: int) -> Response:
    """Rename or re-date an outing."""
    name, day, errors = OutingForm.read(desk.typed).values(desk.now().date())
    if errors:
        raise UnreadableError("outing", name, next(iter(errors.values())).rstrip("."), "Write a name and a day")
    with desk.change(f"Changed outing “{name}”"):
        log.change_outing(desk.book, id, name, day)
    return desk.back_to(f"/log?outing={id}")


@router.post("/log/outings/{id}/delete")
def delete_outing(desk: AtDesk, id: int) -> Response:
    """Delete an outing with its frames, undoably."""
    with desk.change("Deleted an outing with its frames"):
        log.delete_outing(desk.book, id)
    return desk.back_to("/log")


@router.get("/log/export.csv")
def export_csv(desk: AtDesk, outing: Key | None = None) -> Response:
    """Download the log, or one outing of it, as CSV."""
    text = "".join(log_csv(log.every_frame(desk.book, outing)))
    name = f"welotrope-log{'' if outing is None else f'-{outing}'}.csv"
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)
