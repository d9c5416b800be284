"""Pictures of a camera whose aid is off, made up so that a series can be tried without one."""

from __future__ import annotations

import math
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from welotrope.core.kit.setup import Setup
from welotrope.store import cache

_SIZE_PX = 2400
_NEAREST_MM, _DEPTHS = 500.0, 0.8  # how near at most; how far off the aid is, in halves of the depth of field
_SCATTER = (0.1, -0.35, 0.3, -0.1, 0.2, -0.25, 0.35, 0.0)  # of each picture besides, the same
_SHEET_DEEP_MM = 85.0
_NOISE = 3.0


@contextmanager
def rendered(setup: Setup, stop: float, number: int, folder: Path) -> Iterator[Path]:
    """Write a picture of the slope sheet as a set-up would take it, and take it away again; ``stop`` as marked."""
    from PIL import Image

    from welotrope.core.testshot.camera import SimulatedCamera, picture_of
    from welotrope.core.testshot.names import SheetPaper
    from welotrope.core.testshot.sheets import slope_sheet

    image = setup.body.image
    focal, width = setup.lens.focal_mm, max(image.width_mm, image.height_mm)
    height = min(image.width_mm, image.height_mm)
    distance = max(_NEAREST_MM, 4 * focal, _SHEET_DEEP_MM * focal / height * 3)
    half = stop * setup.blur_mm * (distance / focal) ** 2
    off = min(half * (_DEPTHS + _SCATTER[number % len(_SCATTER)]), 0.6 * _SHEET_DEEP_MM)
    camera = SimulatedCamera(
        focal_mm=focal, stop=stop, width_mm=width, size_px=(_SIZE_PX, round(_SIZE_PX * height / width)),
        distance_mm=distance, slope_deg=45.0, roll_deg=2.0 * math.sin(number), plane_mm=off, noise=_NOISE,
        seed=number + 1,
    )  # fmt: skip
    path = cache.cached(folder, f"made-up-{secrets.token_hex(6)}.jpg")
    Image.fromarray(picture_of(slope_sheet(SheetPaper.A4), camera)).save(path, "JPEG", quality=92)
    try:
        yield path
    finally:
        path.unlink(missing_ok=True)
