"""Scenes rendered beforehand by a ray tracer: colours and how near each pixel is, cut into layers for the stage.

A rendered scene holds no distances in mm but *nearness*: the distance of the target over that of what is seen, 1 at the
target and 0 for the sky. Laid out for a lens, the whole scene grows or shrinks with the distance of its target, so that
the same picture is a bench before a close-up lens and a wall before a long one.

A layer holds what is about as near as itself, and covers less and less of what lies between it and the next one
farther off. Behind what stands before it, it goes on for a little
way: with what is seen there where the surface runs on, with the colours around where something farther is hidden, so
that no edge shows the ground through when it blurs.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from welotrope.core.finder.canvas import Canvas, Picture, View
from welotrope.core.finder.scene import FocusRange, Layer, PointLight, Scene

Nearness = NDArray[np.float32]
Mask = NDArray[np.uint8]
Renderings = Callable[[str], "Rendering"]
# Middles of the layers as differences of nearness from the target: fine about it, coarse where all is blurred anyway.
_STEPS = (0.006, 0.014, 0.026, 0.045, 0.075, 0.12, 0.2, 0.33, 0.55, 0.9, 1.5)
_GOES_ON = 0.96  # picture units, how far a layer goes on behind what stands before it
_LEAST_SHARE = 0.0005  # of all that is seen, to have a layer
_RUNS_ON = 1.05  # times as near as a layer is what may be the same surface
_SLIGHT = 0.4
_APART = 1e-5  # of nearness, as exact as it is held
_COARSER = 4  # times as coarse as the picture what is hidden is filled in
_FINER = 2  # times as fine as it is shown a layer is looked up, and averaged


@dataclass(frozen=True, eq=False)
class Plate:
    """A rendered picture, or part of one.

    Parameters
    ----------
    colour
        BGR, 8 bit, shape (height, width, 3).
    nearness
        Distance of the target over that of each pixel, shape (height, width); 0 for the sky.
    left, top
        Its corner, picture units from the middle of the frame.
    unit_px
        Its pixels to a picture unit.
    """

    colour: Picture
    nearness: Nearness
    left: float
    top: float
    unit_px: float


@dataclass(frozen=True, eq=False, kw_only=True)
class Rendering:
    """A scene as it was rendered.

    Parameters
    ----------
    name, title
        Its key, and its name in words.
    plates
        The whole frame, then finer ones of parts of it.
    target_name, target_x, target_y
        What to focus on, and where it is, picture units.
    brightness
        1 for daylight.
    focal_lengths
        How far off the target may be laid, in focal lengths: the least and the most.
    lights
        Small lights, with the nearness of each.
    """

    name: str
    title: str
    plates: tuple[Plate, ...]
    target_name: str
    target_x: float
    target_y: float
    brightness: float
    focal_lengths: tuple[float, float]
    lights: tuple[tuple[float, PointLight], ...] = ()


@dataclass(frozen=True, eq=False)
class _Slice:
    """What one plate holds of a layer: premultiplied BGR and cover, and its corner in the plate, pixels."""

    pixels: Picture
    x: int
    y: int


class Slices:
    """A rendering cut into layers; kept as long as the rendering, whatever lens looks at it."""

    def __init__(self, rendering: Rendering) -> None:
        self.nearness = _middles(rendering.plates)
        self._plates = rendering.plates
        with ThreadPoolExecutor(2) as threads:  # OpenCV works beside Python
            self._of = list(threads.map(
                lambda index: [_cut_out(plate, self.nearness, index) for plate in rendering.plates],
                range(len(self.nearness)),
            ))  # fmt: skip

    def index_of(self, nearness: float) -> int:
        """Return which layer holds what is as near as this, a ratio of distances from 0 to 4."""
        return int(np.abs(np.array(self.nearness) - nearness).argmin())

    def cut(self, index: int, view: View) -> tuple[Picture, int, int]:
        """Return a layer as a view shows it, cut to what is covered, and its corner, column and row of the view."""
        out: Picture = np.zeros((view.height_px, view.width_px, 4), np.uint8)
        for plate, piece in zip(self._plates, self._of[index], strict=True):
            coarsest = plate is self._plates[0]
            if not coarsest and view.units_per_px * self._plates[0].unit_px > 1:
                break  # the whole frame holds all that can be seen
            height, width = plate.nearness.shape
            if not coarsest and not (index == 0 and piece is None):
                left, top, right, bottom = _shown(plate, view, 0, 0, width, height)
                out[top:bottom, left:right] = 0  # what the coarser one has there
            if piece is not None:
                height, width = piece.pixels.shape[:2]
                beyond = index == 0 and coarsest
                everywhere = 0, 0, view.width_px, view.height_px
                box = everywhere if beyond else _shown(plate, view, piece.x, piece.y, width, height)
                _look_up(out, piece, plate, view, box, beyond=beyond)
        if index == 0:
            return out, 0, 0
        x, y, width, height = cv2.boundingRect(out[:, :, 3])
        return np.ascontiguousarray(out[y : y + height, x : x + width]), x, y


@lru_cache(maxsize=1)  # a hundred megabytes; a round that is open keeps what it has painted, not this
def slices_of(rendering: Rendering) -> Slices:
    """Return a rendering cut into layers."""
    return Slices(rendering)


def laid_out(name: str, renderings: Renderings, rng: np.random.Generator, reach: FocusRange) -> Scene:
    """Return a rendered scene before a lens: its target within the lens's reach, the rest as far off as it belongs."""
    rendering = renderings(name)
    slices = slices_of(rendering)
    at = reach.within(reach.focal_mm * rng.uniform(*rendering.focal_lengths))
    layers = tuple(
        Layer(
            at / nearness if nearness > 0 else math.inf, _shower(name, renderings, index),
            tuple(light for place, light in rendering.lights if slices.index_of(place) == index),
            backdrop=index == 0,
        )
        for index, nearness in enumerate(slices.nearness)
    )  # fmt: skip
    return Scene(
        name=rendering.name, title=rendering.title, layers=layers, target=slices.index_of(1.0),
        target_name=rendering.target_name, target_x=rendering.target_x, target_y=rendering.target_y,
        brightness=rendering.brightness, finest=1 / max(plate.unit_px for plate in rendering.plates),
    )  # fmt: skip


