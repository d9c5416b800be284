"""What every request works with: the unit of work, the viewer's preferences, the selected set-up, and rendering."""

from __future__ import annotations

import datetime as dt
from collections.abc import AsyncIterator, Callable, Hashable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Annotated, Any, TypeVar
from urllib.parse import urlencode

from fastapi import Depends
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from welotrope.core.hand.attempt import Manner
from welotrope.core.inputs import Typed
from welotrope.core.kit.aids.constants import Eye
from welotrope.core.kit.fit import check_fit, verdict
from welotrope.core.plan.preset import Preset
from welotrope.core.rules import Severity
from welotrope.core.units.distance import Unit
from welotrope.store.kept import Kept
from welotrope.store.queries import hands, history, kit, practice, presets
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.shell.bulk import LARGE, changed_in_bulk
from welotrope.web.shell.heavy import Turnstile
from welotrope.web.shell.limits import MAX_BODY_BYTES, local_path
from welotrope.web.shell.preferences import Preferences, preferences_of
from welotrope.web.shell.room import Room, Section
from welotrope.web.shell.templating import environment
from welotrope.web.shell.unbroken import with_units_unbroken
from welotrope.web.state.aim import Aim
from welotrope.web.state.hand import Hand
from welotrope.web.state.personal import Hands, Personal
from welotrope.web.state.ring_state import RingState, ring_state

SAFE_METHODS = {"GET", "HEAD", "OPTIONS"}
MAX_FIELDS = 4000
Value = TypeVar("Value")


class NoSetupError(Exception):
    """Nothing is in hand yet: the way in leads to the start page."""


@dataclass(frozen=True)
class Toast:
    """The line at the foot of the page after a change, with its undo."""

    text: str
    undo_id: int | None


@dataclass(frozen=True, kw_only=True)
class Chrome:
    """What surrounds a page."""

    room: str
    rooms: tuple[tuple[str, str, str], ...]
    tabs: tuple[Section, ...]
    preferences: Preferences
    in_hand: kit.StoredSetup | None
    gone: bool
    blur_text: str
    fit: Severity | None
    fit_reason: str
    query: str
    toast: Toast | None
    here: str
    undo_to: str
    back: str
    numbers_in: Unit
    aim: Aim
    posted: bool
    first_sight: str


