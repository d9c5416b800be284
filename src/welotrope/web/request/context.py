"""What every request works with: the unit of work, the viewer's preferences, the selected set-up, and rendering."""

from __future__ import annotations

import datetime as dt
from collections.abc import AsyncIterator, Callable, Hashable, Iterator
from contextlib import AbstractContextManager, asynccontextmanager, contextmanager
from dataclasses import replace
from typing import Annotated, TypeVar
from urllib.parse import urlencode

from fastapi import Depends
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from welotrope.core.hand.skill_trial import Manner
from welotrope.core.inputs import FormInput
from welotrope.core.kit.aids.models import Eye
from welotrope.core.plan.field_settings import Preset
from welotrope.core.units.distance import Unit
from welotrope.store.cache import VersionedCache
from welotrope.store.queries import kit, observations, practice, ring_records
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.request.heavy import Turnstile
from welotrope.web.request.layout import layout_of, rendered
from welotrope.web.request.limits import MAX_BODY_BYTES, SAFE_METHODS
from welotrope.web.request.preferences import preferences_of
from welotrope.web.request.room import Room
from welotrope.web.request.setup_selection import SelectedSetup, SetupSelection
from welotrope.web.request.transactions import Transactions
from welotrope.web.state.aim import Aim
from welotrope.web.state.personal import Personal, SkillEstimates
from welotrope.web.state.ring_state import RingState, ring_state

MAX_FIELDS = 4000
Value = TypeVar("Value")


class NoSetupError(Exception):
    """There is no set-up yet: the request is redirected to the start page."""


class RequestContext:
    """One request's view of the application."""

    def __init__(
        self, request: Request, uow: UnitOfWork, now: Callable[[], dt.datetime], *, typed: FormData | None = None
    ) -> None:
        self.request = request
        self.typed = FormData() if typed is None else typed
        self.uow = uow
        self.now = now
        self.preferences = preferences_of(request)
        self.selection = SetupSelection(uow, SelectedSetup.read(request.query_params), self.cached)
        self._transactions = Transactions(request, uow, now, self._forget)
        self._presets: list[Preset] | None = None
        self._observations: list[observations.Observation] | None = None
        # Before anything is read, so that nothing older is kept as being of this version.
        cache: VersionedCache = request.app.state.cache
        self._cache, self._version = cache, cache.version() if request.method in SAFE_METHODS else None

    @property
    def rooms(self) -> tuple[Room, ...]:
        """Every room there is."""
        rooms: tuple[Room, ...] = self.request.app.state.rooms
        return rooms

    def cached(self, what: Hashable, make: Callable[[], Value]) -> Value:
        """Return a value cached until something is committed, made by ``make`` if it is not there.

        One that changes something works it out for itself.
        """
        return make() if self._version is None else self._cache.get(self._version, what, make)

    def selected_setup(self) -> kit.StoredSetup:
        """Return the selected set-up; raises NoSetupError when there is none."""
        stored = self.find_selected_setup()
        if stored is None:
            raise NoSetupError
        return stored

    def setup_as_read(self) -> kit.StoredSetup:
        """Return the selected set-up as its ring is read: a zoom at its long end; raises NoSetupError."""
        stored = self.selected_setup()
        return replace(stored, setup=stored.setup.zoomed(None))

    def select_setup(self, id: int) -> None:
        """Select a set-up, in this tab and for the next one opened; raises NotFoundError."""
        self.selection.select(id)

    def zoom_to(self, zoom_mm: float) -> None:
        """Zoom the selected set-up to a marked focal length, mm; errors as ``Lens.zoomed``."""
        self.selection.zoom_to(self.selected_setup(), zoom_mm)

    def presets(self) -> list[Preset]:
        """Return the presets of the selected lens; raises NoSetupError when there is none."""
        if self._presets is None:
            lens = self.selected_setup().lens_id
            self._presets = self.cached(("presets", lens), lambda: ring_records.list_presets(self.uow, lens))
        return self._presets

    @property
    def numbers_in(self) -> Unit:
        """Unit of a number typed without one: the one its form was drawn with, else the leading one."""
        said = self.typed.get("numbers_in") or self.request.query_params.get("numbers_in")
        return Unit(str(said)) if said in set(Unit) else self.preferences.unit

    def form_input(self) -> FormInput:
        """Return what readings of the selected ring are read by."""
        return FormInput(texts={}, bare=self.numbers_in, mm_per_degree=self.selected_setup().setup.mm_per_degree)

    def personal(self) -> Personal:
        """Return the photographer's own constants and hand with the selected set-up; with ``average=yes`` nobody's."""
        own = self.cached("constants", lambda: practice.own_constants(self.uow))
        average = self.request.query_params.get("average") == "yes"
        return Personal(
            own, SkillEstimates() if average else self._skill_estimates(Eye.of(own)["hand_half_life"]), average
        )

    def observations(self) -> list[observations.Observation]:
        """Return everything that tells of the hand of who is practising, with the selected set-up."""
        if self._observations is None:
            now, person, held = self.now(), self.preferences.person, self.find_selected_setup()
            what = ("told", now.date(), person, self.selection.key)
            self._observations = self.cached(
                what, lambda: observations.observations(self.uow, now, person=person, held=held)
            )
        return self._observations

    def _skill_estimates(self, half_life_days: float) -> SkillEstimates:
        """Return the hand with each aid with the selected set-up."""
        held = self.find_selected_setup()
        manner = Manner(setup=f"field {held.id}") if held else Manner()
        return SkillEstimates(observations.counting(self.observations()), manner, half_life_days)

    def ring_state(self) -> RingState:
        """Read where the ring stands from the URL."""
        return ring_state(self.request.query_params, self.selected_setup().setup, self.presets(), self.numbers_in)

    def aim(self) -> Aim:
        """Read what is focused on, from the form that was sent or the URL."""
        return Aim.read({**self.request.query_params, **self.typed})

    def find_selected_setup(self) -> kit.StoredSetup | None:
        """Return the selected set-up or None: the one of the tab's address, else the one selected last."""
        return self.selection.find()

    def undoable_transaction(self, label: str) -> AbstractContextManager[None]:
        """Return a transaction that can be undone; the next page offers to undo it."""
        return self._transactions.undoable(label)

    def transaction(self) -> AbstractContextManager[None]:
        """Return a transaction that nobody would want to undo."""
        return self._transactions.plain()

    def undo(self, id: int) -> None:
        """Undo a change; the next page offers to undo that."""
        self._transactions.undo(id)

    def in_bulk(self, do: str, **asked: object) -> None:
        """Change thousands of records, as :func:`changed_in_bulk`; the next page offers to undo it."""
        self._transactions.in_bulk(do, **asked)

    def hand_over(self) -> None:
        """End this request's transaction, so that another connection can write."""
        self._transactions.hand_over()

    def _forget(self) -> None:
        """Drop what was read before a transaction ended."""
        self._presets = self._observations = self._version = None
        self.selection.forget()

    def back_to(self, path: str) -> Response:
        """Go to ``path`` after a change, with the line that offers to undo it."""
        query = urlencode({"done": self._transactions.change_id})
        return self.go(f"{path}{'&' if '?' in path else '?'}{query}")

    def go(self, path: str) -> Response:
        """Redirect a browser, or tell htmx to, so that a reload repeats nothing; a tab keeps what it holds in hand."""
        path = self.selection.address.put_into(path) if self.selection.address.setup or self.selection.changed else path
        if self.request.headers.get("hx-request"):
            return Response(headers={"HX-Redirect": path})
        return RedirectResponse(path, 303)

    def page(self, template: str, page: object, *, query: str = "", status: int = 200, part: str = "") -> HTMLResponse:
        """Render a page; the template lies in the room that it is a page of.

        With ``part`` the same address gives that part of it to htmx.
        """
        if part and self.wants_fragment:
            return self.fragment(part, page)
        room = template.partition("/")[0]
        return rendered(template, status, page=page, layout=layout_of(self, room, query))

    def fragment(self, template: str, page: object, *, status: int = 200) -> HTMLResponse:
        """Render a part of a page for htmx."""
        return rendered(template, status, page=page, unit=self.preferences.unit)

    @property
    def wants_fragment(self) -> bool:
        """Whether htmx asks for a part."""
        return self.request.headers.get("hx-request") == "true"


