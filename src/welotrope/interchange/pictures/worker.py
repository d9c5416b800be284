"""The process that opens pictures, so that a library that falls over a broken file takes nothing else along."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable
from importlib import import_module
from pathlib import Path

from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.interchange.pictures.opened import opened
from welotrope.interchange.worker_pool import serve

MEMORY = 3 * 1024**3
_CHUNK = 1024 * 1024
THUMB_PX, PREVIEW_PX, SHOT_PX = 360, 2048, 1200


def look(asked: JsonObject) -> JsonObject:
    """Return hash, kind, size and EXIF of a picture, and write its thumbnail."""
    from dataclasses import asdict

    from welotrope.interchange.pictures.exif import read_exif

    path = Path(asked["path"])
    with opened(path) as picture:
        taken, exif = read_exif(picture)
        width, height = picture.size()
        picture.small(THUMB_PX).save(asked["thumb"], "JPEG", quality=82)
        media = picture.media_type
    return {
        "sha256": _hash(path), "bytes": path.stat().st_size, "media_type": media, "width_px": width,
        "height_px": height, "taken_at": taken.isoformat() if taken else None, "exif": asdict(exif),
    }  # fmt: skip


def measure(asked: JsonObject) -> JsonObject:
    """Return the sharpness map of a picture with the blur behind it, and write its preview."""
    from welotrope.core.picture.sharpness_map import sharpness_map
    from welotrope.interchange.picture_json import measured_values

    path = Path(asked["path"])
    with opened(path) as picture:
        found = sharpness_map(picture.grey())
    with opened(path) as picture:
        picture.small(PREVIEW_PX).save(asked["preview"], "JPEG", quality=85)
    return measured_values(found)


def grey(asked: JsonObject) -> JsonObject:
    """Write the grey values of a small picture, 8 bits each, row by row."""
    import numpy as np

    from welotrope.core.errors import OutOfRangeError
    from welotrope.core.fields import FRAME
    from welotrope.core.live.spot import MOST_PIXELS

    with opened(Path(asked["path"])) as picture:
        width, height = picture.size()
        if width * height > MOST_PIXELS:
            raise OutOfRangeError(FRAME, f"{width} × {height} px", "that is too large", "Send a million pixels at most")
        values = np.asarray(picture.whole().convert("L"), dtype=np.uint8)
    Path(asked["to"]).write_bytes(values.tobytes())
    return {"width_px": width, "height_px": height}


def full(asked: JsonObject) -> JsonObject:
    """Write a picture full size as a JPEG that a browser can show."""
    with opened(Path(asked["path"])) as picture:
        picture.whole().save(asked["to"], "JPEG", quality=92)
    return {}


def plane(asked: JsonObject) -> JsonObject:
    """Measure where focus fell in a picture of sheets, and write it small where a place for that is given."""
    from welotrope.interchange.testshot import ShotOptions, plane_values, read_sheet_distances, row_values, slope_values

    path, said = Path(asked["path"]), ShotOptions(**json.loads(asked["said"]))
    if asked.get("sheet") == "row":
        found = row_values(path, said, read_sheet_distances(json.loads(asked["distances"])))
    else:
        found = (slope_values if asked.get("sheet") == "slope" else plane_values)(path, said)
    if asked.get("preview"):
        with opened(path) as picture:
            width, height = picture.size()
            picture.small(SHOT_PX).save(asked["preview"], "JPEG", quality=85)
        found |= {"width_px": width, "height_px": height}
    return found


def series(asked: JsonObject) -> JsonObject:
    """Measure a series of the ring, of stops, of focus shift or of a wall."""
    from welotrope.interchange.testshot import (
        PictureAt,
        ShotOptions,
        placed_wall_values,
        ring_values,
        shift_values,
        stops_values,
    )

    placed = [PictureAt(Path(path), at) for path, at in json.loads(asked["placed"])]
    if asked["of"] in ("shift", "level"):
        said = ShotOptions(**json.loads(asked["said"]))
        return (shift_values if asked["of"] == "shift" else placed_wall_values)(placed, said)
    return (stops_values if asked["of"] == "stops" else ring_values)(placed)


def size(asked: JsonObject) -> JsonObject:
    """Return width and height of a picture, which shows that it can be read."""
    with opened(Path(asked["path"])) as picture:
        width, height = picture.size()
    return {"width_px": width, "height_px": height}


def ready(_asked: JsonObject) -> JsonObject:
    """Load what measuring needs, so that the first picture is told as soon as the others."""
    for name in ("cv2", "scipy.fft", "scipy.optimize", "scipy.special", "welotrope.core.testshot.reading"):
        import_module(name)
    return {}


def render(asked: JsonObject) -> JsonObject:
    """Write a picture of the simulated camera."""
    from welotrope.interchange.made_up_pictures import write_picture

    write_picture(asked["placed"], Path(asked["path"]))
    return {}


WORK: dict[str, Callable[[JsonObject], JsonObject]] = {
    "look": look, "measure": measure, "full": full, "plane": plane, "series": series, "size": size, "render": render,
    "ready": ready, "grey": grey,
}  # fmt: skip


def _hash(path: Path) -> str:
    found = hashlib.sha256()
    with path.open("rb") as file:
        while chunk := file.read(_CHUNK):
            found.update(chunk)
    return found.hexdigest()


def answer(asked: JsonObject) -> JsonObject:
    """Return what came of a piece of work, or why nothing did."""
    try:
        return WORK[asked["do"]](asked)
    except WelotropeError as error:
        return {"error": error.sentence}
    except OSError as error:
        return {"error": f"It cannot be read or written ({error.strerror}).", "errno": error.errno}


def main() -> None:
    """Answer until the input ends."""
    import cv2

    cv2.setNumThreads(1)
    serve(answer, memory=MEMORY)


if __name__ == "__main__":
    main()
