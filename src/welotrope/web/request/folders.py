"""Files that a page sent one by one, and folders on this computer that a photographer names."""

from __future__ import annotations

import os
import re
import stat
from pathlib import Path

from welotrope.core.errors import UnreadableError, WelotropeError
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


def check_folder(text: str) -> Path:
    """Return the folder a photographer named.

    Raises
    ------
    UnreadableError
        When it is none that can be read.
    """
    works = "Write its whole path, such as /home/me/pictures/teal"
    said = text.strip().strip("\"'")
    try:
        path = Path(said).expanduser() if said and said.isprintable() else None
    except RuntimeError:
        raise UnreadableError("folder", text, "nobody of that name has a home here", works) from None
    if path is None or not path.is_absolute():
        raise UnreadableError("folder", text, "that is no whole path", works)
    try:
        if not stat.S_ISDIR(path.stat().st_mode):
            raise UnreadableError("folder", text, "that is no folder", works)
        with os.scandir(path):
            return Path(os.path.realpath(path))
    except WelotropeError:
        raise
    except FileNotFoundError:
        raise UnreadableError("folder", text, "there is no such folder", works) from None
    except PermissionError:
        raise UnreadableError("folder", text, "it may not be read", "Give yourself the right to read it") from None
    except (OSError, ValueError) as error:
        reason = getattr(error, "strerror", None) or "it cannot be opened"
        raise UnreadableError("folder", text, reason.lower(), works) from None