class RequestContext:
    """One request's view of the application."""

    def __init__(
        self, request: Request, uow: UnitOfWork, now: Callable[[], dt.datetime], typed: FormData | None = None
    ) -> None:
        self.request = request
        self.typed = FormData() if typed is None else typed
        self.uow = uow
        self.now = now
        self.preferences = preferences_of(request)
        self.hand, self._taken, self._gone = Hand.read(request.query_params), False, False
        self._in_hand: kit.StoredSetup | None = None
        self._presets: list[Preset] | None = None
        self._told: list[hands.Told] | None = None
        # Before anything is read, so that nothing older is kept as being of this version.
        kept: Kept = request.app.state.kept
        self._kept, self._version = kept, kept.version() if request.method in SAFE_METHODS else None

    @property
    def rooms(self) -> tuple[Room, ...]:
        """Every room there is."""
        rooms: tuple[Room, ...] = self.request.app.state.rooms
        return rooms

    def kept(self, what: Hashable, make: Callable[[], Value]) -> Value:
        """Return a value cached until something is committed, made by ``make`` if it is not there.

        One that changes something works it out for itself.
        """
        return make() if self._version is None else self._kept.get(self._version, what, make)

    def in_hand(self) -> kit.StoredSetup:
        """Return the set-up in hand; raises NoSetupError when there is none."""
        stored = self.held()
        if stored is None:
            raise NoSetupError
        return stored

    @property
    def held_as(self) -> tuple[int | None, float | None]:
        """By what the set-up in hand is told from others: its key, and the focal length this tab's address says."""
        stored = self.held()
        return stored.id if stored else None, self.hand.zoom_mm

    def as_read(self) -> kit.StoredSetup:
        """Return the set-up in hand as its ring is read: a zoom at its long end; raises NoSetupError."""
        stored = self.in_hand()
        return replace(stored, setup=stored.setup.zoomed(None))

    def take_in_hand(self, id: int) -> None:
        """Take a set-up in hand, in this tab and for the next one opened; raises NotFoundError."""
        kit.take_in_hand(self.uow, id)
        self.hand, self._in_hand, self._taken = Hand(id if self.hand.setup else None), None, True

    def zoom_to(self, zoom_mm: float) -> None:
        """Zoom the set-up in hand to a marked focal length, mm; errors as ``Lens.zoomed``."""
        stored = self.in_hand()
        kit.zoom_to(self.uow, stored.id, zoom_mm)
        self.hand, self._in_hand = replace(self.hand, zoom_mm=zoom_mm if self.hand.setup else None), None
        self._taken = True

    def presets(self) -> list[Preset]:
        """Return the presets of the lens in hand; raises NoSetupError when there is none."""
        if self._presets is None:
            lens = self.in_hand().lens_id
            self._presets = self.kept(("presets", lens), lambda: presets.list_presets(self.uow, lens))
        return self._presets

    @property
    def numbers_in(self) -> Unit:
        """Unit of a number typed without one: the one its form was drawn with, else the leading one."""
        said = self.typed.get("numbers_in") or self.request.query_params.get("numbers_in")
        return Unit(str(said)) if said in set(Unit) else self.preferences.unit

    def reads_by(self) -> Typed:
        """Return what readings of the ring in hand are read by."""
        return Typed(texts={}, bare=self.numbers_in, mm_per_degree=self.in_hand().setup.mm_per_degree)

    def personal(self) -> Personal:
        """Return the photographer's own constants and hand with the set-up in hand; with ``average=yes`` nobody's."""
        own = self.kept("constants", lambda: practice.own_constants(self.uow))
        average = self.request.query_params.get("average") == "yes"
        return Personal(own, Hands() if average else self._hands(Eye.of(own)["hand_half_life"]), average)

    def told(self) -> list[hands.Told]:
        """Return everything that tells of the hand of who is practising, with the set-up in hand."""
        if self._told is None:
            now, person, held = self.now(), self.preferences.person, self.held()
            what = ("told", now.date(), person, self.held_as)
            self._told = self.kept(what, lambda: hands.told(self.uow, now, person, held))
        return self._told

    def _hands(self, half_life_days: float) -> Hands:
        """Return the hand with each aid with the set-up in hand."""
        held = self.held()
        manner = Manner(setup=f"field {held.id}") if held else Manner()
        return Hands(hands.counting(self.told()), manner, half_life_days)

    def ring_state(self) -> RingState:
        """Read where the ring stands from the URL."""
        return ring_state(self.request.query_params, self.in_hand().setup, self.presets(), self.numbers_in)

    def aim(self) -> Aim:
        """Read what is focused on, from the form that was sent or the URL."""
        return Aim.read({**self.request.query_params, **self.typed})

    def _carried(self) -> str:
        """Return what the URL says of ring and aim, for pages that only pass it on."""
        query = self.request.query_params
        ring = [(name, value) for name, value in query.multi_items() if name in ("at", "stop", "subject")]
        return urlencode([*ring, *self.aim().pairs])

    def held(self) -> kit.StoredSetup | None:
        """Return the set-up in hand or None, read once a request unless something changes.

        It is the one the tab's address says, at the focal length it says, else the one chosen last.
        """
        if self._in_hand is None:
            wanted = self.hand.setup
            found = self.kept(("set-up", wanted), lambda: kit.find_setup(self.uow, wanted)) if wanted else None
            if found is None:
                found = self.kept("in hand", lambda: kit.setup_in_hand(self.uow))
                self._gone = bool(wanted)
                self.hand = Hand(found.id if found and self._gone else None)
            elif self.hand.zoom_mm is not None:
                focal = self.hand.zoom_mm * found.setup.lens.factor
                found = replace(found, setup=found.setup.at_focal(focal))
            self._in_hand = found
        return self._in_hand

    @contextmanager
    def change(self, label: str) -> Iterator[None]:
        """Make an undoable change, all of it or nothing; the next page offers to undo it."""
        with self.remember(), history.recorded(self.uow, label, self.now()) as key:
            yield
        self._entry_id = key()

    def take_back(self, id: int) -> None:
        """Undo a change; the next page offers to undo that."""
        if history.size_of(self.uow, id) > LARGE:
            self.in_bulk("undo", id=id)
            return
        with self.remember():
            self._entry_id = history.undo_change(self.uow, id, self.now())

    def in_bulk(self, do: str, **asked: Any) -> None:
        """Make a change of thousands of records, as :func:`changed_in_bulk`; the next page offers to undo it."""
        self.hand_over()
        try:
            self._entry_id = changed_in_bulk(self.request, do, self.now(), **asked)
        finally:
            self._in_hand = self._presets = self._told = self._version = None

    def hand_over(self) -> None:
        """End this request's transaction, so that another connection can write."""
        self.uow.rollback()

    @contextmanager
    def remember(self) -> Iterator[None]:
        """Make a change that nobody would want to undo, all of it or nothing. The one place that commits."""
        try:
            yield
            self.uow.commit()
        except BaseException:
            self.uow.rollback()
            raise
        finally:
            self._in_hand = self._presets = self._told = self._version = None

    def back_to(self, path: str) -> Response:
        """Go to ``path`` after a change, with the line that offers to undo it."""
        query = urlencode({"done": self._entry_id})
        return self.go(f"{path}{'&' if '?' in path else '?'}{query}")

    def go(self, path: str) -> Response:
        """Redirect a browser, or tell htmx to, so that a reload repeats nothing; a tab keeps what it holds in hand."""
        path = self.hand.put_into(path) if self.hand.setup or self._taken else path
        if self.request.headers.get("hx-request"):
            return Response(headers={"HX-Redirect": path})
        return RedirectResponse(path, 303)

    def page(self, template: str, page: Any, *, query: str = "", status: int = 200, part: str = "") -> HTMLResponse:
        """Render a page; the template lies in the room that it is a page of.

        With ``part`` the same address gives that part of it to htmx.
        """
        if part and self.wants_fragment:
            return self.fragment(part, page)
        room = template.partition("/")[0]
        return self._rendered(template, status, page=page, chrome=self._chrome(room, query))

    def fragment(self, template: str, page: Any, *, status: int = 200) -> HTMLResponse:
        """Render a part of a page for htmx."""
        return self._rendered(template, status, page=page, unit=self.preferences.unit)

    def _rendered(self, template: str, status: int, **given: Any) -> HTMLResponse:
        html = environment().get_template(f"rooms/{template}").render(**given)
        return HTMLResponse(with_units_unbroken(html), status)

    @property
    def wants_fragment(self) -> bool:
        """Whether htmx asks for a part."""
        return self.request.headers.get("hx-request") == "true"

    def _chrome(self, room: str, query: str) -> Chrome:
        stored = self.held()
        query = "&".join(part for part in (query or self._carried(), urlencode(self.hand.pairs)) if part)
        suffix = f"?{query}" if query else ""
        rooms = tuple(
            (open.key, open.label, open.path + suffix)
            for open in self.rooms
            if open.label and (stored is not None or not open.needs_setup)
        )
        blur = ""
        if stored is not None:
            blur = f"{stored.setup.blur_mm:.3f} mm ({stored.setup.standard.describe()})"
        findings = check_fit(stored.setup) if stored else ()
        reason = findings[0].text if findings else ""
        camera = stored.setup.body.kind if stored else None
        here = self.request.url.path + (f"?{self.request.url.query}" if self.request.url.query else "")
        back = local_path(self.request.query_params.get("back", "/scale"), "/scale")
        return Chrome(
            room=room, rooms=rooms, tabs=next((open.tabs(camera) for open in self.rooms if open.key == room), ()),
            preferences=self.preferences, in_hand=stored, blur_text=blur, fit=verdict(findings), fit_reason=reason,
            gone=self._gone,
            query=query, toast=self._toast(), here=here, back=back,
            undo_to=local_path(self.request.query_params.get("undo_to", ""), here),
            numbers_in=self.numbers_in, aim=self.aim(),
            posted=self.request.method not in SAFE_METHODS,
            first_sight="" if room in self.preferences.seen or stored is None else self._first_sight(room),
        )  # fmt: skip

    def _first_sight(self, room: str) -> str:
        """Return how the instrument of a room is read, on the page that has it."""
        here = self.request.url.path
        return next((open.first_sight for open in self.rooms if open.key == room and open.path == here), "")

    def _toast(self) -> Toast | None:
        done = self.request.query_params.get("done", "")
        if not (done.isascii() and done.isdigit()) or len(done) > 9:
            return None
        try:
            entry = history.get_change(self.uow, int(done))
        except LookupError:
            return None
        return Toast(entry.label, None if entry.undone or entry.retired else entry.id)


