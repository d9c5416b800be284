"""Large files written by a process of their own, and sent as they lie on the disk."""

from __future__ import annotations

import tempfile
from pathlib import Path

from starlette.background import BackgroundTask
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import FileResponse, Response

from welotrope.interchange.worker_pool import BusyError, WorkerPool


def exported(request: Request, do: str, name: str, media_type: str, **asked: object) -> Response:
    """Let the export process write a file and send it; it is gone afterwards.

    Raises
    ------
    BusyError
        When too many wait, or it takes longer than it may.
    OSError, HTTPException
        When the disk refuses, or what is asked for is not there.
    """
    pool: WorkerPool = request.app.state.exports
    held = tempfile.TemporaryDirectory()
    try:
        target = Path(held.name) / name
        folder = str(request.app.state.database.folder.resolve())
        found = pool.ask({"do": do, "folder": folder, "to": str(target), **asked})
        if found is None:
            raise BusyError("That took longer than it may and was stopped. Try again when less is going on.")
        if "missing" in found:
            raise HTTPException(404, found["missing"])
        if "error" in found:
            raise OSError(found["errno"], found["error"])
    except BaseException:
        held.cleanup()
        raise
    return FileResponse(target, media_type=media_type, filename=name, background=BackgroundTask(held.cleanup))
