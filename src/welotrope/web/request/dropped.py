"""Files that a page sent one by one, before what is done with them is asked for."""

from __future__ import annotations

import re
from pathlib import Path

from welotrope.store import cache

BATCH = re.compile(r"^[0-9a-f]{16}$")


def taken_in(folder: Path, batch: str) -> list[Path]:
    """Return the dropped files of a batch that came whole, in the order they came."""
    if not BATCH.match(batch):
        return []
    place = folder / cache.INCOMING / batch
    return (
        sorted(path for path in place.iterdir() if path.is_file() and not path.name.startswith("."))
        if place.is_dir()
        else []
    )


def shown_name(path: Path) -> str:
    """Return what a dropped file was called: behind the number it lies under."""
    return path.name.partition("-")[2] or path.name
