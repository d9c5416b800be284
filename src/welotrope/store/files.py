"""Bytes kept as files in the data folder, each under the hash of what it holds.

A file is written beside its place and moved there whole, so that what has a name is complete. The database holds hash
and path only, and the undo journal neither.
"""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from pathlib import Path

FOLDER = "files"
SUFFIXES = {
    "image/jpeg": ".jpg", "image/png": ".png", "image/tiff": ".tif", "image/webp": ".webp", "application/pdf": ".pdf",
    "text/csv": ".csv", "application/json": ".json", "application/rdf+xml": ".xmp", "image/x-raw": ".raw",
}  # fmt: skip


def hash_of(data: bytes) -> str:
    """Return the SHA-256 of bytes, in hexadecimal."""
    return hashlib.sha256(data).hexdigest()


def is_hash(text: str) -> bool:
    """Whether a text is a SHA-256 as it is written here."""
    return re.fullmatch(r"[0-9a-f]{64}", text) is not None


def path_of(sha256: str, media_type: str) -> str:
    """Return where bytes of that hash lie under the data folder: by this alone, whatever a record says.

    Raises
    ------
    ValueError
        When it is no hash.
    """
    if not is_hash(sha256):
        raise ValueError(f"{sha256[:20]!r} is no hash")
    return f"{FOLDER}/{sha256[:2]}/{sha256}{SUFFIXES.get(media_type, '.bin')}"


def write(folder: Path, path: str, data: bytes) -> None:
    """Write a file under the data folder unless it is there whole; only its owner may read it.

    Raises
    ------
    OSError
        When it cannot be written; nothing is left behind.
    """
    target = folder / path
    if target.exists() and target.stat().st_size == len(data):
        return
    target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    write_whole(target, data)


def write_whole(target: Path, data: bytes) -> None:
    """Write a file beside its place and move it there whole, over what is there; only its owner may read it.

    Raises
    ------
    OSError
        When it cannot be written; nothing is left behind.
    """
    handle, draft = tempfile.mkstemp(dir=target.parent, prefix=".", suffix=".part")
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        os.replace(draft, target)
    except BaseException:
        Path(draft).unlink(missing_ok=True)
        raise


def read(folder: Path, path: str, sha256: str) -> bytes | None:
    """Return the bytes of a file, None when it is gone or no longer what it was."""
    try:
        data = (folder / path).read_bytes()
    except OSError:
        return None
    return data if hash_of(data) == sha256 else None


def adopt(folder: Path, path: str, source: Path) -> None:
    """Move a file under the data folder unless it is there whole; both lie on the same disk.

    Raises
    ------
    OSError
        When it cannot be moved.
    """
    target = folder / path
    if target.exists() and target.stat().st_size == source.stat().st_size:
        source.unlink()
        return
    target.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    os.chmod(source, 0o600)
    os.replace(source, target)
