"""Pictures of a made-up series as files."""

from __future__ import annotations

import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from welotrope.core.kit.setup import Setup
from welotrope.store import cache


@contextmanager
def rendered(setup: Setup, stop: float, number: int, folder: Path) -> Iterator[Path]:
    """Write a picture of the slope sheet as a set-up would take it, and take it away again; ``stop`` as marked."""
    from PIL import Image

    from welotrope.core.testshot.camera import picture_of
    from welotrope.core.testshot.made_up import made_up_camera
    from welotrope.core.testshot.names import SheetPaper
    from welotrope.core.testshot.sheets import slope_sheet

    path = cache.cached(folder, f"made-up-{secrets.token_hex(6)}.jpg")
    picture = picture_of(slope_sheet(SheetPaper.A4), made_up_camera(setup, stop, number))
    Image.fromarray(picture).save(path, "JPEG", quality=92)
    try:
        yield path
    finally:
        path.unlink(missing_ok=True)
