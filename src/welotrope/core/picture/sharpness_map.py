"""Where in a picture focus fell: how blurred its edges are, place by place, against the picture's own noise.

A step edge of contrast ``c`` that is blurred by ``σ`` leaves the gradient energy ``E(s) ∝ c²/√(σ² + s²)`` per length of
edge, seen at scale ``s``. The ratio of two scales is free of contrast and of how many edges there are, and gives ``σ``
(Elder and Zucker, *IEEE Trans. PAMI* 20 (1998) 699, choose scales likewise by what stands above noise). Edges are
looked for at the coarser scales, where noise is weak, in blocks of 8 pixels, and the finest scale is looked at only in
blocks that hold one, so that a few edges are not lost among much noise. Noise is measured at every scale where the
picture is flattest, so that grain, which is not white, is not taken for detail. What has no edges, or none above the
noise, is said to be unknown. Lines thinner than their blur look sharper to it than edges do.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from welotrope.core.errors import OutOfRangeError

FloatGrid = NDArray[np.float64]
Grids = list[FloatGrid]
Sums = list["_Sum"]  # by scale
LONG_CELLS = 48
LEAST_PX, MOST_PX = 32, 60_000
MOST_PLACES = 12
BLOCK = 8
# What each level sees through, px: its pixels are means over 1, 2, 4, 8, and Sobel's operator spans two of them.
_SOBEL_PX = 0.65
_SCALES = tuple(math.hypot(_SOBEL_PX * side, math.sqrt((side * side - 1) / 12)) for side in (1, 2, 4, 8))
_SOBEL = 8.0  # sum of one side of its weights, twice
_TONES, _LOUDEST, _FLATTEST = 10, 6.0, 0.12  # classes of brightness, and the share of cells taken for flat
_ABOVE = 3.0  # times its scatter that energy must stand above the noise
_KNOWN_TO = 0.09  # share of itself to which the level of the noise is known
_EDGE_ABOVE = (4.5, 7.0)  # the same of a block that is to hold an edge, at the second scale and the third
_STEEPEST, _LOUDER = 2.2, 4.0  # the fall of the sharpest edge; times its level that noise is taken to vary
_MOST_BLOCKS = 16  # of a cell that are looked at
_CAUTION, _SHAPE, _POOLS = 2.5, 0.4, (1, 3, 5)
_FEW_BLOCKS = 60_000
_SHARP_EDGE, _ALIKE = 0.6, 0.1  # rank from which all count as sharp, and steps of it below
_HALF_AT_PX = 1.2  # blur at which the score is a half
_APART = 2.5  # cells between two places that are told apart
# Scatter that eight bits and compression leave where they took the noise away, squared grey levels a pixel.
_FLOORS = (1.5, 0.3, 0.04, 0.006)


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
    """

    width_px: int
    height_px: int
    cell_px: int
    scores: FloatGrid
    blur_px: FloatGrid
    places: tuple[Place, ...]

    @property
    def rows(self) -> int:
        """Rows of cells, a pure number."""
        return int(self.scores.shape[0])

    @property
    def cols(self) -> int:
        """Columns of cells, a pure number."""
        return int(self.scores.shape[1])


@dataclass(frozen=True)
class _Noise:
    """The energy of the noise for each class of brightness, and its scatter from block to block."""

    levels: FloatGrid
    scatters: FloatGrid


@dataclass(frozen=True)
class _Sum:
    """What stands above the noise in the blocks of each cell that hold an edge, the scatter of that, and the noise."""

    signal: FloatGrid
    scatter: FloatGrid
    level: FloatGrid

    @property
    def seen(self) -> NDArray[np.bool_]:
        found: NDArray[np.bool_] = self.signal > _ABOVE * self.scatter
        return found

    def over(self, size: int) -> _Sum:
        """Return the sums over squares of cells of an odd size."""
        import cv2

        def pooled(grid: FloatGrid) -> FloatGrid:
            mean = cv2.blur(grid, (size, size), borderType=cv2.BORDER_REPLICATE)
            return np.asarray(mean, dtype=np.float64) * size * size

        return _Sum(pooled(self.signal), np.sqrt(np.maximum(pooled(self.scatter**2), 0.0)), pooled(self.level))


