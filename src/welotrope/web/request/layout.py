"""What surrounds a page (rooms, tabs, selected set-up, flash message), and how a page is rendered in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING
from urllib.parse import urlencode

from starlette.responses import HTMLResponse

from welotrope.core.kit.camera_kind import CameraKind
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.rules import Severity
from welotrope.core.units.distance import Unit
from welotrope.store.queries import kit
from welotrope.web.request.flash import FlashMessage, flash_message
from welotrope.web.request.limits import SAFE_METHODS, local_path
from welotrope.web.request.preferences import Preferences
from welotrope.web.request.room import Section
from welotrope.web.request.shot_taking import MeasuredLine, measured_lines
from welotrope.web.request.templating import environment, with_units_unbroken
from welotrope.web.state.aim import Aim

if TYPE_CHECKING:
    from welotrope.web.request.context import RequestContext


@dataclass(frozen=True, kw_only=True)
class Layout:
    """What surrounds a page."""

    room: str
    rooms: tuple[tuple[str, str, str], ...]
    tabs: tuple[Section, ...]
    preferences: Preferences
    selected_setup: kit.StoredSetup | None
    gone: bool
    blur_text: str
    fit: Severity | None
    fit_reason: str
    query: str
    flash: FlashMessage | None
    here: str
    undo_to: str
    back: str
    numbers_in: Unit
    aim: Aim
    posted: bool
    first_sight: str
    measured: Callable[[], tuple[MeasuredLine, ...]]
    hidden: frozenset[str] = frozenset()

    @property
    def room_label(self) -> str:
        """What the room of the page is called in the rail; empty where it is not there."""
        return next((label for key, label, _ in self.rooms if key == self.room), "")

    def offers(self, link: str) -> bool:
        """Whether the page behind a link is of use with the selected camera; pages without a tab always are."""
        return link.partition("?")[0] not in self.hidden


def layout_of(context: RequestContext, room: str, query: str) -> Layout:
    """Return what surrounds a page of a room; ``query`` replaces what the address says of ring and aim."""
    stored = context.find_selected_setup()
    query = "&".join(part for part in (query or _carried(context), urlencode(context.selection.address.pairs)) if part)
    suffix = f"?{query}" if query else ""
    rooms = tuple(
        (open.key, open.label, open.path + suffix)
        for open in context.rooms
        if open.label and (stored is not None or not open.needs_setup)
    )
    findings = check_fit(stored.setup) if stored else ()
    address, params = context.request.url, context.request.query_params
    here = address.path + (f"?{address.query}" if address.query else "")
    camera = stored.setup.body.kind if stored else None
    return Layout(
        room=room, rooms=rooms, tabs=next((open.tabs(camera) for open in context.rooms if open.key == room), ()),
        preferences=context.preferences, selected_setup=stored, gone=context.selection.gone,
        blur_text=f"{stored.setup.blur_mm:.3f} mm ({stored.setup.standard.describe()})" if stored else "",
        fit=verdict(findings), fit_reason=findings[0].text if findings else "",
        query=query, flash=flash_message(context.uow, params.get("done", "")), here=here,
        back=local_path(params.get("back", "/scale"), otherwise="/scale"),
        undo_to=local_path(params.get("undo_to", ""), otherwise=here), numbers_in=context.numbers_in, aim=context.aim(),
        posted=context.request.method not in SAFE_METHODS,
        first_sight="" if room in context.preferences.seen or stored is None else _first_sight(context, room),
        measured=lambda: measured_lines(context), hidden=_hidden(context, camera),
    )  # fmt: skip


def rendered(template: str, status: int, **given: object) -> HTMLResponse:
    """Render a template of a room, with every number and its unit on one line."""
    html = environment().get_template(f"rooms/{template}").render(**given)
    return HTMLResponse(with_units_unbroken(html), status)


def _carried(context: RequestContext) -> str:
    """Return what the address says of ring and aim, for pages that only pass it on."""
    query = context.request.query_params
    ring = [(name, value) for name, value in query.multi_items() if name in ("at", "stop", "subject")]
    return urlencode([*ring, *context.aim().pairs])


def _hidden(context: RequestContext, camera: CameraKind | None) -> frozenset[str]:
    """Return the paths of the pages that are of no use with a kind of camera."""
    if camera is None:
        return frozenset()
    return frozenset(
        part.path for open in context.rooms for part in open.sections if part.tab and not part.suits(camera)
    )


def _first_sight(context: RequestContext, room: str) -> str:
    """Return how the instrument of a room is read, on the page that has it."""
    here = context.request.url.path
    return next((open.first_sight for open in context.rooms if open.key == room and open.path == here), "")
