"""How much noise a picture holds, by brightness: measured where it is flattest."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from welotrope.core.picture.blocks import BoolGrid, FloatGrid, in_blocks, in_cells

Tones = NDArray[np.intp]
_CLASSES, _LOUDEST, _FLATTEST = 10, 6.0, 0.12  # classes of brightness, and the share of cells taken for flat


@dataclass(frozen=True)
class Noise:
    """The energy of the noise for each class of brightness, and its scatter from block to block."""

    levels: FloatGrid
    scatters: FloatGrid

    @property
    def usual(self) -> float:
        """The middle of its levels, in units of the energy; 0 where none is known."""
        known = self.levels[np.isfinite(self.levels)]
        return float(np.median(known)) if len(known) else 0.0


def tones_of(brightness: NDArray[Any]) -> Tones:
    """Return the class of brightness of each block, 0 to 9, a pure number."""
    found: Tones = np.digitize(brightness, np.quantile(brightness, np.linspace(0, 1, _CLASSES + 1)[1:-1]))
    return found


def flat_blocks(energy: FloatGrid, tones: Tones, side: int) -> BoolGrid:
    """Return the blocks of the flattest cells of ``side`` blocks: the share with the least energy of each class."""
    means = np.median(in_cells(energy, side, np.inf), axis=2)
    tone = in_cells(tones, side, 0)[:, :, side * side // 2]
    flat = np.zeros(means.shape, dtype=bool)
    for index in range(_CLASSES):
        here = tone == index
        if here.any():
            count = max(int(here.sum() * _FLATTEST), min(3, int(here.sum())))
            flat |= here & (means <= np.partition(means[here], count - 1)[count - 1])
    return in_blocks(np.repeat(flat[:, :, None], side * side, axis=2), side, energy.shape)


def noise_of(energies: FloatGrid, tones: Tones, floor: float) -> Noise:
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
            low, middle, high = np.quantile(held, (0.16, 0.5, 0.84))
            levels[index] = min(float(held.mean()), 1.5 * middle)
            scatters[index] = max((high - low) / 2, middle / 4)
    known = levels[np.isfinite(levels)]
    quietest = float(known.min()) if len(known) else 0.0
    over = levels > _LOUDEST * quietest + floor
    levels[over], scatters[over] = _LOUDEST * quietest + floor, _LOUDEST * quietest
    return Noise(levels, scatters + floor)
