"""Pictures as a browser shows them: thumbnails, previews and originals; and those that come by being dropped."""

from __future__ import annotations

import os
import secrets
import time
from collections.abc import AsyncIterator
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, Response

from welotrope.core.picture.picture import Picture
from welotrope.core.units.text import cleaned
from welotrope.interchange.pictures.opened import MAX_BYTES, PICTURE_SUFFIXES
from welotrope.interchange.pictures.workers import PictureError, PictureWorkers
from welotrope.store import cache, outside
from welotrope.store.errors import NotFoundError
from welotrope.store.queries import files, pictures
from welotrope.web.request.context import CurrentContext, RequestContext, reading_context
from welotrope.web.request.folders import BATCH

router = APIRouter()
KEPT = {"cache-control": "private, max-age=31536000, immutable"}
_SHOWN = {"image/jpeg", "image/png", "image/webp"}  # what browsers show as it is
_MOST_DROPPED, _LONGEST_NAME = 2000, 180


class _LargeFile(FileResponse):
    """A file sent a megabyte at a time: in the usual steps of 64 kB waiting for threads takes longer than reading."""

    chunk_size = 1024 * 1024


@router.get("/log/pictures/{id}/thumb")
def thumb(context: CurrentContext, id: int) -> Response:
    """Serve the thumbnail of a picture."""
    return _kept(context, pictures.get_picture(context.uow, id).thumb_sha)


@router.get("/log/pictures/{id}/preview")
def preview(context: CurrentContext, id: int) -> Response:
    """Serve a picture at the size of a screen."""
    picture = pictures.get_picture(context.uow, id)
    return _kept(context, picture.preview_sha or picture.thumb_sha)


@router.get("/log/pictures/{id}/full")
def full(request: Request, id: int) -> Response:
    """Serve a picture full size: its file as it is where browsers show its kind, else as a JPEG made of it."""
    with reading_context(request) as context:
        picture = pictures.get_picture(context.uow, id)
        original = original_of(context, picture)
    if original is None:
        raise NotFoundError("original of picture", id)
    if picture.media_type in _SHOWN:
        return _LargeFile(original, media_type=picture.media_type, headers=KEPT)
    return _LargeFile(_made(request, picture, original), media_type="image/jpeg", headers=KEPT)


def original_of(context: RequestContext, picture: Picture) -> Path | None:
    """Return where the file of a picture lies: the copy that was kept, or where it came from; None when it is gone."""
    if picture.original_sha:
        return files.place_of_file(context.uow, picture.original_sha)
    path = outside.may_read(context.uow.folder, picture.folder, picture.name, PICTURE_SUFFIXES)
    try:
        # Another file in its place would have another size.
        return path if path is not None and path.stat().st_size == picture.bytes else None
    except OSError:
        return None


def _made(request: Request, picture: Picture, original: Path) -> Path:
    folder: Path = request.app.state.database.folder
    workers: PictureWorkers = request.app.state.pictures
    made = cache.cached(folder, f"{picture.sha256}.jpg")
    if not made.exists():
        draft = made.with_suffix(f".{secrets.token_hex(4)}.part")
        try:
            with request.app.state.heavy.enter():
                workers.ask("full", original, to=str(draft))
            os.replace(draft, made)
        except PictureError as error:
            draft.unlink(missing_ok=True)
            raise NotFoundError(f"full size of {picture.name}: {error.sentence}", picture.id) from None
        cache.trim(folder)
    cache.touch(made)
    return made


def _kept(context: RequestContext, sha256: str | None) -> Response:
    place = files.place_of_file(context.uow, sha256) if sha256 else None
    if place is None:
        raise NotFoundError("picture file", 0)
    return FileResponse(place, media_type="image/jpeg", headers=KEPT)


@router.post("/log/pictures/drop")
async def drop(
    request: Request, batch: Annotated[str, Query(max_length=16)], name: Annotated[str, Query(max_length=300)]
) -> Response:
    """Take one dropped file in, a part at a time; what is done with it is another request."""
    folder: Path = request.app.state.database.folder
    if not BATCH.match(batch):
        return JSONResponse({"error": "The page is too old. Load it again."}, 400)
    # The name is only shown; where the file lies is said by its number.
    shown = _safe_name(name)
    try:
        place = await run_in_threadpool(cache.incoming, folder, batch)
        count = len(await run_in_threadpool(os.listdir, place))
        if count >= _MOST_DROPPED:
            return JSONResponse({"error": f"{shown}: {_MOST_DROPPED} files at once are the most."}, 413)
        # By the time, so that they stay in order; by chance too, as several come at once.
        return await _taken(request.stream(), place / f"{time.time_ns():020d}{secrets.token_hex(4)}-{shown}", shown)
    except cache.TooManyBatchesError:
        return JSONResponse(
            {"error": "Too much was dropped and not brought in yet. Bring it in, or load the page anew."}, 413
        )
    except OSError as error:
        return JSONResponse({"error": f"{shown} could not be stored ({error.strerror}); nothing of it is left."}, 507)


def _safe_name(name: str) -> str:
    """Return a name as it is shown and stored: of one file, printable, short enough for any disk."""
    found = cleaned(Path(name.replace("\\", "/")).name).replace("/", "").lstrip(".") or "picture"
    stem, dot, suffix = found.rpartition(".")
    stem, ending = (stem, f".{suffix[:8]}") if dot and stem else (found, "")
    while len(f"{stem}{ending}".encode()) > _LONGEST_NAME:
        stem = stem[:-1]
    return f"{stem}{ending}"


async def _taken(parts: AsyncIterator[bytes], target: Path, shown: str) -> Response:
    draft = target.with_name(f".{target.name}.part")
    length = 0
    try:
        with draft.open("xb") as file:
            async for part in parts:
                length += len(part)
                if length > MAX_BYTES:
                    return JSONResponse({"error": f"{shown} has more than {MAX_BYTES // 1024 // 1024} MB."}, 413)
                await run_in_threadpool(file.write, part)
        os.replace(draft, target)
    finally:
        draft.unlink(missing_ok=True)
    return JSONResponse({"name": shown, "bytes": length})
