"""Live pictures as JSON, under ``/api/live``: one frame a request, and nothing of it is kept.

A frame is a JPEG, a PNG, or grey values of 8 bits row by row (``application/octet-stream`` with ``width`` and
``height``), of a million pixels at most. Frames of one ``sweep`` are compared with one another; it ends half a minute
after the last of them.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import Annotated

import numpy as np
from fastapi import APIRouter, Query
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from welotrope.core.errors import UnreadableError
from welotrope.core.fields import FRAME, GUIDE
from welotrope.core.json_values import JsonObject
from welotrope.core.optics.elementwise import AnyArray
from welotrope.interchange.pictures.workers import PictureError
from welotrope.web.request.errors import error_response
from welotrope.web.request.live_sweeps import LiveSweeps, SweepOrder

PREFIX = "/api/live"
router = APIRouter(prefix=PREFIX, tags=["Live pictures"])
MOST_PIXELS = 1_000_000
GREY = "application/octet-stream"
_STARTS = {b"\xff\xd8\xff": ".jpg", b"\x89PNG\r\n\x1a\n": ".png"}
_FRAME = {
    "requestBody": {
        "required": True,
        "content": {
            kind: {"schema": {"type": "string", "format": "binary"}} for kind in ("image/jpeg", "image/png", GREY)
        },
    }
}
Key = Annotated[str, Query(max_length=60, description="Key of the sweep, of your own choice")]
Blur = Annotated[float, Query(gt=0.2, le=200, description="Blur allowed, the diameter of a disc, pixels")]
Side = Annotated[int, Query(ge=0, le=20_000, description="Of grey values, pixels")]
Count = Annotated[int, Query(ge=0, le=1000)]


@router.post("/measure", openapi_extra=_FRAME)
async def post_measure(
    request: Request,
    sweep: Key,
    *,
    sharp_px: Blur = 3.0,
    measures: Annotated[str, Query(pattern="^(detail|stars)$")] = "detail",
    at: Annotated[float | None, Query(allow_inf_nan=False, description="Where the ring stands, in any unit")] = None,
    seconds: Annotated[float | None, Query(allow_inf_nan=False, description="When it was taken, with a rate")] = None,
    rate: Annotated[float, Query(allow_inf_nan=False, description="How far the ring turns in a second")] = 0.0,
    width: Side = 0,
    height: Side = 0,
    guide: Annotated[str, Query(max_length=20)] = "",
    step: Count = 0,
    frames: Count = 0,
    step_px: Annotated[float, Query(ge=0, le=600)] = 0.0,
) -> Response:
    """Measure how sharp the next frame of a sweep is beside the best so far; ``guide`` and ``step`` lead through it."""
    order = SweepOrder(measures=measures, sharp_px=sharp_px)
    place = rate * seconds if at is None and seconds is not None and rate else at
    body = await request.body()

    def work() -> JsonObject:
        from welotrope.core.live.guides import guide_called, stack_guide
        from welotrope.interchange.picture_json import guide_values, live_values

        led = stack_guide(frames, step_px, sharp_px) if guide == "stack" else guide_called(guide) if guide else None
        if led is not None and step >= len(led.steps):
            raise UnreadableError(GUIDE, step, "it has no such step", f"Send 0 to {len(led.steps) - 1}")
        seen = _sweeps(request).measure(sweep, order, _grey(request, body, width, height), place=place)
        return live_values(seen.reading, seen.curve) | (guide_values(led, step, seen.reading) if led else {})

    return await _answered(request, work)


@router.post("/outline", openapi_extra=_FRAME)
async def post_outline(
    request: Request, sweep: Key, *, limit_px: Blur = 3.0, width: Side = 0, height: Side = 0
) -> Response:
    """Say which parts of the last frames are sharp: blurred by defocus no more than ``limit_px``."""
    body = await request.body()

    def work() -> JsonObject:
        from welotrope.interchange.picture_json import outline_values

        grey = _grey(request, body, width, height)
        return outline_values(_sweeps(request).outline(sweep, grey, limit_px=limit_px), limit_px)

    return await _answered(request, work)


async def _answered(request: Request, work: Callable[[], JsonObject]) -> Response:
    try:
        found = await run_in_threadpool(work)
    except PictureError as error:
        return error_response(request, 422, error.sentence, field=str(FRAME), key=FRAME.key)
    return JSONResponse(found)


def _sweeps(request: Request) -> LiveSweeps:
    sweeps: LiveSweeps = request.app.state.live_sweeps
    return sweeps


def _grey(request: Request, body: bytes, width: int, height: int) -> AnyArray:
    """Return the grey values of a frame, shape (height, width)."""
    kind = request.headers.get("content-type", "").partition(";")[0].strip()
    if kind == GREY:
        if not 0 < width * height <= MOST_PIXELS or len(body) != width * height:
            read = f"{len(body)} bytes for {width} × {height} px"
            raise UnreadableError(FRAME, read, "that is no such picture", "Send a byte a pixel, a million at most")
        return np.frombuffer(body, dtype=np.uint8).reshape(height, width)
    suffix = next((suffix for start, suffix in _STARTS.items() if body.startswith(start)), "")
    if not suffix:
        raise UnreadableError(FRAME, kind or "nothing", "that is no JPEG or PNG", f"Send one, or grey values as {GREY}")
    with tempfile.TemporaryDirectory(prefix="welotrope-") as folder:
        path, to = Path(folder, f"frame{suffix}"), Path(folder, "grey")
        path.write_bytes(body)
        found: JsonObject = request.app.state.pictures.ask("grey", path, to=str(to))
        return np.frombuffer(to.read_bytes(), dtype=np.uint8).reshape(found["height_px"], found["width_px"])