def _shower(name: str, renderings: Renderings, index: int) -> Callable[[Canvas], None]:
    return lambda canvas: canvas.show(*slices_of(renderings(name)).cut(index, canvas.view))


def _middles(plates: tuple[Plate, ...]) -> list[float]:
    """Return the nearness of each layer, farthest first: the mean of what is about as near, where there is anything."""
    seen = np.concatenate([plate.nearness[::4, ::4].ravel() for plate in plates])
    steps = np.array(_STEPS)
    between = np.concatenate(([steps[0] / 2], (steps[:-1] + steps[1:]) / 2, [np.inf]))
    found = [1.0]
    for side in (-1.0, 1.0):
        away = side * (seen - 1)
        for low, high in itertools.pairwise(between):
            here = seen[(away > low) & (away <= high)]
            if len(here) > _LEAST_SHARE * len(seen):
                found.append(float(here.mean()))
    return sorted(found)


def _cut_out(plate: Plate, middles: list[float], index: int) -> _Slice | None:
    """Return what a plate holds of a layer; None where that is nothing."""
    before = middles[index - 1] if index else -math.inf
    after = middles[index + 1] if index + 1 < len(middles) else math.inf
    found = cv2.inRange(plate.nearness, before + _APART, after - _APART)
    x, y, width, height = cv2.boundingRect(found)
    if not width:
        return None
    margin = round(_GOES_ON * plate.unit_px)
    left, top = max(x - margin, 0), max(y - margin, 0)
    part = np.s_[top : y + height + margin, left : x + width + margin]
    own, nearness, colour = _mask(found[part]), plate.nearness[part], plate.colour[part]
    if index == 0:  # nothing shows behind the backdrop
        cover = np.full(own.shape, 255, np.uint8)
        known = own
    else:
        # From one layer's nearness to the next it covers ever more, so that a slant goes from blur to blur evenly.
        rise = 255 / (middles[index] - before)
        share = cv2.threshold(nearness * np.float32(rise) - np.float32(before * rise), 255, 255, cv2.THRESH_TRUNC)[1]
        cover = _mask(cv2.bitwise_and(cv2.convertScaleAbs(np.maximum(share, 0)), _about(own, margin)))
        within = cv2.inRange(nearness, -1.0, max(after - _APART, _RUNS_ON * middles[index]))
        known = _mask(cv2.bitwise_and(cv2.bitwise_or(cover, own), within))
    filled = _filled(colour, known, cover)
    light = cv2.multiply(filled, cv2.cvtColor(cover, cv2.COLOR_GRAY2BGR), scale=1 / 255)
    return _Slice(np.asarray(cv2.merge((*cv2.split(light), cover)), np.uint8), left, top)


def _mask(values: object) -> Mask:
    return np.asarray(values, np.uint8)


