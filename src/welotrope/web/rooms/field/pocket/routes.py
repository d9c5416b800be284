"""/field/pocket: the pocket file out, and its log back."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.datastructures import UploadFile
from starlette.responses import Response

from welotrope.interchange.field_transfer import new_among, take_over
from welotrope.interchange.lens_csv import decode
from welotrope.store.queries import kit
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.field.page.book import field_book
from welotrope.web.rooms.field.pocket.context import PocketPage, read_pocket
from welotrope.web.rooms.field.pocket.file import pocket_file

router = APIRouter()


@router.get("/field/pocket")
def show(context: CurrentContext) -> Response:
    """Offer the pocket file, and to take its log over."""
    return context.page("field/pocket/page.html", PocketPage(setups=_setups(context)))


@router.get("/field/pocket.html")
def download(context: CurrentContext) -> Response:
    """Download the pocket file."""
    book = field_book(context.uow, context.now(), context.selected_setup(), context.preferences.unit)
    name = f"welotrope-pocket-{context.now():%Y%m%d}.html"
    headers = {"content-disposition": f'attachment; filename="{name}"'}
    text = pocket_file(book, context.preferences.look.value)
    return Response(text, headers=headers, media_type="text/html; charset=utf-8")


@router.post("/field/pocket")
def preview(context: CurrentContext) -> Response:
    """Show what a log would bring; nothing is stored."""
    upload, text = context.typed.get("file"), str(context.typed.get("text", ""))
    if isinstance(upload, UploadFile) and upload.size:
        text = decode(upload.file.read())
    _, page = read_pocket(context.uow, text, _setups(context), context.preferences.unit)
    return context.page("field/pocket/page.html", page, status=422 if page.bad else 200)


@router.post("/field/pocket/store")
def store(context: CurrentContext) -> Response:
    """Take a log over that was shown: what can be read of it, each entry once; undoable as one change."""
    read, page = read_pocket(
        context.uow, str(context.typed.get("text", "")), _setups(context), context.preferences.unit
    )
    fresh = new_among(context.uow, read.entries)
    if not fresh:
        return context.page("field/pocket/page.html", page, status=422 if page.bad else 200)
    with context.undoable_transaction(
        f"Took over {len(fresh)} {'entry' if len(fresh) == 1 else 'entries'} of a pocket file"
    ):
        results = take_over(context.uow, fresh, context.now())
    said = tuple(one.sentence for one in results if one.sentence)
    if said:
        page = PocketPage(setups=_setups(context), said=said)
        return context.page("field/pocket/page.html", page)
    return context.back_to("/log")


def _setups(context: RequestContext) -> int:
    return len(kit.list_setups(context.uow))
