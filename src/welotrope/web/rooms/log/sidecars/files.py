"""The files beside pictures: found, written whole or not at all, and never through a link."""

from __future__ import annotations

import hashlib
import os
import stat
from contextlib import suppress
from pathlib import Path

from welotrope.core.errors import UnreadableError
from welotrope.interchange.pictures.opened import PICTURE_SUFFIXES
from welotrope.interchange.xmp import MAX_BYTES

SUFFIX = ".xmp"


def sidecar_of(folder: Path, name: str) -> Path:
    """Return the sidecar of a picture: the one that is there, else one by its name.

    Two pictures that differ in their suffix only, such as a raw file and its JPEG, have one each, by the whole name.
    """
    picture = folder / name
    own = (folder / f"{name}{SUFFIX}", folder / f"{name}{SUFFIX.upper()}")
    shared = (picture.with_suffix(SUFFIX), picture.with_suffix(SUFFIX.upper()))
    twins = [
        one for one in folder.iterdir()
        if one.stem == picture.stem and one.name != name and one.suffix.lower() in PICTURE_SUFFIXES
    ]  # fmt: skip
    for path in own if twins else (*own, *shared):
        if path.exists():
            return path
    return own[0] if twins else shared[0]


def read_sidecar(path: Path) -> bytes | None:
    """Return what a sidecar holds; None where there is none.

    Raises
    ------
    UnreadableError
        When it is a link, no file, too large, or may not be read.
    """
    works = "Move it away, or give yourself the right to it"
    try:
        found = os.lstat(path)
    except FileNotFoundError:
        return None
    except OSError as error:
        raise UnreadableError("sidecar", path.name, f"it cannot be read ({error.strerror})", works) from None
    if not stat.S_ISREG(found.st_mode):
        raise UnreadableError("sidecar", path.name, "it is a link or no file, and is not followed", works)
    if found.st_size > MAX_BYTES:
        raise UnreadableError("sidecar", path.name, f"it has more than {MAX_BYTES // 1024 // 1024} MB", works)
    try:
        return path.read_bytes()
    except OSError as error:
        raise UnreadableError("sidecar", path.name, f"it cannot be read ({error.strerror})", works) from None


def draft_of(path: Path) -> Path:
    """Return where a sidecar is written before it takes its place."""
    return path.with_name(f".{hashlib.sha256(path.name.encode()).hexdigest()[:16]}.welotrope.part")


def write_sidecar(path: Path, data: bytes) -> None:
    """Write a sidecar in one go, with the rights of the one before.

    Raises
    ------
    UnreadableError
        When it cannot be written; what was there is there still.
    """
    draft = draft_of(path)
    try:
        mode = stat.S_IMODE(os.lstat(path).st_mode) if path.exists() else 0o644
        draft.unlink(missing_ok=True)
        with draft.open("xb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.chmod(draft, mode)
        os.replace(draft, path)
    except OSError as error:
        with suppress(OSError):
            draft.unlink(missing_ok=True)
        works = "Make room, or give yourself the right to write there; what was there is there still"
        raise UnreadableError("sidecar", path.name, f"it cannot be written ({error.strerror})", works) from error


def remove_sidecar(path: Path) -> None:
    """Remove a sidecar; raises UnreadableError when it cannot be."""
    try:
        path.unlink()
    except OSError as error:
        reason = f"it cannot be removed ({error.strerror})"
        raise UnreadableError("sidecar", path.name, reason, "Give yourself the right to it") from error
