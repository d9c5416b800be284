"""The picture that a process found in a file."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

from welotrope.core.json_values import JsonObject
from welotrope.core.picture.picture import NewPicture, PictureExif


def picture_of(path: Path, found: JsonObject) -> NewPicture:
    """Return the picture that was looked at, under the name and in the folder of its file."""
    taken = dt.datetime.fromisoformat(found["taken_at"]) if found["taken_at"] else None
    return NewPicture(
        sha256=found["sha256"], name=path.name, folder=str(path.parent), media_type=found["media_type"],
        bytes=found["bytes"], width_px=found["width_px"], height_px=found["height_px"], taken_at=taken,
        exif=PictureExif(**found["exif"]),
    )  # fmt: skip