def _about(own: Mask, margin: int) -> Mask:
    """Return what lies within a margin of a mask, pixels, to a quarter of it."""
    step = max(margin // 4, 1)
    size = (max(own.shape[1] // step, 1), max(own.shape[0] // step, 1))
    coarse = cv2.threshold(cv2.resize(own, size, interpolation=cv2.INTER_AREA), 0, 255, cv2.THRESH_BINARY)[1]
    wide = cv2.dilate(coarse, np.ones((11, 11), np.uint8))
    return _mask(cv2.resize(wide, (own.shape[1], own.shape[0]), interpolation=cv2.INTER_NEAREST))


def _filled(colour: Picture, known: Mask, wanted: Mask) -> Picture:
    """Return colours with those that are not known taken from around, ever farther off until all wanted have one."""
    if not cv2.countNonZero(cv2.bitwise_and(wanted, cv2.bitwise_not(known))):
        return colour
    height, width = known.shape
    least = (max(width // _COARSER, 1), max(height // _COARSER, 1))
    known = _mask(cv2.threshold(known, 0, 255, cv2.THRESH_BINARY)[1])
    masked = cv2.bitwise_and(colour, cv2.cvtColor(known, cv2.COLOR_GRAY2BGR))
    total = np.asarray(cv2.resize(masked, least, interpolation=cv2.INTER_AREA), np.float32)
    weight = np.asarray(cv2.resize(known, least, interpolation=cv2.INTER_AREA), np.float32) / np.float32(255)
    slight = weight < _SLIGHT  # rounded too much to be divided by
    if not slight.all():
        weight[slight], total[slight] = 0, 0
    guess = np.clip(_pulled(total, weight) + 0.5, 0, 255).astype(np.uint8)
    out = cv2.resize(guess, (width, height), interpolation=cv2.INTER_LINEAR)
    return np.asarray(cv2.copyTo(colour, known, out), np.uint8)


def _pulled(total: Nearness, weight: Nearness) -> Nearness:
    """Return the mean colour of a sum over its weight; where there is none, that of ever more around it."""
    levels = [(total, weight)]
    while max(levels[-1][1].shape) > 1:
        above, below = levels[-1]
        size = (max(below.shape[1] // 2, 1), max(below.shape[0] // 2, 1))
        halves = [np.asarray(cv2.resize(one, size, interpolation=cv2.INTER_AREA), np.float32) for one in (above, below)]
        levels.append((halves[0].reshape(size[1], size[0], 3), halves[1].reshape(size[1], size[0])))
    guess: Nearness = np.asarray(levels[-1][0] / np.maximum(levels[-1][1], 1e-6)[..., None], np.float32)
    for above, below in reversed(levels[:-1]):
        finer = cv2.resize(guess, (below.shape[1], below.shape[0]), interpolation=cv2.INTER_LINEAR)
        guess = np.asarray(finer, np.float32).reshape(*below.shape, 3)
        share = np.minimum(below, 1.0)[..., None]
        guess = np.asarray(above / np.maximum(below, 1e-6)[..., None] * share + guess * (1 - share), np.float32)
    return guess


def _shown(plate: Plate, view: View, x: int, y: int, width: int, height: int) -> tuple[int, int, int, int]:
    """Return where part of a plate lies in a view: its first and last columns and rows, the last ones not included."""
    left, top = view.place(plate.left + x / plate.unit_px, plate.top + y / plate.unit_px)
    right, bottom = view.place(plate.left + (x + width) / plate.unit_px, plate.top + (y + height) / plate.unit_px)
    return (
        max(math.ceil(left + 0.5), 0), max(math.ceil(top + 0.5), 0), min(math.floor(right + 0.5), view.width_px),
        min(math.floor(bottom + 0.5), view.height_px),
    )  # fmt: skip


def _look_up(
    out: Picture, piece: _Slice, plate: Plate, view: View, box: tuple[int, int, int, int], *, beyond: bool
) -> None:
    """Lay a piece of a plate into a box of a view's raster; ``beyond`` goes on past its edges."""
    left, top, right, bottom = box
    if right <= left or bottom <= top:
        return
    scale = plate.unit_px * view.units_per_px  # pixels of the plate to one of the view
    finer = _FINER if scale > 1.2 else 1
    step = scale / finer
    x, y = view.place(plate.left, plate.top)  # where the plate's corner lies, from the middle of the first pixel
    to_piece = np.array([
        [step, 0, (left - 0.5 - x) * scale + step / 2 - 0.5 - piece.x],
        [0, step, (top - 0.5 - y) * scale + step / 2 - 0.5 - piece.y],
    ])  # fmt: skip
    seen = cv2.warpAffine(
        piece.pixels, to_piece, ((right - left) * finer, (bottom - top) * finer),
        flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
        borderMode=cv2.BORDER_REPLICATE if beyond else cv2.BORDER_CONSTANT,
    )  # fmt: skip
    if finer > 1:
        seen = cv2.resize(seen, (right - left, bottom - top), interpolation=cv2.INTER_AREA)
    out[top:bottom, left:right] = seen
