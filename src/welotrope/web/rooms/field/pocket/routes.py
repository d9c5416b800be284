"""/field/pocket: the pocket file out, and its log back."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.datastructures import UploadFile
from starlette.responses import Response

from welotrope.interchange.field_transfer import new_among, take_over
from welotrope.interchange.lens_csv import decode
from welotrope.store.queries import kit
from welotrope.web.rooms.field.page.book import field_book
from welotrope.web.rooms.field.pocket.context import PocketPage, read_pocket
from welotrope.web.rooms.field.pocket.file import pocket_file
from welotrope.web.shell.desk import AtDesk, Desk

router = APIRouter()


@router.get("/field/pocket")
def show(desk: AtDesk) -> Response:
    """Offer the pocket file, and to take its log over."""
    return desk.page("field/pocket/page.html", PocketPage(setups=_setups(desk)))


@router.get("/field/pocket.html")
def download(desk: AtDesk) -> Response:
    """Download the pocket file."""
    book = field_book(desk.book, desk.now(), desk.in_hand(), desk.preferences.unit)
    name = f"welotrope-pocket-{desk.now():%Y%m%d}.html"
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    text = pocket_file(book, desk.preferences.look.value)
    return Response(text, headers=headers, media_type="text/html; charset=utf-8")


@router.post("/field/pocket")
def preview(desk: AtDesk) -> Response:
    """Show what a log would bring; nothing is stored."""
    upload, text = desk.typed.get("file"), str(desk.typed.get("text", ""))
    if isinstance(upload, UploadFile) and upload.size:
        text = decode(upload.file.read())
    _, page = read_pocket(desk.book, text, _setups(desk), desk.preferences.unit)
    return desk.page("field/pocket/page.html", page, status=422 if page.bad else 200)


@router.post("/field/pocket/store")
def store(desk: AtDesk) -> Response:
    """Take a log over that was shown: what can be read of it, each entry once; undoable as one change."""
    read, page = read_pocket(desk.book, str(desk.typed.get("text", "")), _setups(desk), desk.preferences.unit)
    fresh = new_among(desk.book, read.entries)
    if not fresh:
        return desk.page("field/pocket/page.html", page, status=422 if page.bad else 200)
    with desk.change(f"Took over {len(fresh)} {'entry' if len(fresh) == 1 else 'entries'} of a pocket file"):
        results = take_over(desk.book, fresh, desk.now())
    said = tuple(one.sentence for one in results if one.sentence)
    if said:
        page = PocketPage(setups=_setups(desk), said=said)
        return desk.page("field/pocket/page.html", page)
    return desk.back_to("/log")


def _setups(desk: Desk) -> int:
    return len(kit.list_setups(desk.book))
