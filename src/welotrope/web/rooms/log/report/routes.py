"""The report of an outing, and the outing as files: JSON and a contact sheet."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.review.frame import Frame
from welotrope.core.review.search import FrameSearch
from welotrope.core.units.dates import format_date
from welotrope.interchange.print.contact import ContactFrame, contact_sheet
from welotrope.store.queries import files, log, pictures, rolls
from welotrope.web.request.context import CurrentContext, RequestContext, heavy_context
from welotrope.web.request.exports import exported
from welotrope.web.request.limits import Key
from welotrope.web.rooms.log.frame.words import frame_words
from welotrope.web.rooms.log.report.context import MOST, report_page

router = APIRouter()


@router.get("/log/report")
def show_report(context: CurrentContext, *, outing: Key | None = None) -> Response:
    """Show what an outing tells."""
    page = report_page(context.uow, outing, context.preferences.unit)
    return context.page("log/report/page.html" if page else "log/report/empty.html", page)


@router.get("/log/export.json")
def export_json(request: Request, outing: Key) -> Response:
    """Download an outing as JSON."""
    return exported(request, "json", f"welotrope-outing-{outing}.json", "application/json", outing=outing)


@router.get("/log/contact.pdf")
def contact(request: Request, outing: Key) -> Response:
    """Download the contact sheet of an outing."""
    with heavy_context(request) as context:
        data = _contact_sheet(context, outing)
    headers = {"content-disposition": f'attachment; filename="welotrope-contact-{outing}.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


def _contact_sheet(context: RequestContext, outing: int) -> bytes:
    found, named, unit = log.get_outing(context.uow, outing), _rolls(context), context.preferences.unit
    frames = _frames(context, outing)
    shown = pictures.first_of_frames(context.uow, [frame.id for frame in frames])
    cells = []
    for frame in frames:
        picture = shown.get(frame.id)
        thumb = files.read_file(context.uow, picture.thumb_sha) if picture and picture.thumb_sha else None
        words = frame_words(frame, unit, roll=named.get(frame.roll_id or 0, ""))
        cells.append(ContactFrame.of(frame, words.taken, words.found, unit, thumb[0] if thumb else None))
    return contact_sheet(f"{found.name}, {format_date(found.day)}", cells)


def _frames(context: RequestContext, outing: int) -> list[Frame]:
    log.get_outing(context.uow, outing)
    return list(reversed(log.page_of_frames(context.uow, outing, FrameSearch(), None, MOST)))


def _rolls(context: RequestContext) -> dict[int, str]:
    return {id: roll.name for id, roll in rolls.roll_names(context.uow).items()}
