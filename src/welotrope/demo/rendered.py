"""Pictures rendered from the finder's scenes, with noise and grain: for demo, tests and bench."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.canvas import FRAME_UNITS, View
from welotrope.core.finder.scene import FocusRange, Scene
from welotrope.core.finder.scenes import PAINTED
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.optics.thin_lens import extension_at_object_distance

Picture = NDArray[np.uint8]
_ALL_SHARP = 1e9
_ISO_100_NOISE = 0.006  # of white, in the middle tones


@dataclass(frozen=True, kw_only=True)
class Wear:
    """What a picture goes through: contrast kept, ISO of a sensor, film grain, JPEG quality (None: none)."""

    contrast: float = 1.0
    iso: float = 100.0
    grain: float = 0.0
    quality: int | None = 90


def scene_called(
    name: str, seed: int, focal_mm: float, *, nearest_mm: float = 450.0, farthest_mm: float = math.inf
) -> Scene:
    """Return a scene as chance sets it up before a lens."""
    return PAINTED[name](np.random.default_rng(seed), FocusRange(focal_mm, 450.0, math.inf))


def render(scene: Scene, focal_mm: float, focus_mm: float | None, stop: float, width_px: int) -> Picture:
    """Return a scene as BGR, 3:2, focused on a distance from the lens, mm; None for everything sharp."""
    height = width_px * 2 // 3
    view = View(width_px, height, FRAME_UNITS[0] / width_px)
    at = scene.target_mm if focus_mm is None else focus_mm
    focus = Focus(
        extension_mm=float(extension_at_object_distance(at, focal_mm)), stop=_ALL_SHARP if focus_mm is None else stop
    )
    return Stage(scene, focal_mm, 1.0).render(view, focus)


def worn(picture: Picture, wear: Wear, seed: int) -> Picture:
    """Return a picture with its contrast, noise, grain and compression."""
    rng = np.random.default_rng(seed)
    found = 0.5 + wear.contrast * (picture.astype(np.float32) / 255 - 0.5)
    shape = picture.shape[:2]
    if wear.iso:
        strength = _ISO_100_NOISE * math.sqrt(wear.iso / 100)
        light = np.sqrt(np.clip(found, 0.04, 1) / 0.5)
        found += strength * light * rng.standard_normal(picture.shape, dtype=np.float32)
    if wear.grain:
        clumps = cv2.GaussianBlur(rng.standard_normal(shape, dtype=np.float32), (0, 0), 1.1)
        clumps = clumps * np.float32(wear.grain / float(clumps.std()))
        found += clumps if found.ndim == 2 else clumps[:, :, None]
    done = np.clip(found * 255 + 0.5, 0, 255).astype(np.uint8)
    if wear.quality is None:
        return done
    packed = cv2.imencode(".jpg", done, [cv2.IMWRITE_JPEG_QUALITY, wear.quality])[1]
    unpacked: Picture = np.asarray(cv2.imdecode(packed, cv2.IMREAD_UNCHANGED), dtype=np.uint8)
    return unpacked