async def _typed(request: Request) -> AsyncIterator[FormData]:
    """Read a form whole before anything else: a sender that stalls then holds no connection and no thread."""
    if request.method in SAFE_METHODS:
        yield FormData()
        return
    async with request.form(max_files=2, max_fields=MAX_FIELDS, max_part_size=MAX_BODY_BYTES) as data:
        yield data


TypedForm = Annotated[FormData, Depends(_typed, scope="function")]


@contextmanager
def heavy_context(request: Request) -> Iterator[RequestContext]:
    """Open a read-only context for a slow answer: outside write transactions, a few at a time."""
    turnstile: Turnstile = request.app.state.heavy
    with turnstile.enter(), reading_context(request) as context:
        yield context


@contextmanager
def reading_context(request: Request, typed: FormData | None = None) -> Iterator[RequestContext]:
    """Open a read-only context for a request that worked outside write transactions."""
    with request.app.state.database.session(write=False) as uow:
        yield RequestContext(request, uow, request.app.state.now, typed)


async def _turn(request: Request, typed: Annotated[FormData, Depends(_typed)]) -> AsyncIterator[FormData]:
    """Let one writer in at a time and a few readers beside it, each in the order they came, before they take a thread.

    The file's own wait sleeps and tries again, so that a writer can be passed over for seconds, and waiting in a
    thread could leave none for the one who writes. More readers at once would only make every answer late.
    """
    async with request.app.state.reading if request.method in SAFE_METHODS else request.app.state.writing:
        yield typed


async def _request_context(
    request: Request, typed: Annotated[FormData, Depends(_turn, scope="function")]
) -> AsyncIterator[RequestContext]:
    # Without a thread: a unit of work does nothing when it opens, and at its end only returns its connection.
    with request.app.state.database.session(write=request.method not in SAFE_METHODS) as uow:
        yield RequestContext(request, uow, request.app.state.now, typed)


# Done before the answer is sent: a receiver that stalls holds no connection and no turn.
CurrentContext = Annotated[RequestContext, Depends(_request_context, scope="function")]
