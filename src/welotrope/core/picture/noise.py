"""How much noise a picture holds, by brightness: measured where it is flattest."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.blocks import BlockGrid, BoolGrid, FloatGrid, in_cells

Tones = NDArray[np.uint8]
_ENOUGH = 20_000  # blocks that brightness is divided by
_CLASSES, _LOUDEST, _FLATTEST = 10, 6.0, 0.12  # classes of brightness, and the share of cells taken for flat


@dataclass(frozen=True)
class Noise:
    """The energy of the noise for each class of brightness, and its scatter from block to block."""

    levels: FloatGrid
    scatters: FloatGrid

    def for_each(self, tones: Tones) -> tuple[BlockGrid, BlockGrid]:
        """Return its level and scatter for each block, by their classes."""
        import cv2

        level, scatter = (
            cv2.LUT(tones, np.resize(one.astype(np.float32), 256)) for one in (self.levels, self.scatters)
        )
        return np.asarray(level), np.asarray(scatter)

    @property
    def usual(self) -> float:
        """The middle of its levels, in units of the energy; 0 where none is known."""
        known = self.levels[np.isfinite(self.levels)]
        return float(np.median(known)) if len(known) else 0.0


def tones_of(brightness: AnyArray) -> Tones:
    """Return the class of brightness of each block, 0 to 9, a pure number.

    Parameters
    ----------
    brightness
        Mean grey value of each block.
    """
    some = brightness.ravel()[:: max(brightness.size // _ENOUGH, 1)]
    found = np.zeros(brightness.shape, np.uint8)
    for least in np.quantile(some, np.linspace(0, 1, _CLASSES + 1)[1:-1]):
        found += brightness >= least
    return found


def flat_blocks(energy: BlockGrid, tones: Tones, side: int) -> BoolGrid:
    """Return the blocks of the flattest cells of ``side`` blocks: the share with the least energy of each class.

    Parameters
    ----------
    energy
        Energy of each block, in squared grey levels.
    tones
        Class of brightness of each block.
    side
        Length of a cell's side, in blocks.
    """
    half = side * side // 2
    middles = ((side * side - 1) // 2, half)
    means = np.partition(in_cells(energy, side, np.inf), middles, axis=2)[:, :, middles].mean(axis=2)
    middle = divmod(half, side)
    rows, cols = (
        np.minimum(np.arange(count) * side + off, length - 1)
        for count, off, length in zip(means.shape, middle, tones.shape, strict=True)
    )
    tone = tones[np.ix_(rows, cols)]
    flat = np.zeros(means.shape, dtype=bool)
    for index in range(_CLASSES):
        here = tone == index
        if here.any():
            count = max(int(here.sum() * _FLATTEST), min(3, int(here.sum())))
            flat |= here & (means <= np.partition(means[here], count - 1)[count - 1])
    return flat.repeat(side, axis=0).repeat(side, axis=1)[: energy.shape[0], : energy.shape[1]]


def thinned(flat: BoolGrid, most: int) -> BoolGrid:
    """Return so many of the flat blocks as are enough, evenly.

    Parameters
    ----------
    flat
        Whether each block is flat, shape (rows, columns).
    most
        How many at most.
    """
    places = np.flatnonzero(flat)
    found = np.zeros_like(flat)
    found.flat[places[:: max(math.ceil(len(places) / most), 1)]] = True
    return found


def noise_of(energies: AnyArray, tones: Tones, floor: float) -> Noise:
    """Return the level of the noise and its scatter for each class of brightness, from flat blocks as bright.

    Noise grows with light; where nothing as bright is flat it is taken to be at most some times that of the quietest.

    Parameters
    ----------
    energies, tones
        Energy and class of each flat block, arrays of one length.
    floor
        What stays uncertain even where nothing scatters, in the unit of the energies.
    """
    levels, scatters = np.full(_CLASSES, np.inf), np.zeros(_CLASSES)
    for index in range(_CLASSES):
        held = energies[tones == index]
        if len(held):
            low, middle, high = np.interp(
                np.array((0.16, 0.5, 0.84)) * (len(held) - 1), np.arange(len(held)), np.sort(held)
            )
            levels[index] = min(float(held.mean()), 1.5 * middle)
            scatters[index] = max((high - low) / 2, middle / 4)
    known = levels[np.isfinite(levels)]
    quietest = float(known.min()) if len(known) else 0.0
    over = levels > _LOUDEST * quietest + floor
    levels[over], scatters[over] = _LOUDEST * quietest + floor, _LOUDEST * quietest
    return Noise(levels, scatters + floor)
