"""Where in a picture focus fell: how blurred its edges are, place by place, against the picture's own noise.

Edges are looked for at the coarser scales, where noise is weak, in blocks of 8 pixels; each is then looked at across,
averaged along itself (:mod:`welotrope.core.picture.edge_profiles`). The ratio of what two scales see of it is free of
contrast and of how many edges there are, and gives the blur. Noise is measured at every scale where the picture is
flattest, so that grain, which is not white, is not taken for detail. Points of light are judged by their size
(:mod:`welotrope.core.picture.lights`). In a picture without any detail as fine as its pixels nothing is called sharp
(:mod:`welotrope.core.picture.blocks`), nor in one that was shaken (:mod:`welotrope.core.picture.shake`), whose
edges along its line are as sharp as ever. What has no edges, or none above the noise, is said to be unknown. Lines
thinner than their blur look sharper than edges do, and so do the rims of large lights on uneven ground.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture import edge_profiles
from welotrope.core.picture.blocks import (
    BLOCK,
    SCALES_PX,
    BlockGrid,
    BoolGrid,
    FloatGrid,
    gradients_of,
    in_blocks,
    in_cells,
    is_softened,
    levels_of,
)
from welotrope.core.picture.edge_profiles import directions, edge_energies
from welotrope.core.picture.lights import LightSpot, blocks_lit, lights_of
from welotrope.core.picture.noise import Noise, Tones, flat_blocks, noise_of, thinned, tones_of
from welotrope.core.picture.shake import Shake, shake_of

Sums = list["_Sum"]  # by scale
LONG_CELLS = 48
LEAST_PX, MOST_PX = 32, 60_000
MOST_PLACES = 12
_ABOVE = 5.0  # times its scatter that energy must stand above the noise
_KNOWN_TO = 0.09  # share of itself to which the level of the noise is known
_EDGE_ABOVE = (4.5, 7.0)  # the same of a block that is to hold an edge, at the first halving and the second
_STEEPEST, _LOUDER = 2.2, 4.0  # the fall of the sharpest edge; times its level that noise is taken to vary
_MOST_BLOCKS, _MOST_FLAT = 4, 15_000  # blocks that are looked at: of a cell with edges, and flat ones
_BORDER = 2  # blocks, about as far as profiles reach
_CAUTION, _SHAPE, _POOLS = 2.5, 0.3, (1, 3, 5)
_TOLD_TO_PX = 3.0  # blur that profiles tell
_SHARP_EDGE, _ALIKE = 0.6, 0.1  # rank from which all count as sharp, and steps of it below
_SHARP_LIGHT_PX = 1.0  # blur up to which a light counts as sharp at all
_HALF_AT_PX = 1.2  # blur at which the score is a half
_UNSHARP_MOST = 0.3  # score of what is softened or shaken, at most
_SOFTENED_LEAST_PX = 0.8  # blur of what is softened, at least
_APART = 2.5  # cells between two places that are told apart
_LAST = -1e3  # rank of what is not known to be sharp
# Scatter that eight bits and compression leave where they took the noise away, squared grey levels: of the halvings
# a pixel, of profiles in all.
_FLOORS, _PROFILE_FLOORS = (0.3, 0.04, 0.006), (0.22, 0.045, 0.006)


@dataclass(frozen=True, kw_only=True)
class Place:
    """A place that is sharp: fractions of width and height from the top left, its score, and its blur, pixels."""

    x: float
    y: float
    score: float
    blur_px: float


@dataclass(frozen=True, kw_only=True)
class SharpnessMap:
    """How sharp a picture is, cell by cell.

    Parameters
    ----------
    width_px, height_px
        Of the picture.
    cell_px
        Side of a cell, pixels; the last of a row or column may be smaller.
    scores
        Rows of scores from 0 to 1; NaN where nothing can be said. One half is a blur of 1.2 pixels.
    blur_px
        The standard deviation of the blur behind them, pixels; NaN likewise.
    places
        The sharpest places, best first.
    softened
        Whether nothing in it is as fine as its pixels: enlarged, softened or nowhere in focus. Scores are then at most
        0.3, and the blur is at least 0.8 pixels, which is all that can be told.
    shake
        How far all of it is drawn out along a line, if it is. Scores are then at most 0.3 too, and the blur is at least
        the standard deviation of that line.
    """

    width_px: int
    height_px: int
    cell_px: int
    scores: FloatGrid
    blur_px: FloatGrid
    places: tuple[Place, ...]
    softened: bool = False
    shake: Shake | None = None

    @property
    def rows(self) -> int:
        """Rows of cells, a pure number."""
        return int(self.scores.shape[0])

    @property
    def cols(self) -> int:
        """Columns of cells, a pure number."""
        return int(self.scores.shape[1])


@dataclass(frozen=True)
class _Sum:
    """What stands above the noise in the blocks of each cell that hold an edge, the scatter of that, and the noise."""

    signal: FloatGrid
    scatter: FloatGrid
    level: FloatGrid

    @property
    def seen(self) -> BoolGrid:
        found: BoolGrid = self.signal > _ABOVE * self.scatter
        return found

    def over(self, size: int) -> _Sum:
        """Return the sums over squares of cells of an odd size."""
        import cv2

        def pooled(grid: FloatGrid) -> FloatGrid:
            mean = cv2.blur(grid, (size, size), borderType=cv2.BORDER_REPLICATE)
            return np.asarray(mean, dtype=np.float64) * size * size

        return _Sum(pooled(self.signal), np.sqrt(np.maximum(pooled(self.scatter**2), 0.0)), pooled(self.level))


@dataclass(frozen=True)
class _Cells:
    """Which cell each chosen block lies in, and how many there are: rows and columns."""

    of_block: NDArray[np.intp]
    rows: int
    cols: int

    @classmethod
    def of(cls, chosen: BoolGrid, side: int) -> _Cells:
        rows, cols = (math.ceil(length / side) for length in chosen.shape)
        row, col = np.nonzero(chosen)
        return cls(row // side * cols + col // side, rows, cols)

    def sums(self, energy: AnyArray, level: FloatGrid, scatter: FloatGrid) -> _Sum:
        """Sum up blocks by cell; one value a chosen block."""

        def summed(values: FloatGrid) -> FloatGrid:
            total = np.bincount(self.of_block, weights=values, minlength=self.rows * self.cols)
            return np.asarray(total, dtype=np.float64).reshape(self.rows, self.cols)

        levels = summed(level)
        return _Sum(summed(energy - level), np.hypot(np.sqrt(summed(scatter**2)), _KNOWN_TO * levels), levels)


def sharpness_map(picture: AnyArray) -> SharpnessMap:
    """Return the map of a picture, given as grey values of any range, shape (height, width).

    Parameters
    ----------
    picture
        Grey values, shape (height, width), of 8 or 16 bits or as floats.

    Raises
    ------
    OutOfRangeError
        When it is no picture, smaller than 32 pixels a side, or larger than 60 000.
    """
    if picture.ndim != 2 or not all(LEAST_PX <= side <= MOST_PX for side in picture.shape):
        raise OutOfRangeError(
            "picture", " × ".join(map(str, picture.shape[::-1])), "it has no size that can be judged",
            f"Take one of {LEAST_PX} to {MOST_PX} pixels a side",
        )  # fmt: skip
    height, width = picture.shape
    side = max(math.ceil(max(width, height) / LONG_CELLS / BLOCK), 1)  # blocks
    white = 255.0 if picture.dtype == np.uint8 else max(float(np.max(picture)), 1e-6)
    levels = levels_of(picture)
    lights = lights_of(levels, white)
    inner = _inner_blocks((height, width), levels[-1].shape)
    profiled, halved = _sums(levels, inner, lights, side, (white / 255) ** 2)
    blur, rank, detail = _blur(profiled, halved), _steepness(profiled), halved[0].signal.copy()
    for light in lights:
        _put_light(light, side * BLOCK, blur, rank, detail)
    shake = shake_of(picture)
    softened = shake is None and is_softened(picture)
    blur = np.maximum(blur, _least_blur_px(softened, shake))
    most = _UNSHARP_MOST if softened or shake else 1.0
    return SharpnessMap(
        width_px=width, height_px=height, cell_px=side * BLOCK, scores=np.minimum(_score(blur), most), blur_px=blur,
        places=_places(blur, rank, detail, (width, height), side * BLOCK, most), softened=softened, shake=shake,
    )  # fmt: skip


def _least_blur_px(softened: bool, shake: Shake | None) -> float:
    """Return the blur, px, that everything has at least: of a shake the standard deviation of its line."""
    if shake is not None:
        return shake.length_px / math.sqrt(12)
    return _SOFTENED_LEAST_PX if softened else 0.0


def _inner_blocks(size: tuple[int, int], shape: tuple[int, ...]) -> BoolGrid:
    """Return the blocks across which can be looked, within the border: what fills a picture up beyond it is lines."""
    found = np.zeros(shape, dtype=bool)
    top, left = (min(_BORDER, (length - 1) // 3) for length in shape)
    found[top : size[0] // BLOCK - top, left : size[1] // BLOCK - left] = True
    return found


def _sums(
    levels: list[AnyArray], inner: BoolGrid, lights: list[LightSpot], side: int, unit: float
) -> tuple[Sums, Sums]:
    """Return what the edges of each cell hold: by their profiles, and by the halvings; ``unit`` is a squared grey."""
    gradients = [gradients_of(level, halvings) for halvings, level in enumerate(levels[1:], start=1)]
    energies, tones = [one.energy for one in gradients], tones_of(levels[-1])
    flat = flat_blocks(energies[0], tones, side) & inner
    still = thinned(flat, _MOST_FLAT)
    noise = [noise_of(one[still], tones[still], floor * unit) for one, floor in zip(energies, _FLOORS, strict=True)]
    sure = [light for light in lights if light.is_sure]
    chosen = _with_edges(energies, noise, tones, side) & inner & ~blocks_lit(sure, flat.shape)
    angles = directions(gradients[:2], noise[:2])
    edges = edge_energies(levels[0], chosen, flat, angles, tones, tuple(floor * unit for floor in _PROFILE_FLOORS))
    cells, tone = _Cells.of(chosen, side), tones[chosen]
    profiled = [cells.sums(*each) for each in zip(edges.energies, edges.levels, edges.scatters, strict=True)]
    halved = [
        cells.sums(energy[chosen], known.levels[tone], known.scatters[tone])
        for energy, known in zip(energies, noise, strict=True)
    ]
    return profiled, halved


def _with_edges(energies: list[BlockGrid], noise: list[Noise], tones: Tones, side: int) -> BoolGrid:
    """Return the blocks that hold an edge as far as the coarser scales tell, the strongest of each cell."""
    found = []
    for energy, known, times in zip(energies, noise, _EDGE_ABOVE, strict=False):
        level, scatter = known.for_each(tones)
        found.append((energy - level) / (times * scatter))
    strength = in_cells(np.maximum(*found), side, -np.inf)
    most = min(_MOST_BLOCKS, side * side)
    least = np.partition(strength, -most, axis=2)[:, :, -most]
    return in_blocks((strength >= least[:, :, None]) & (strength > 1), side, energies[0].shape)


def _usable(fine: _Sum, coarse: _Sum) -> BoolGrid:
    """Return where two scales tell a blur.

    What falls steeper than an edge and hardly stands above the noise is noise that is louder here.
    """
    louder = (fine.signal > _STEEPEST * coarse.signal) & (fine.signal < _LOUDER * fine.level)
    return fine.seen & coarse.seen & ~louder


def _blur(profiled: Sums, halved: Sums) -> FloatGrid:
    """Return the blur of each cell, px, from the finest two scales that both stand above the noise.

    Profiles are too short for more blur than some pixels; the halvings tell that.
    """
    blur = np.full(profiled[0].signal.shape, np.nan)
    for sums, scales, most in ((profiled, edge_profiles.SCALES_PX, _TOLD_TO_PX), (halved, SCALES_PX, math.inf)):
        for (fine, one), (coarse, two) in pairwise(zip(sums, scales, strict=True)):
            told = _usable(fine, coarse) & np.isnan(blur)
            found = _sigma(fine.signal[told] / coarse.signal[told], one, two)
            blur[told] = np.where(found < most, found, np.nan)
    return blur


def _steepness(sums: Sums) -> FloatGrid:
    """Return how surely and how steeply the energy falls from the finest scale on, by which cells are ranked.

    It is the lower end of what the noise allows, the highest of single cells and of larger squares round them; a
    square counts for the cell in it that holds most. The fall from the second scale on is taken off in part, since
    lines and points fall steeper than edges at every scale.
    """
    import cv2

    most = sums[0].signal
    best = np.full(most.shape, -np.inf)
    for size in _POOLS:
        one, two, three = (each.over(size) for each in sums)
        holds_most = most >= cv2.dilate(most, np.ones((size, size)))
        better = _usable(one, two) & three.seen & holds_most
        # What hardly stands above the noise is believed to fall as an edge does, and not steeper.
        believed = math.log(_STEEPEST) + np.log1p(np.maximum(one.signal, 0) / (_LOUDER * one.level + 1e-9))
        falls = np.minimum(_fall(one, two), believed)
        best[better] = np.maximum(best, falls - _SHAPE * _fall(two, three))[better]
    return best


def _fall(fine: _Sum, coarse: _Sum) -> FloatGrid:
    least = np.maximum(fine.signal - _CAUTION * fine.scatter, 1e-9)
    found: FloatGrid = np.log(least / np.maximum(coarse.signal + _CAUTION * coarse.scatter, 1e-9))
    return found


def _put_light(light: LightSpot, cell_px: int, blur: FloatGrid, rank: FloatGrid, detail: FloatGrid) -> None:
    """Put a light into its cell, where edges tell nothing or less; one that may be noise only where nothing does."""
    at = int(light.y) // cell_px, int(light.x) // cell_px
    sharp = light.blur_px <= _SHARP_LIGHT_PX
    if math.isnan(blur[at]) and (sharp or light.is_sure):
        blur[at] = light.blur_px
        detail[at] = light.above if light.is_sure else 1e-9 * light.above
    if light.is_sure and sharp and _rank_of(light.blur_px) > rank[at]:
        rank[at], detail[at] = _rank_of(light.blur_px), max(detail[at], light.above)


def _rank_of(blur_px: float) -> float:
    """Return the rank of an edge of known blur, px."""
    one, two, three = (-0.5 * math.log(blur_px**2 + scale**2) for scale in edge_profiles.SCALES_PX)
    return one - two - _SHAPE * (two - three)


def _score(blur: FloatGrid) -> FloatGrid:
    found: FloatGrid = 1 / (1 + (blur / _HALF_AT_PX) ** 2)
    return found


def _sigma(ratio: FloatGrid, fine: float, coarse: float) -> FloatGrid:
    """Return the blur of an edge, px, whose energies at two scales, px, have a ratio: 1 for no end of blur."""
    squared = np.clip(ratio, 1 + 1e-6, None) ** 2
    found: FloatGrid = np.sqrt(np.clip((coarse**2 - squared * fine**2) / (squared - 1), 0.0, None))
    return np.minimum(found, 8 * coarse)


def _places(
    blur: FloatGrid, rank: FloatGrid, detail: FloatGrid, size: tuple[int, int], side: int, most: float
) -> tuple[Place, ...]:
    """Return the cells that are surely sharpest and apart from each other; ``most`` is the highest score there is.

    Those that are about as sharp as a sharp edge count alike; of them the one with the most detail comes first.
    """
    known = np.argwhere(~np.isnan(blur)).tolist()
    classed = np.floor(np.minimum(np.where(np.isfinite(rank), rank, _LAST), _SHARP_EDGE) / _ALIKE)
    order = sorted(known, key=lambda at: (-classed[at[0], at[1]], -detail[at[0], at[1]]))
    chosen: list[list[int]] = []
    for at in order:
        if all(math.hypot(at[0] - one[0], at[1] - one[1]) >= _APART for one in chosen):
            chosen.append(at)
        if len(chosen) == MOST_PLACES:
            break
    width, height = size
    # One that is less sure to be sharp is not called sharper.
    scores = np.minimum.accumulate([min(round(float(_score(blur[row, col])), 2), most) for row, col in chosen] or [0.0])
    return tuple(
        Place(
            x=(min((col + 1) * side, width) + col * side) / 2 / width,
            y=(min((row + 1) * side, height) + row * side) / 2 / height,
            score=float(score), blur_px=float(blur[row, col]),
        )
        for (row, col), score in zip(chosen, scores, strict=False)
    )  # fmt: skip
