"""The application: its parts put together."""

from __future__ import annotations

import asyncio
import datetime as dt
import os
import re
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager, suppress
from pathlib import Path

from fastapi import APIRouter, FastAPI
from fastapi.openapi.utils import get_openapi
from fastapi.routing import APIRoute
from starlette.concurrency import run_in_threadpool
from starlette.middleware.gzip import GZipMiddleware
from starlette.requests import Request
from starlette.responses import RedirectResponse, Response
from starlette.routing import BaseRoute, Match
from starlette.staticfiles import StaticFiles
from starlette.types import Receive, Scope, Send

from welotrope import __version__
from welotrope.core.json_values import JsonObject
from welotrope.core.units.distance import Unit
from welotrope.interchange.pictures.workers import PictureWorkers
from welotrope.interchange.worker_pool import WorkerPool
from welotrope.store import cache
from welotrope.store.backups import keep_due
from welotrope.store.cache import VersionedCache
from welotrope.store.errors import DatabaseOperationError
from welotrope.store.queries.kit import find_selected_setup
from welotrope.store.session import Database
from welotrope.store.sweeping import sweep_daily
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.api import calc, live, testshot
from welotrope.web.app import browser_files
from welotrope.web.app.browser_files import HeadAsGet
from welotrope.web.app.security import Guard
from welotrope.web.app.server import local_now
from welotrope.web.request import errors
from welotrope.web.request.context import NoSetupError
from welotrope.web.request.device_pairing import DevicePairing
from welotrope.web.request.heavy import Turnstile
from welotrope.web.request.jobs import JobRunner
from welotrope.web.request.live_sweeps import LiveSweeps
from welotrope.web.request.templating import STATIC, WEB
from welotrope.web.rooms.field.page import field_book
from welotrope.web.rooms.field.pocket import pocket_file
from welotrope.web.rooms.log.sidecar_writing import recover as recover_sidecars
from welotrope.web.rooms.practice.keeper import RoundKeeper
from welotrope.web.rooms.registry import ROOMS

_WORKER = "welotrope.interchange.{}_worker"
# Pages worked on at once, beside one change.
READERS = 4
# What one calculation of the API, one export, and one change of thousands of records may take.
CALCULATION_S, EXPORT_S, BULK_S = 20.0, 300.0, 120.0


class CachedStatic(StaticFiles):
    """Static files that a browser may keep: their URLs carry a hash of the content.

    Scripts lie with the component or room they belong to.
    """

    scripts = StaticFiles(directory=WEB)

    def lookup_path(self, path: str) -> tuple[str, os.stat_result | None]:
        """Find a file among the static ones, or a script anywhere."""
        found = super().lookup_path(path)
        return self.scripts.lookup_path(path) if found[1] is None and path.endswith(".js") else found

    async def get_response(self, path: str, scope: Scope) -> Response:
        """Answer with a year's caching when the URL names the version."""
        response = await super().get_response(path, scope)
        if scope.get("query_string", b"").startswith(b"v="):
            response.headers["cache-control"] = "public, max-age=31536000, immutable"
        return response


# What is packed already, as its kind is: packing it again would take seconds of everybody's time.
_PACKED = re.compile(
    r"/log/pictures/\d+/.*|.*\.(zip|pdf|jpg|png|woff2|sqlite3)|/practice/rounds/.*/frame|/kit/backups/.+"
)


class Packed(GZipMiddleware):
    """Pack answers, but for those that are packed already."""

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on what is packed already."""
        if scope["type"] == "http" and _PACKED.fullmatch(scope["path"]):
            await self.app(scope, receive, send)
        else:
            await super().__call__(scope, receive, send)


_FIRST_BACKUP_S, _BACKUPS_EVERY_S = 20, 600
_MOST_AT_END = 150 * 1024**2  # bytes that are copied in well under a second


async def _keep_backups(database: Database, now: Callable[[], dt.datetime]) -> None:
    """Look now and then whether a backup is due, and once a day for files that nothing refers to.

    A disk that is full and a database that is busy are tried again later.
    """
    await asyncio.sleep(_FIRST_BACKUP_S)
    while True:
        for work in (keep_due, sweep_daily):
            with suppress(OSError, DatabaseOperationError):
                await run_in_threadpool(work, database, now())
        await asyncio.sleep(_BACKUPS_EVERY_S)


class _LateRoutes(BaseRoute):
    """The routes below a path, made by ``make`` at the first request that needs one."""

    def __init__(self, below: str, make: Callable[[], APIRouter]) -> None:
        self._below, self._make = f"{below}/", make

    def matches(self, scope: Scope) -> tuple[Match, Scope]:
        """Match every path below."""
        ours = scope["type"] == "http" and scope["path"].startswith(self._below)
        return (Match.FULL if ours else Match.NONE), {}

    async def handle(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let the routes answer."""
        await self._make()(scope, receive, send)


