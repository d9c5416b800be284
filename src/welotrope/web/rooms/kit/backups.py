"""/kit/backups: what is kept by itself, everything as one file, and putting either back."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import FileResponse, Response

from welotrope.core.errors import UnreadableError
from welotrope.store import backups
from welotrope.store import backups as ready
from welotrope.store.archive import write_archive
from welotrope.store.backups import DatedBackup, Ready
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.heavy import exported
from welotrope.web.request.jobs import Progress


@dataclass(frozen=True, kw_only=True)
class BackupsPage:
    """The backups there are, newest first, where they lie, what is in use now, and what is ready to be put back.

    ``problem`` says why something could not be done, ``done`` what was.
    """

    backups: tuple[DatedBackup, ...]
    folder: str
    now: tuple[tuple[str, int], ...]
    ready: Ready | None
    problem: str = ""
    done: str = ""

    @property
    def compared(self) -> tuple[tuple[str, int, int], ...]:
        """What is in use and what is ready, side by side: words, how many now, how many then."""
        then = dict(self.ready.holds if self.ready else ())
        return tuple((words, count, then.get(words, 0)) for words, count in self.now)


router = APIRouter()
EXPORTS = "exports"


_DONE = {
    "kept": "Backed up.", "same": "Nothing changed since the last backup: none was needed.",
    "restored": "It is in place. What was there before is kept below. Devices have to be paired again.",
}  # fmt: skip


@router.get("/kit/backups")
def show(context: CurrentContext) -> Response:
    """List the backups, and show what is ready to be put back."""
    return _page(context)


def _page(context: RequestContext, *, problem: str = "") -> Response:
    folder = context.uow.folder
    page = BackupsPage(
        backups=tuple(backups.list_backups(folder)), folder=str(folder), ready=ready.what_is_ready(folder),
        now=backups.holds(context.request.app.state.database.path), problem=problem,
        done=_DONE.get(context.request.query_params.get("was", ""), ""),
    )  # fmt: skip
    return context.page("kit/backups/page.html", page, status=422 if problem else 200)


@router.post("/kit/backups")
def back_up_now(context: CurrentContext) -> Response:
    """Make a backup at once."""
    context.hand_over()
    made = backups.keep_now(context.request.app.state.database, context.now())
    return context.go(f"/kit/backups?was={'same' if made is None else 'kept'}")


@router.post("/kit/backups/look")
def look(context: CurrentContext) -> Response:
    """Check a backup of the list, or a backup or archive on this computer, beside the pages; nothing is changed."""
    said, folder = str(context.typed.get("file", "")).strip(), context.uow.folder
    known = {one.path.name: one.path for one in backups.list_backups(folder)}
    source = known.get(said) or Path(said).expanduser()
    if not said or not source.is_absolute():
        return _page(
            context,
            problem=f"File: read “{said}”; that is no whole path. Write one such as /home/me/welotrope-20260314.zip.",
        )
    if not source.is_file():
        return _page(
            context,
            problem=f"File: read “{said}”; no file lies there. "
            "Write the path of a backup or an archive on this computer.",
        )

    def work(progress: Progress) -> str:
        try:
            ready.make_ready(source, folder, progress.step)
        except ready.NotReadyError as error:
            raise UnreadableError("file", source.name, str(error).rstrip("."), "Choose another file") from error
        return "/kit/backups"

    return context.go(f"/jobs/{context.request.app.state.jobs.start(f'Looking into {source.name}', work)}")


@router.post("/kit/backups/put")
def put(context: CurrentContext) -> Response:
    """Put what is ready in place; what was there is kept."""
    context.hand_over()
    try:
        ready.put_in_place(context.request.app.state.database, context.now())
    except ready.NotReadyError as error:
        return _page(context, problem=str(error))
    return context.go("/kit/backups?was=restored")


@router.post("/kit/backups/leave")
def leave(context: CurrentContext) -> Response:
    """Let go of what is ready."""
    ready.let_go(context.uow.folder)
    return context.go("/kit/backups")


@router.get("/kit/backups/everything.zip")
def everything(request: Request) -> Response:
    """Return everything as one archive."""
    now = request.app.state.now()
    return exported(request, "everything", f"welotrope-{now:%Y%m%d}.zip", "application/zip", made=now.isoformat())


@router.post("/kit/backups/everything")
def make_everything(context: CurrentContext) -> Response:
    """Make the archive beside the pages, with progress; the last one made stays until the next."""
    database, folder, now = context.request.app.state.database, context.uow.folder / EXPORTS, context.now()

    def work(progress: Progress) -> str:
        folder.mkdir(exist_ok=True, mode=0o700)
        target = folder / f"welotrope-{now:%Y%m%d-%H%M%S}.zip"
        target.unlink(missing_ok=True)
        write_archive(database, target, now, step=progress.step)
        for old in folder.glob("*.zip"):
            if old != target:
                old.unlink()
        return f"/kit/backups/exports/{target.name}"

    return context.go(f"/jobs/{context.request.app.state.jobs.start('Everything as one file', work)}")


@router.get("/kit/backups/exports/{name}")
def export(context: CurrentContext, name: str) -> Response:
    """Return an archive that was made."""
    found = next((made for made in (context.uow.folder / EXPORTS).glob("*.zip") if made.name == name), None)
    if found is None:
        raise HTTPException(404, "That archive is gone: make another")
    return FileResponse(found, media_type="application/zip", filename=found.name)


@router.get("/kit/backups/{name}")
def one(context: CurrentContext, name: str) -> Response:
    """Return a dated backup."""
    found = next((kept for kept in backups.list_backups(context.uow.folder) if kept.path.name == name), None)
    if found is None:
        raise HTTPException(404, "There is no backup of that name")
    return FileResponse(found.path, media_type="application/vnd.sqlite3", filename=found.path.name)
