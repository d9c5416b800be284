"""Giving the data back: shown, written, put back, or taken along as a ZIP."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.requests import Request
from starlette.responses import Response

from welotrope.web.request.context import TypedForm, heavy_context, reading_context
from welotrope.web.request.limits import Key
from welotrope.web.rooms.log.pictures import at_computer
from welotrope.web.rooms.log.sidecar_writing import (
    WriteResult,
    drafts_of,
    load_sidecars,
    put_back,
    sidecars_page,
    write_sidecars,
)

router = APIRouter()


@router.get("/log/sidecars")
def show_sidecars(request: Request, *, outing: Key | None = None) -> Response:
    """Show what would be written beside the pictures of an outing."""
    with heavy_context(request) as context:
        page = sidecars_page(load_sidecars(context.uow, outing, context.now()), at_computer=at_computer(context))
        return context.page("log/sidecars/page.html", page)


@router.post("/log/sidecars/write")
def write(request: Request, typed: TypedForm, outing: Key) -> Response:
    """Write the sidecars of an outing; what was there before is kept, to be put back."""
    told = write_sidecars(request.app.state.database, outing, request.app.state.now)
    return _shown(request, typed, outing, told, "written")


@router.post("/log/sidecars/undo")
def undo(request: Request, typed: TypedForm, outing: Key) -> Response:
    """Put sidecars back as they were, byte for byte, where nobody changed them since."""
    told = put_back(request.app.state.database, str(typed.get("batch", ""))[:40])
    return _shown(request, typed, outing, told, "put back as before")


@router.get("/log/sidecars.zip")
def zipped(request: Request, outing: Key) -> Response:
    """Download the sidecars of an outing, merged with those that are there, as a ZIP."""
    buffer = io.BytesIO()
    taken: set[str] = set()
    with heavy_context(request) as context, zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for draft in drafts_of(context.uow, outing, context.now()):
            if draft.merged is None:
                continue
            name = draft.path.name if draft.path else f"{Path(draft.picture.name).stem}.xmp"
            name = name if name not in taken else f"{draft.picture.id}-{name}"
            taken.add(name)
            archive.writestr(name, draft.merged.data)
    headers = {"content-disposition": f'attachment; filename="welotrope-sidecars-{outing}.zip"'}
    return Response(buffer.getvalue(), media_type="application/zip", headers=headers)


def _shown(request: Request, typed: FormData, outing: int, told: WriteResult, done: str) -> Response:
    sentences = [f"{told.count} sidecar{'' if told.count == 1 else 's'} {done}.", *told.sentences]
    if told.disk_full:
        sentences.insert(1, "Then the disk was full. Make room and do the rest.")
    with reading_context(request, typed=typed) as context:
        data = load_sidecars(context.uow, outing, context.now())
        page = sidecars_page(data, at_computer=at_computer(context), told=sentences)
        return context.page("log/sidecars/page.html", page, status=507 if told.disk_full else 200)
