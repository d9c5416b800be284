"""The report of an outing, and the outing as files: JSON and a contact sheet."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fastapi import APIRouter
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.kit.setup import Setup
from welotrope.core.review.evidence import RingMiss, ring_miss
from welotrope.core.review.frame import Frame, Outing
from welotrope.core.review.outcomes import Tally, tally
from welotrope.core.review.report import Division, Leaning, counted, divide, leaning
from welotrope.core.review.search import FrameSearch
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import format_date
from welotrope.interchange.print.contact import ContactFrame, contact_sheet
from welotrope.store.queries import files, kit, log, pictures, rolls
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.request.context import CurrentContext, RequestContext, heavy_context
from welotrope.web.request.heavy import exported
from welotrope.web.request.limits import Key
from welotrope.web.rooms.log.frame import FrameLine, FrameLists, frame_lines, frame_lists
from welotrope.web.rooms.log.frame_words import frame_words

MOST = 5000
MOST_MISSES = 40


@dataclass(frozen=True)
class Missed:
    """A frame whose focus fell elsewhere, with how far off the ring was where that can be told."""

    line: FrameLine
    miss: RingMiss | None


@dataclass(frozen=True, kw_only=True)
class ReportPage:
    """The report of an outing: hits divided, misses one by one, and what was noted."""

    outing: Outing
    outings: list[Outing]
    tally: Tally
    divisions: tuple[Division, ...]
    leaning: Leaning | None
    missed: tuple[Missed, ...]
    learned: tuple[FrameLine, ...]
    unit: Unit


@dataclass(frozen=True, kw_only=True)
class ReportData:
    """What is kept of an outing: frames, the oldest first, set-ups by key, and what frames are named by."""

    outing: Outing
    outings: Sequence[Outing]
    frames: Sequence[Frame]
    setups: Mapping[int, Setup]
    lists: FrameLists


def load_report(uow: UnitOfWork, outing_id: int | None) -> ReportData | None:
    """Read what is kept of an outing, the newest when none is asked for; None without any."""
    outings = log.list_outings(uow)
    outing = next((one for one in outings if one.id == outing_id), outings[0] if outings and not outing_id else None)
    if outing is None:
        return None
    frames = list(reversed(log.page_of_frames(uow, outing.id, FrameSearch(), None, MOST)))
    return ReportData(
        outing=outing, outings=outings[:40], frames=frames, lists=frame_lists(uow, frames),
        setups={one.id: one.setup for one in kit.list_setups(uow)},
    )  # fmt: skip


def report_page(data: ReportData, unit: Unit) -> ReportPage:
    """Return the report of an outing."""
    frames = data.frames
    missed = [frame for frame in frames if frame.outcome is not None and frame.outcome.is_miss][:MOST_MISSES]
    lines = frame_lines(data.lists, missed, unit)
    return ReportPage(
        outing=data.outing, outings=list(data.outings), tally=tally(counted(frames)), divisions=divide(frames),
        leaning=leaning(frames), unit=unit,
        missed=tuple(Missed(line, _miss(frame, data.setups)) for line, frame in zip(lines, missed, strict=True)),
        learned=frame_lines(data.lists, [one for one in frames if one.note][:MOST_MISSES], unit),
    )  # fmt: skip


def _miss(frame: Frame, setups: Mapping[int, Setup]) -> RingMiss | None:
    setup = setups.get(frame.setup_id or 0)
    return None if setup is None else ring_miss(setup, frame)


router = APIRouter()


@router.get("/log/report")
def show_report(context: CurrentContext, *, outing: Key | None = None) -> Response:
    """Show what an outing tells."""
    data = load_report(context.uow, outing)
    if data is None:
        return context.page("log/report/empty.html", None)
    return context.page("log/report/page.html", report_page(data, context.preferences.unit))


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