def sharpness_map(picture: NDArray[Any]) -> SharpnessMap:
    """Return the map of a picture, given as grey values of any range, shape (height, width).

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
    levels = _levels(picture)
    energies = [_block_energy(level, BLOCK >> halvings) for halvings, level in enumerate(levels[1:], start=1)]
    tones = _tones(levels[-1])
    flat = _flat_blocks(energies[0], tones, side)
    white = 255.0 if picture.dtype == np.uint8 else max(float(np.max(picture)), 1e-6)
    floors = [floor * (white / 255) ** 2 for floor in _FLOORS]
    noise = [_noise(energy, flat, tones, floor) for energy, floor in zip(energies, floors[1:], strict=True)]
    chosen = _with_edges(energies, noise, tones, side)
    finest = np.zeros_like(energies[0])
    wanted = chosen | (flat & _some(flat.shape))
    finest[wanted] = _finest_energy(levels[0], wanted)
    noise = [_noise(finest, flat & wanted, tones, floors[0]), *noise]
    cells = _cell_of_blocks(chosen.shape, side)
    sums = [
        _sums(energy, known, tones, chosen, cells) for energy, known in zip([finest, *energies], noise, strict=True)
    ]
    blur = _blur(sums)
    places = _places(blur, _steepness(sums), sums[1].signal, (width, height), side * BLOCK)
    return SharpnessMap(
        width_px=width, height_px=height, cell_px=side * BLOCK, scores=_score(blur), blur_px=blur, places=places
    )


def _levels(picture: NDArray[Any]) -> list[NDArray[Any]]:
    """Return the picture and copies of half, a quarter and an eighth of its size, each the mean of the one before."""
    import cv2

    whole = picture if picture.dtype == np.uint8 else np.asarray(picture, dtype=np.float32)
    down, right = (-length % BLOCK for length in whole.shape)
    if down or right:
        whole = cv2.copyMakeBorder(whole, 0, down, 0, right, cv2.BORDER_REPLICATE)
    levels = [np.ascontiguousarray(whole)]
    smaller: NDArray[Any] = np.asarray(whole, dtype=np.float32)
    for _ in _SCALES[1:]:
        smaller = cv2.resize(smaller, (smaller.shape[1] // 2, smaller.shape[0] // 2), interpolation=cv2.INTER_AREA)
        levels.append(smaller)
    return levels


def _block_energy(level: NDArray[Any], side: int) -> FloatGrid:
    """Return the mean squared gradient of each block of a level, per pixel of the whole picture."""
    import cv2

    across, down = (cv2.Sobel(level, cv2.CV_32F, *way, ksize=3) for way in ((1, 0), (0, 1)))
    squares = cv2.add(cv2.multiply(across, across), cv2.multiply(down, down))
    if side > 1:
        squares = cv2.resize(squares, (level.shape[1] // side, level.shape[0] // side), interpolation=cv2.INTER_AREA)
    found: FloatGrid = np.asarray(squares, dtype=np.float64)
    return found / (_SOBEL * BLOCK / side) ** 2


def _finest_energy(whole: NDArray[Any], wanted: NDArray[np.bool_]) -> FloatGrid:
    """Return the mean squared gradient of the wanted blocks of the picture itself."""
    import cv2

    edged = cv2.copyMakeBorder(whole, 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    windows = np.lib.stride_tricks.sliding_window_view(edged, (BLOCK + 2, BLOCK + 2))[::BLOCK, ::BLOCK]
    held: NDArray[Any] = windows[wanted].astype(np.int16 if whole.dtype == np.uint8 else np.float32)
    smooth_down = held[:, :-2] + 2 * held[:, 1:-1] + held[:, 2:]
    smooth_across = held[:, :, :-2] + 2 * held[:, :, 1:-1] + held[:, :, 2:]
    across = (smooth_down[:, :, 2:] - smooth_down[:, :, :-2]).reshape(len(held), -1).astype(np.float32)
    down = (smooth_across[:, 2:] - smooth_across[:, :-2]).reshape(len(held), -1).astype(np.float32)
    squares = np.einsum("ij,ij->i", across, across) + np.einsum("ij,ij->i", down, down)
    found: FloatGrid = squares.astype(np.float64) / (BLOCK * _SOBEL) ** 2
    return found


def _tones(brightness: NDArray[Any]) -> NDArray[np.intp]:
    """Return the class of brightness of each block."""
    found: NDArray[np.intp] = np.digitize(brightness, np.quantile(brightness, np.linspace(0, 1, _TONES + 1)[1:-1]))
    return found


def _some(shape: tuple[int, ...]) -> NDArray[np.bool_]:
    """Return blocks that stand for all: those of small pictures, every fourth of large ones."""
    found = np.zeros(shape, dtype=bool)
    if found.size < _FEW_BLOCKS:
        found[:] = True
    else:
        found[::2, ::2] = True
        found[1::4, 1::4] = True
    return found


def _in_cells(grid: NDArray[Any], side: int, fill: Any) -> NDArray[Any]:
    """Return blocks by cell: shape (rows, cols, blocks of a cell), filled up at the far edges."""
    rows, cols = (math.ceil(length / side) for length in grid.shape)
    whole = np.full((rows * side, cols * side), fill, dtype=grid.dtype)
    whole[: grid.shape[0], : grid.shape[1]] = grid
    return whole.reshape(rows, side, cols, side).swapaxes(1, 2).reshape(rows, cols, side * side)


def _in_blocks(cells: NDArray[Any], side: int, shape: tuple[int, ...]) -> NDArray[Any]:
    """Return cells by block again: the other way of ``_in_cells``."""
    rows, cols, _ = cells.shape
    whole = cells.reshape(rows, cols, side, side).swapaxes(1, 2).reshape(rows * side, cols * side)
    return whole[: shape[0], : shape[1]]


def _flat_blocks(energy: FloatGrid, tones: NDArray[np.intp], side: int) -> NDArray[np.bool_]:
    """Return the blocks of the flattest cells: the share with the least energy of each class of brightness."""
    means = np.median(_in_cells(energy, side, np.inf), axis=2)
    tone = _in_cells(tones, side, 0)[:, :, side * side // 2]
    flat = np.zeros(means.shape, dtype=bool)
    for index in range(_TONES):
        here = tone == index
        if here.any():
            count = max(int(here.sum() * _FLATTEST), min(3, int(here.sum())))
            flat |= here & (means <= np.partition(means[here], count - 1)[count - 1])
    return _in_blocks(np.repeat(flat[:, :, None], side * side, axis=2), side, energy.shape)


def _noise(energy: FloatGrid, flat: NDArray[np.bool_], tones: NDArray[np.intp], floor: float) -> _Noise:
    """Return the level of the noise and its scatter for each class of brightness, from flat blocks as bright.

    Noise grows with light; where nothing as bright is flat it is taken to be at most some times that of the quietest.
    """
    levels, scatters = np.full(_TONES, np.inf), np.zeros(_TONES)
    flat_energy, flat_tones = energy[flat], tones[flat]
    for index in range(_TONES):
        held = flat_energy[flat_tones == index]
        if len(held):
            low, middle, high = np.quantile(held, (0.16, 0.5, 0.84))
            levels[index] = min(float(held.mean()), 1.5 * middle)
            scatters[index] = max((high - low) / 2, middle / 4)
    known = levels[np.isfinite(levels)]
    quietest = float(known.min()) if len(known) else 0.0
    over = levels > _LOUDEST * quietest + floor
    levels[over], scatters[over] = _LOUDEST * quietest + floor, _LOUDEST * quietest
    return _Noise(levels, scatters + floor)


def _with_edges(energies: Grids, noise: list[_Noise], tones: NDArray[np.intp], side: int) -> NDArray[np.bool_]:
    """Return the blocks that hold an edge as far as the coarser scales tell, the strongest of each cell."""
    found = [
        (energy - known.levels[tones]) / (known.scatters * least)[tones]
        for energy, known, least in zip(energies, noise, _EDGE_ABOVE, strict=False)
    ]
    strength = _in_cells(np.maximum(*found), side, -np.inf)
    most = min(_MOST_BLOCKS, side * side)
    least = np.partition(strength, -most, axis=2)[:, :, -most]
    return _in_blocks((strength >= least[:, :, None]) & (strength > 1), side, energies[0].shape)


def _cell_of_blocks(shape: tuple[int, ...], side: int) -> NDArray[np.intp]:
    """Return the cell of each block: row and column, shape (2, rows of blocks, columns of blocks)."""
    rows, cols = np.indices(shape)
    return np.stack([rows // side, cols // side])


def _sums(
    energy: FloatGrid, known: _Noise, tones: NDArray[np.intp], chosen: NDArray[np.bool_], cells: NDArray[np.intp]
) -> _Sum:
    rows, cols = cells[0, -1, 0] + 1, cells[1, 0, -1] + 1
    cell, tone = cells[0][chosen] * cols + cells[1][chosen], tones[chosen]

    def summed(values: FloatGrid) -> FloatGrid:
        total = np.bincount(cell, weights=values, minlength=rows * cols)
        return np.asarray(total, dtype=np.float64).reshape(rows, cols)

    level = known.levels[tone]
    signal, variance, levels = (summed(one) for one in (energy[chosen] - level, known.scatters[tone] ** 2, level))
    return _Sum(signal, np.hypot(np.sqrt(variance), _KNOWN_TO * levels), levels)


def _usable(fine: _Sum, coarse: _Sum) -> NDArray[np.bool_]:
    """Return where two scales tell a blur.

    What falls steeper than an edge and hardly stands above the noise is noise that is louder here.
    """
    louder = (fine.signal > _STEEPEST * coarse.signal) & (fine.signal < _LOUDER * fine.level)
    return fine.seen & coarse.seen & ~louder


def _blur(sums: Sums) -> FloatGrid:
    """Return the blur of each cell, px, from the finest two scales that both stand above the noise."""
    blur = np.full(sums[0].signal.shape, np.nan)
    for index, (fine, coarse) in enumerate(pairwise(sums)):
        told = _usable(fine, coarse) & np.isnan(blur)
        blur[told] = _sigma(fine.signal[told] / coarse.signal[told], _SCALES[index], _SCALES[index + 1])
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
        one, two, three = (each.over(size) for each in sums[:3])
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


def _score(blur: FloatGrid) -> FloatGrid:
    found: FloatGrid = 1 / (1 + (blur / _HALF_AT_PX) ** 2)
    return found


def _sigma(ratio: FloatGrid, fine: float, coarse: float) -> FloatGrid:
    """Return the blur of an edge, px, whose energies at two scales, px, have a ratio: 1 for no end of blur."""
    squared = np.clip(ratio, 1 + 1e-6, None) ** 2
    found: FloatGrid = np.sqrt(np.clip((coarse**2 - squared * fine**2) / (squared - 1), 0.0, None))
    return np.minimum(found, 8 * coarse)


def _places(blur: FloatGrid, rank: FloatGrid, detail: FloatGrid, size: tuple[int, int], side: int) -> tuple[Place, ...]:
    """Return the cells that are surely sharpest and apart from each other.

    Those that are about as sharp as a sharp edge count alike; of them the one with the most detail comes first.
    """
    known = np.argwhere(~np.isnan(blur)).tolist()
    classed = np.floor(np.minimum(np.where(np.isfinite(rank), rank, -1e3), _SHARP_EDGE) / _ALIKE)
    order = sorted(known, key=lambda at: (-classed[at[0], at[1]], -detail[at[0], at[1]]))
    chosen: list[list[int]] = []
    for at in order:
        if all(math.hypot(at[0] - one[0], at[1] - one[1]) >= _APART for one in chosen):
            chosen.append(at)
        if len(chosen) == MOST_PLACES:
            break
    width, height = size
    # One that is less sure to be sharp is not called sharper.
    scores = np.minimum.accumulate([round(float(_score(blur[row, col])), 2) for row, col in chosen] or [0.0])
    return tuple(
        Place(
            x=(min((col + 1) * side, width) + col * side) / 2 / width,
            y=(min((row + 1) * side, height) + row * side) / 2 / height,
            score=float(score), blur_px=float(blur[row, col]),
        )
        for (row, col), score in zip(chosen, scores, strict=False)
    )  # fmt: skip
