"""Which files outside the data folder may be read and written: pictures in named folders, and sidecars beside them.

The folders named are kept in a file of the data folder that no archive and no backup carries: records that come from
another computer point to nothing here until the folder is named again.
"""

from __future__ import annotations

import json
import os
import stat
from collections.abc import Iterable
from pathlib import Path

from welotrope.store.files import write_whole

NAMED_FILE = "named-folders.json"
SIDECAR_SUFFIX = ".xmp"
_MOST_NAMED, _LONGEST_NAME = 2000, 255  # folders; bytes


def name_folder(data_folder: Path, folder: Path) -> None:
    """Note a folder that the user named: what lies in it, at any depth, may be read and have sidecars beside it."""
    add_named(data_folder, [folder])


def add_named(data_folder: Path, folders: Iterable[Path]) -> None:
    """Note several folders; the file is there afterwards even for none."""
    known = _named(data_folder) or []
    for folder in folders:
        real = os.path.realpath(folder)
        known = [*(one for one in known if one != real), real]
    data = json.dumps(known[-_MOST_NAMED:], ensure_ascii=True, indent=1).encode()
    write_whole(data_folder / NAMED_FILE, data)


def is_kept(data_folder: Path) -> bool:
    """Whether there is a file of named folders yet."""
    return (data_folder / NAMED_FILE).exists()


def is_plain_name(name: str) -> bool:
    """Whether a name is that of one file in a folder, and nothing in it does not print."""
    return is_one_name(name) and name.isprintable()


def is_one_name(name: str) -> bool:
    """Whether a name is that of one file in a folder: no path, and short enough for a disk."""
    if not name or name in (".", "..") or any(mark in name for mark in "/\\\0"):
        return False
    try:
        return len(name.encode("utf-8")) <= _LONGEST_NAME
    except UnicodeEncodeError:
        return False


def may_read(data_folder: Path, folder: str, name: str, suffixes: Iterable[str]) -> Path | None:
    """Return where a picture outside lies if it may be read: a regular file of a known kind in a named folder."""
    path = _within(data_folder, folder, name)
    if path is None or path.suffix.lower() not in suffixes or not _is_regular(path):
        return None
    return path


def may_write(data_folder: Path, folder: str, name: str) -> Path | None:
    """Return where a sidecar may be written: beside a picture in a named folder, over nothing but a regular file."""
    path = _within(data_folder, folder, name)
    if path is None or path.suffix.lower() != SIDECAR_SUFFIX:
        return None
    return path if _is_regular(path) or not os.path.lexists(path) else None


def may_look_into(data_folder: Path, folder: str) -> bool:
    """Whether a folder, named or in a named one, is there and may be listed."""
    return _real_in_named(data_folder, folder) is not None and os.path.isdir(folder)


def _within(data_folder: Path, folder: str, name: str) -> Path | None:
    if not is_plain_name(name):
        return None
    path = Path(folder, name)
    # On some systems a name may hold a drive or a stream, which leads elsewhere.
    return path if path.parent == Path(folder) and _real_in_named(data_folder, str(path)) is not None else None


def _real_in_named(data_folder: Path, path: str) -> str | None:
    """Return what a path really is, links followed, if that lies in a folder that was named."""
    if not path or "\0" in path or not os.path.isabs(path):
        return None
    try:
        real = os.path.realpath(path)
        named = _named(data_folder) or []
        inside = any(real == one or os.path.commonpath((one, real)) == one for one in named)
    except (OSError, ValueError):
        return None
    return real if inside else None


def _is_regular(path: Path) -> bool:
    try:
        return stat.S_ISREG(os.lstat(path).st_mode)
    except (OSError, ValueError):
        return False


def _named(data_folder: Path) -> list[str] | None:
    try:
        found = json.loads((data_folder / NAMED_FILE).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None
    return [one for one in found if isinstance(one, str) and os.path.isabs(one)] if isinstance(found, list) else None
