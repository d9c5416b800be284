"""Pictures of a simulated camera as files: what is to be made, as text for the process that makes it."""

from __future__ import annotations

import dataclasses
import json
from collections.abc import Sequence
from pathlib import Path

from welotrope.core.json_values import JsonObject
from welotrope.core.testshot.camera import SimulatedCamera, picture_of_sheets
from welotrope.core.testshot.sheets import Sheet, SheetKind, SheetPaper, sheets_of

QUALITY = 92
_PAIRS = ("size_px", "off_centre")  # which JSON makes lists of


def asked_text(placed: Sequence[tuple[Sheet, SimulatedCamera]]) -> str:
    """Return which picture is to be made, as :func:`write_picture` reads it; sheets are taken on A4."""
    return json.dumps([[sheet.kind.value, sheet.number, dataclasses.asdict(camera)] for sheet, camera in placed])


def write_picture(asked: str, to: Path) -> None:
    """Make a picture and write it as a JPEG that says with what it was taken."""
    from PIL import Image

    placed = [
        (sheets_of(SheetKind(kind), SheetPaper.A4)[number - 1], _camera(values))
        for kind, number, values in json.loads(asked)
    ]
    camera = placed[0][1]
    exif = Image.Exif()
    exif[0x010F], exif[0x0110] = "Simulated", "Test shot"
    details = exif.get_ifd(0x8769)
    details[0x829D], details[0x920A] = camera.stop, camera.focal_mm  # FNumber, FocalLength
    Image.fromarray(picture_of_sheets(placed)).save(to, "JPEG", quality=QUALITY, exif=exif)


def _camera(values: JsonObject) -> SimulatedCamera:
    return SimulatedCamera(**(values | {name: tuple(values[name]) for name in _PAIRS}))
