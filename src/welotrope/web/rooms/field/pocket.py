"""The pocket file: the field page with its book, styles, fonts and script in one file that needs no network."""

from __future__ import annotations

import base64
import functools
import re
from dataclasses import dataclass

from fastapi import APIRouter
from starlette.datastructures import UploadFile
from starlette.responses import Response

from welotrope.core.json_values import JsonObject
from welotrope.core.review.field_entry import FieldEntry, FieldFrame
from welotrope.core.units.distance import Unit, format_distance
from welotrope.core.units.exposure import format_stop
from welotrope.core.units.text import format_date
from welotrope.interchange.field_log import BadEntry, ReadLog, read_log
from welotrope.interchange.field_transfer import new_among, take_over
from welotrope.interchange.kit_csv import decode
from welotrope.store.queries import field, kit
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.templating import STATIC, environment
from welotrope.web.rooms.field.page import book_json, field_book, script_text

_KINDS = {"FieldFrame": "frame", "FieldUndo": "taken back", "FieldMark": "result", "FieldTick": "sheet tick"}
MAX_TEXT = 1_500_000


@dataclass(frozen=True)
class LogLine:
    """An entry of a log: what it is, when, what it says, and whether it was taken over before."""

    kind: str
    at: str
    words: str
    already: bool


@dataclass(frozen=True, kw_only=True)
class PocketPage:
    """The way out, and what a log that came back would bring.

    ``text`` is what was sent, ``said`` what was put right or left out as it was stored.
    """

    setups: int
    text: str = ""
    lines: tuple[LogLine, ...] = ()
    bad: tuple[BadEntry, ...] = ()
    read: bool = False
    said: tuple[str, ...] = ()

    @property
    def fresh(self) -> int:
        """How many entries are new."""
        return sum(not line.already for line in self.lines)


def read_pocket(uow: UnitOfWork, text: str, setups: int, unit: Unit) -> tuple[ReadLog, PocketPage]:
    """Read a log that came back, and the page that shows it."""
    if not text.strip() or len(text) > MAX_TEXT:
        reason = "Nothing was sent: choose the file, or paste its text." if not text.strip() else "That is too long."
        read = ReadLog([], [BadEntry("", reason)])
    else:
        read = read_log(text)
    known = field.became(uow, (entry.key for entry in read.entries))
    lines = tuple(_line(entry, entry.key in known, unit) for entry in read.entries)
    return read, PocketPage(setups=setups, text=text[:MAX_TEXT], lines=lines, bad=tuple(read.bad), read=True)


def _line(entry: FieldEntry, already: bool, unit: Unit) -> LogLine:
    words = ""
    if isinstance(entry, FieldFrame):
        words = f"{entry.lens_name}, {format_distance(entry.distance_mm, unit)} at {format_stop(entry.stop)}"
    return LogLine(_KINDS[type(entry).__name__], f"{format_date(entry.at, '%-d %b %H:%M')}", words, already)


_FONT = re.compile(r"url\(\.\./fonts/([\w-]+\.woff2)\)")


def pocket_file(book: JsonObject, look: str) -> str:
    """Return the file as HTML."""
    template = environment().get_template("rooms/field/pocket/file.html")
    return template.render(book=book_json(book), look=look, style=_style(), script=_script(), made=book["made"])


def _script() -> str:
    # A script element ends at its closing tag, wherever that stands.
    return script_text().replace("</script", "<\\/script")


@functools.cache
def _style() -> str:
    return _FONT.sub(_inline, (STATIC / "css/app.css").read_text())


def _inline(found: re.Match[str]) -> str:
    font = base64.b64encode((STATIC / "fonts" / found[1]).read_bytes()).decode()
    return f"url(data:font/woff2;base64,{font})"


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
