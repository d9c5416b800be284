"""Pictures of a simulated camera, made beside the requests and taken away again."""

from __future__ import annotations

import secrets
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

from welotrope.core.testshot.camera import SimulatedCamera
from welotrope.core.testshot.sheets import Sheet
from welotrope.interchange.made_up_pictures import asked_text
from welotrope.interchange.pictures.workers import PictureWorkers
from welotrope.store import cache


@contextmanager
def made_up_picture(
    workers: PictureWorkers, placed: Sequence[tuple[Sheet, SimulatedCamera]], folder: Path
) -> Iterator[Path]:
    """Write a picture of sheets, each with the camera as it stands to it, for as long as it is used."""
    path = cache.cached(folder, f"made-up-{secrets.token_hex(6)}.jpg")
    try:
        workers.ask("render", path, placed=asked_text(placed))
        yield path
    finally:
        path.unlink(missing_ok=True)
