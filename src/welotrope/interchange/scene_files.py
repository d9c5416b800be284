"""The rendered scenes that ship: pictures, nearness and spots, as ``scripts/scenes`` writes them."""

from __future__ import annotations

import json
import math
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np

from welotrope.core.errors import UnreadableError
from welotrope.core.finder.light import Picture
from welotrope.core.finder.plates import Mask, Plate, Rendering, cropped, layers_of, settled, shared_of, without_lamps
from welotrope.core.finder.scene import PointLight
from welotrope.core.json_values import JsonObject

FOLDER = Path(__file__).parents[1] / "assets" / "scenes"
_PARTS = "whole", "fine"  # pictures of a scene


@lru_cache(maxsize=1)  # some tens of megabytes
def rendering_called(name: str) -> Rendering:
    """Return a rendered scene; raises UnreadableError where its files are not there or cannot be read."""
    folder = FOLDER / name
    try:
        told = json.loads((folder / "scene.json").read_text("utf-8"))
        comes = told.get("comes_in_s")
        plates = tuple(_plate(folder, part, told) for part in (_PARTS[:1] if comes else _PARTS))
        layers = layers_of(plates)
        if told.get("edges"):
            plates = tuple(
                settled(plate, _mask(folder / f"{part}-free.png", plate.coded.shape), layers)
                for plate, part in zip(plates, _PARTS, strict=True)
            )
        parts = tuple(_plate(folder, part, told, moving=True) for part in _PARTS) if comes else ()
        spot, (nearest, farthest) = told["spots"][0], told["focal_lengths"]
        lights = tuple(
            (one["nearness"], PointLight(one["x"], one["y"], one["strength"], tuple(one["colour"]), one["across"]))
            for one in told["lights"]
        )
    except (OSError, ValueError, LookupError, TypeError) as error:
        raise UnreadableError(
            "scene", name, f"its files cannot be read ({error})", "Install the application again"
        ) from error
    whole = Rendering(
        name=name, plates=plates, target_name=spot["name"], target_x=spot["x"],
        target_y=spot["y"], brightness=told["brightness"], focal_lengths=(nearest, farthest), lights=lights,
        layers=tuple(layers),
    )  # fmt: skip
    if not comes:
        return whole
    moving = replace(whole, plates=parts, lights=(), layers=tuple(layers_of(parts, cut_out=True)), is_cut_out=True)
    return replace(whole, moving=moving, comes_in_s=(comes[0], comes[1]))


def _mask(path: Path, shape: tuple[int, ...]) -> Mask:
    """Return a grey picture; raises ValueError where it is none of that height and width."""
    import cv2

    found = cv2.imread(str(path), cv2.IMREAD_GRAYSCALE)
    if found is None or found.shape != shape:
        raise ValueError(f"{path.name} is no picture of {shape[1]} by {shape[0]} pixels")
    return np.asarray(found, np.uint8)


def _plate(folder: Path, part: str, told: JsonObject, *, moving: bool = False) -> Plate:
    import cv2

    place, code = told[part], told["nearness"]
    name = f"moving-{part}" if moving else part
    colour = cv2.imread(str(folder / f"{name}.webp"), cv2.IMREAD_COLOR)
    if colour is None:
        raise ValueError(f"{name}.webp is no picture")
    codes = _mask(folder / f"{name}-nearness.png", colour.shape[:2])
    shared = shared_of(_mask(folder / f"{name}-cover.png", colour.shape[:2])) if told.get("edges") else None
    meanings = 1 + code["unit"] * np.sinh((np.arange(256) - code["middle"]) / code["steps"])
    meanings[: round(code["middle"] - code["steps"] * math.asinh(1 / code["unit"])) + 1] = 0  # infinitely far
    picture: Picture = np.asarray(colour, np.uint8)
    unit_px = picture.shape[1] / place["width"]
    lamps = [
        (int((one["x"] - place["left"]) * unit_px), int((one["y"] - place["top"]) * unit_px)) for one in told["lights"]
    ]
    plate = Plate(
        colour=without_lamps(picture, lamps) if lamps else picture, coded=codes,
        left=place["left"], top=place["top"], unit_px=unit_px, meanings=meanings.astype(np.float32),
        shared=shared,
    )  # fmt: skip
    return cropped(plate) if moving else plate