@asynccontextmanager
async def _form(request: Request) -> AsyncIterator[FormData]:
    """Read a form whole before anything else: a sender that stalls then holds no connection and no thread."""
    if request.method in SAFE_METHODS:
        yield FormData()
        return
    async with request.form(max_files=2, max_fields=MAX_FIELDS, max_part_size=MAX_BODY_BYTES) as data:
        yield data


async def _typed(request: Request) -> AsyncIterator[FormData]:
    async with _form(request) as typed:
        yield typed


TypedForm = Annotated[FormData, Depends(_typed, scope="function")]


@contextmanager
def heavy_context(request: Request) -> Iterator[RequestContext]:
    """Open a read-only context for a slow answer: outside write transactions, a few at a time."""
    turnstile: Turnstile = request.app.state.heavy
    with turnstile.enter(), reading_context(request) as context:
        yield context


@contextmanager
def reading_context(request: Request, *, typed: FormData | None = None) -> Iterator[RequestContext]:
    """Open a read-only context for a request that worked outside write transactions."""
    with request.app.state.database.session(write=False) as uow:
        yield RequestContext(request, uow, request.app.state.now, typed=typed)


async def _request_context(request: Request) -> AsyncIterator[RequestContext]:
    """Let one writer in at a time and a few readers beside it, each in the order they came, before they take a thread.

    The file's own wait sleeps and tries again, so that a writer can be passed over for seconds, and waiting in a
    thread could leave none for the one who writes. More readers at once would only make every answer late. One
    dependency does it all: the framework works through each of them for each route, at every start.
    """
    reads = request.method in SAFE_METHODS
    async with _form(request) as typed, request.app.state.reading if reads else request.app.state.writing:
        # Without a thread: a unit of work does nothing when it opens, and at its end only returns its connection.
        with request.app.state.database.session(write=not reads) as uow:
            yield RequestContext(request, uow, request.app.state.now, typed=typed)


# Done before the answer is sent: a receiver that stalls holds no connection and no turn.
CurrentContext = Annotated[RequestContext, Depends(_request_context, scope="function")]
