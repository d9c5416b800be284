"""Test shots as JSON, under ``/api/testshot``: pictures as multipart, nothing of them is kept.

Every file of the form is a picture, whatever its field is called. ``at`` says where ring or stop stood, once for each
picture and in their order; a picture called ``shot@2.8.jpg`` says it itself.
"""

from __future__ import annotations

import json
import re
import tempfile
from collections.abc import Sequence
from pathlib import Path

from fastapi import APIRouter
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import FormData, UploadFile
from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import UnreadableError
from welotrope.core.fields import FOCAL, PICTURE_WIDTH, PICTURES
from welotrope.core.json_values import JsonObject
from welotrope.core.units.text import number
from welotrope.interchange.pictures.workers import PictureError
from welotrope.interchange.testshot import BLUR, MOST_PICTURES, STOP, read_place
from welotrope.web.request.errors import error_response

PREFIX = "/api/testshot"
router = APIRouter(prefix=PREFIX, tags=["Test shots"])
_ASKED = ("focal_mm", "focal", FOCAL), ("width_mm", "width", PICTURE_WIDTH), ("stop", "stop", STOP)
_CHUNK = 1024 * 1024
_AT_IN_NAME = re.compile(r"@([^@]+?)(\.[A-Za-z0-9]{2,5})?$")
_FORM = {
    "requestBody": {
        "content": {
            "multipart/form-data": {
                "schema": {
                    "type": "object",
                    "properties": {
                        "picture": {"type": "array", "items": {"type": "string", "format": "binary"}},
                        "focal": {"type": "number", "description": "Focal length, mm"},
                        "width": {"type": "number", "description": "Longer side of sensor or film, mm"},
                        "stop": {"type": "number", "description": "f-number"},
                        "blur": {"type": "number", "description": "Largest blur that counts as sharp, mm"},
                        "distance": {"type": "array", "items": {"type": "string"}, "description": "Sheet=distance"},
                        "at": {"type": "array", "items": {"type": "number"}, "description": "Where ring or stop stood"},
                    },
                }
            }
        }
    }
}


@router.post("/slope", openapi_extra=_FORM)
async def post_slope(request: Request) -> Response:
    """Measure one picture of the sloping sheet."""
    async with request.form(max_files=2, max_fields=20) as form:
        return await run_in_threadpool(_plane, request, form, "slope")


@router.post("/row", openapi_extra=_FORM)
async def post_row(request: Request) -> Response:
    """Measure a picture of a row of sheets; ``distance`` is a sheet's number, = and a distance, once for each."""
    async with request.form(max_files=2, max_fields=40) as form:
        return await run_in_threadpool(_plane, request, form, "row")


@router.post("/wall", openapi_extra=_FORM)
async def post_wall(request: Request) -> Response:
    """Measure pictures of a wall of sheets: ``at`` is -1 for one focused nearer than it, and 1 for one farther."""
    async with request.form(max_files=MOST_PICTURES + 1, max_fields=100) as form:
        return await run_in_threadpool(_series, request, form, "level")


@router.post("/shift", openapi_extra=_FORM)
async def post_shift(request: Request) -> Response:
    """Measure focus shift: a sheet at each stop, with the ring untouched."""
    async with request.form(max_files=MOST_PICTURES + 1, max_fields=100) as form:
        return await run_in_threadpool(_series, request, form, "shift")


@router.post("/ring", openapi_extra=_FORM)
async def post_ring(request: Request) -> Response:
    """Measure a series of one subject while the ring was turned."""
    async with request.form(max_files=MOST_PICTURES + 1, max_fields=100) as form:
        return await run_in_threadpool(_series, request, form, "ring")


@router.post("/stops", openapi_extra=_FORM)
async def post_stops(request: Request) -> Response:
    """Measure a series of one flat subject at each stop."""
    async with request.form(max_files=MOST_PICTURES + 1, max_fields=100) as form:
        return await run_in_threadpool(_series, request, form, "stops")


def _plane(request: Request, form: FormData, sheet: str) -> Response:
    pictures = _pictures(form)
    if len(pictures) != 1:
        raise UnreadableError(PICTURES, len(pictures) or "", "one picture is measured at a time", "Send one picture")
    distances = [str(one) for one in form.getlist("distance")]
    with tempfile.TemporaryDirectory(prefix="welotrope-") as folder:
        path = _kept(pictures[0], Path(folder), 0)
        said = json.dumps(_said(form))
        return _answer(request, "plane", path, said=said, sheet=sheet, distances=json.dumps(distances))


def _said(form: FormData) -> dict[str, float | None]:
    """Read what is said of pictures, by the names of :class:`ShotOptions`."""
    said = {
        key: number(str(text), field) if (text := form.get(name)) not in (None, "") else None
        for key, name, field in _ASKED
    }
    if form.get("blur"):
        said["blur_mm"] = number(str(form["blur"]), BLUR)
    return said


def _series(request: Request, form: FormData, kind: str) -> Response:
    pictures = _pictures(form)
    if len(pictures) > MOST_PICTURES:
        works = f"Send {MOST_PICTURES} at most"
        raise UnreadableError(PICTURES, len(pictures), "that is more than one series holds", works)
    places = _places(form, pictures, stops=kind in ("stops", "shift"))
    with tempfile.TemporaryDirectory(prefix="welotrope-") as folder:
        paths = [_kept(one, Path(folder), index) for index, one in enumerate(pictures)]
        placed = [(str(path), place) for path, place in zip(paths, places, strict=True)]
        return _answer(
            request, "series", Path(folder), of=kind, placed=json.dumps(placed), said=json.dumps(_said(form))
        )


def _pictures(form: FormData) -> list[UploadFile]:
    return [value for _, value in form.multi_items() if isinstance(value, UploadFile)]


def _places(form: FormData, pictures: Sequence[UploadFile], *, stops: bool) -> list[float]:
    texts = [part for text in form.getlist("at") for part in str(text).replace(";", " ").split() if part]
    if not texts:
        found = [_AT_IN_NAME.search(one.filename or "") for one in pictures]
        texts = [match[1] for match in found if match]
    works = "Send at for each picture, in their order"
    if len(texts) != len(pictures):
        raise UnreadableError(PICTURES, f"{len(pictures)} with {len(texts)} places", "each needs its place", works)
    return [read_place(text, stops=stops, works=works) for text in texts]


def _kept(upload: UploadFile, folder: Path, index: int) -> Path:
    suffix = Path(upload.filename or "").suffix.lower()[:8]
    path = folder / f"{index:03d}{suffix if suffix.isascii() and suffix[1:].isalnum() else ''}"
    with path.open("xb") as file:
        while chunk := upload.file.read(_CHUNK):
            file.write(chunk)
    return path


def _answer(request: Request, do: str, path: Path, **more: str) -> Response:
    try:
        with request.app.state.heavy.enter():
            found: JsonObject = request.app.state.pictures.ask(do, path, **more)
    except PictureError as error:
        return error_response(request, 422, error.sentence, field=str(PICTURES), key=PICTURES.key)
    return JSONResponse(found)
