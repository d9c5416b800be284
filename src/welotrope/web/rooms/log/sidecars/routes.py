"""Giving the data back: shown, written, put back, or taken along as a ZIP."""

from __future__ import annotations

import io
import secrets
import zipfile
from pathlib import Path

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.store.files import hash_of
from welotrope.store.queries import files, sidecars
from welotrope.web.rooms.log.pictures.routes import at_computer
from welotrope.web.rooms.log.sidecars.context import Draft, drafts_of, sidecars_page
from welotrope.web.rooms.log.sidecars.files import read_sidecar, write_sidecar
from welotrope.web.shell.desk import AtDesk, Desk
from welotrope.web.shell.limits import Key

router = APIRouter()
_TYPE = "application/rdf+xml"


@router.get("/log/sidecars")
def show_sidecars(desk: AtDesk, outing: Key | None = None) -> Response:
    """Show what would be written beside the pictures of an outing."""
    page = sidecars_page(desk.book, outing, desk.now(), at_computer=at_computer(desk))
    return desk.page("log/sidecars/page.html", page)


@router.post("/log/sidecars/write")
def write(desk: AtDesk, outing: Key) -> Response:
    """Write the sidecars of an outing; what was there before is kept, to be put back."""
    batch, told, count = secrets.token_hex(8), [], 0
    with desk.remember():
        for draft in drafts_of(desk.book, outing, desk.now()):
            try:
                count += _write_one(desk, batch, draft)
            except WelotropeError as error:
                told.append(error.sentence)
            if draft.problem:
                told.append(draft.problem)
    told.insert(0, f"{count} sidecar{'' if count == 1 else 's'} written.")
    return _shown(desk, outing, told)


def _write_one(desk: Desk, batch: str, draft: Draft) -> bool:
    if draft.path is None or draft.merged is None or not draft.changes:
        return False
    before = read_sidecar(draft.path)
    kept = None if before is None else files.keep_file(desk.book, before, _TYPE, desk.now())
    write_sidecar(draft.path, draft.merged.data)
    after = hash_of(draft.merged.data)
    sidecars.note_written(desk.book, batch, draft.picture.id, str(draft.path), kept, after, desk.now())
    return True


@router.post("/log/sidecars/undo")
def undo(desk: AtDesk, outing: Key) -> Response:
    """Put sidecars back as they were, byte for byte, where nobody changed them since."""
    told, count = [], 0
    with desk.remember():
        for one in sidecars.standing_of(desk.book, str(desk.typed.get("batch", ""))[:40]):
            try:
                _put_back(desk, one)
                count += 1
            except WelotropeError as error:
                told.append(error.sentence)
    told.insert(0, f"{count} sidecar{'' if count == 1 else 's'} put back as before.")
    return _shown(desk, outing, told)


def _put_back(desk: Desk, one: sidecars.Written) -> None:
    path = Path(one.path)
    now = read_sidecar(path)
    if now is None or hash_of(now) != one.after_sha:
        works = "It was left as it is; change it by hand"
        raise UnreadableError("sidecar", path.name, "it was changed or removed since it was written", works)
    before = files.read_file(desk.book, one.before_sha) if one.before_sha else None
    if one.before_sha and before is None:
        raise UnreadableError(
            "sidecar", path.name, "what was there before is not kept any more", "It was left as it is"
        )
    if before is None:
        try:
            path.unlink()
        except OSError as error:
            reason = f"it cannot be removed ({error.strerror})"
            raise UnreadableError("sidecar", path.name, reason, "Give yourself the right to it") from None
    else:
        write_sidecar(path, before[0])
    sidecars.note_undone(desk.book, one.id)


@router.get("/log/sidecars.zip")
def zipped(desk: AtDesk, outing: Key) -> Response:
    """Download the sidecars of an outing, merged with those that are there, as a ZIP."""
    buffer = io.BytesIO()
    taken: set[str] = set()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for draft in drafts_of(desk.book, outing, desk.now()):
            if draft.merged is None:
                continue
            name = draft.path.name if draft.path else f"{Path(draft.picture.name).stem}.xmp"
            name = name if name not in taken else f"{draft.picture.id}-{name}"
            taken.add(name)
            archive.writestr(name, draft.merged.data)
    headers = {"content-disposition": f'attachment; filename="welotrope-sidecars-{outing}.zip"'}
    return Response(buffer.getvalue(), media_type="application/zip", headers=headers)


def _shown(desk: Desk, outing: int, told: list[str]) -> Response:
    page = sidecars_page(desk.book, outing, desk.now(), at_computer=at_computer(desk), told=told)
    return desk.page("log/sidecars/page.html", page)
