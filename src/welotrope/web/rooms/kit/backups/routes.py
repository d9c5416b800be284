"""/kit/backups: what is kept day by day, and everything as one file."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import FileResponse, Response

from welotrope.store import backups
from welotrope.store.archive import write_archive
from welotrope.web.rooms.kit.backups.context import BackupsPage
from welotrope.web.shell.desk import AtDesk
from welotrope.web.shell.exports import exported
from welotrope.web.shell.jobs import Progress

router = APIRouter()
EXPORTS = "exports"


@router.get("/kit/backups")
def show(desk: AtDesk) -> Response:
    """List the dated backups."""
    folder = desk.book.folder
    page = BackupsPage(backups=tuple(backups.list_backups(folder)), folder=str(folder), keep=backups.KEEP)
    return desk.page("kit/backups/page.html", page)


@router.get("/kit/backups/everything.zip")
def everything(request: Request) -> Response:
    """Return everything as one archive."""
    now = request.app.state.now()
    return exported(request, "everything", f"welotrope-{now:%Y%m%d}.zip", "application/zip", made=now.isoformat())


@router.post("/kit/backups/everything")
def make_everything(desk: AtDesk) -> Response:
    """Make the archive beside the pages, with progress; the last one made stays until the next."""
    database, folder, now = desk.request.app.state.database, desk.book.folder / EXPORTS, desk.now()

    def work(progress: Progress) -> str:
        folder.mkdir(exist_ok=True, mode=0o700)
        target = folder / f"welotrope-{now:%Y%m%d-%H%M%S}.zip"
        target.unlink(missing_ok=True)
        write_archive(database, target, now, progress.step)
        for old in folder.glob("*.zip"):
            if old != target:
                old.unlink()
        return f"/kit/backups/exports/{target.name}"

    return desk.go(f"/jobs/{desk.request.app.state.jobs.start('Everything as one file', work)}")


@router.get("/kit/backups/exports/{name}")
def export(desk: AtDesk, name: str) -> Response:
    """Return an archive that was made."""
    found = next((made for made in (desk.book.folder / EXPORTS).glob("*.zip") if made.name == name), None)
    if found is None:
        raise HTTPException(404, "That archive is gone: make another")
    return FileResponse(found, media_type="application/zip", filename=found.name)


@router.get("/kit/backups/{name}")
def one(desk: AtDesk, name: str) -> Response:
    """Return a dated backup."""
    found = next((kept for kept in backups.list_backups(desk.book.folder) if kept.path.name == name), None)
    if found is None:
        raise HTTPException(404, "There is no backup of that name")
    return FileResponse(found.path, media_type="application/vnd.sqlite3", filename=found.path.name)