class Application(FastAPI):
    """The application, whose OpenAPI document is that of the calculations."""

    def openapi(self) -> JsonObject:
        """Return the OpenAPI document, made once."""
        if self.openapi_schema is None:
            routes = [*calc.calculations().routes, *testshot.router.routes, *live.router.routes]
            self.openapi_schema = get_openapi(title=self.title, version=self.version, routes=routes)
        return self.openapi_schema


def _take_routes(app: FastAPI, router: APIRouter) -> None:
    """Take the routes of a router as they are.

    Including it would build every one of them anew at the first request of each application, half a second in all.
    """
    for route in router.routes:
        if isinstance(route, APIRoute):
            route.include_in_schema = False
        app.router.routes.append(route)


def create_app(
    folder: Path, *, now: Callable[[], dt.datetime] = local_now, lan: tuple[str, int] | None = None
) -> FastAPI:
    """Build the application on a data folder; with ``lan`` paired devices may come in at that address and port.

    Raises
    ------
    DatabaseUnusableError
        When the folder's database cannot be used.
    """
    database = Database(folder)
    runner, cached = JobRunner(database, now), VersionedCache(database.path)
    pairing = DevicePairing(*lan, database, now) if lan else None

    @asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        runner.recover()
        recover_sidecars(database)
        cache.clear_incoming(folder)
        cache.clear_leftovers(folder)
        for begin in app.state.at_start:
            begin()
        looking = asyncio.create_task(_keep_backups(database, now))
        yield
        looking.cancel()
        for watch in app.state.watches.values():
            watch.stop()
        app.state.calculations.close()
        app.state.exports.close()
        app.state.bulk.close()
        app.state.pictures.close()
        runner.close()
        if pairing is not None:
            pairing.note_seen()
        cached.close()
        if database.path.stat().st_size <= _MOST_AT_END:
            with suppress(OSError):
                keep_due(database, now(), closing=True)
        database.close()

    app = Application(
        title="Welotrope", version=__version__, docs_url=None, redoc_url=None, openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )  # fmt: skip
    app.state.database, app.state.cache, app.state.device_pairing = database, cached, pairing
    app.state.at_start = []  # what begins once the application runs
    app.state.writing, app.state.reading = asyncio.Lock(), asyncio.Semaphore(READERS)
    app.state.now, app.state.clock_is_made_up = now, False
    app.state.rounds, app.state.jobs, app.state.pictures = RoundKeeper(), runner, PictureWorkers()
    app.state.calculations = WorkerPool(_WORKER.format("calc"), count=1, most_s=CALCULATION_S, most_waiting=6)
    app.state.exports = WorkerPool(_WORKER.format("export"), count=1, most_s=EXPORT_S, most_waiting=6)
    app.state.bulk = WorkerPool(_WORKER.format("bulk"), count=1, most_s=BULK_S, most_waiting=4)
    app.state.heavy = Turnstile()
    app.state.live_sweeps = LiveSweeps()
    app.state.watches = {}  # folders that are watched, by series of test shots
    app.state.rooms = ROOMS
    pages = [section.router for room in ROOMS for section in room.sections]
    for router in (*pages, browser_files.router):
        _take_routes(app, router)
    app.router.routes.append(_LateRoutes(calc.PREFIX, calc.calculations))
    app.router.routes.extend([*testshot.router.routes, *live.router.routes])
    app.mount("/static", CachedStatic(directory=STATIC), name="static")
    errors.install(app)

    @app.exception_handler(NoSetupError)
    def _no_setup(_request: Request, _error: NoSetupError) -> Response:
        return RedirectResponse("/start", 303)

    app.add_middleware(HeadAsGet)
    app.add_middleware(Packed, minimum_size=1024, compresslevel=4)
    app.add_middleware(Guard)
    return app


def pocket_html(uow: UnitOfWork, now: dt.datetime, look: str, unit: Unit) -> str:
    """Return the field page of all set-ups as one HTML file; '' when there is no set-up yet."""
    book = field_book(uow, now, find_selected_setup(uow), unit)
    return pocket_file(book, look) if book["hands"] else ""
