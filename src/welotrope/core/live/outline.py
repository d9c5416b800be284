"""Which parts of a live picture are sharp by the standard: what an outline may be drawn round.

Peaking lights what is steep, whatever the standard. Here the blur of edges is measured place by place, in the mean of
a few frames; what lens and sensor blur of themselves is taken off, and what is left is held against the largest blur
allowed.
"""

from __future__ import annotations

import math
from collections import deque
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.sharpness_map import SharpnessMap, sharpness_map

FRAMES = 6  # that the mean is taken of
_LEAST_PX = 0.35  # no lens and sensor blur less: what looks sharper is noise
_OWN_MOST_PX, _OWN_SHARE = 1.2, 0.1  # what they blur at most, and the share of the sharpest that tells it
_SHARPEST_SHARE = 0.33  # of what is known, whose blur is told
_LEAST_CELLS = 12
_BESIDE = 1.5  # times the limit that one beside it may be blurred


@dataclass(frozen=True, kw_only=True)
class Outlined:
    """What is sharp, cell by cell.

    Parameters
    ----------
    cell_px
        Side of a cell, pixels.
    sharp, known
        Which cells are sharp, and of which anything can be told, shape (rows, columns).
    blur_px
        Diameter of the blur of defocus in the sharpest part, pixels; NaN where nothing can be told.
    """

    cell_px: int
    sharp: NDArray[np.bool_]
    known: NDArray[np.bool_]
    blur_px: float


class Outliner:
    """Looks at the mean of the last frames of one size."""

    def __init__(self) -> None:
        self._frames: deque[AnyArray] = deque(maxlen=FRAMES)

    def add(self, grey: AnyArray, *, limit_px: float) -> Outlined:
        """Return what is sharp in the mean of the last frames.

        Parameters
        ----------
        grey
            Values of 8 bits, shape (height, width).
        limit_px
            Diameter of the largest blur that counts as sharp, pixels.

        Raises
        ------
        OutOfRangeError
            When its size cannot be judged.
        """
        if self._frames and self._frames[-1].shape != grey.shape:
            self._frames.clear()
        self._frames.append(grey)
        mean = np.mean(self._frames, axis=0, dtype=np.float32)
        return outlined(sharpness_map(np.rint(mean).astype(np.uint8)), limit_px=limit_px)


def outlined(seen: SharpnessMap, *, limit_px: float) -> Outlined:
    """Return which cells of a map are within a blur of defocus, the diameter of a disc in pixels."""
    blur = seen.blur_px
    known = np.isfinite(blur) & (blur >= _LEAST_PX)
    if not known.any():
        return Outlined(cell_px=seen.cell_px, sharp=known, known=known, blur_px=math.nan)
    values = np.sort(blur[known])
    own = min(float(values[int(_OWN_SHARE * len(values))]), _OWN_MOST_PX) if len(values) >= _LEAST_CELLS else _LEAST_PX
    defocus = 4 * np.sqrt(np.maximum(np.where(known, blur, np.inf) ** 2 - own**2, 0.0))
    sharp = defocus <= limit_px
    beside = _counts_beside(defocus <= _BESIDE * limit_px)
    return Outlined(
        cell_px=seen.cell_px, sharp=sharp & (beside > 0), known=known, blur_px=_sharpest(blur[known], own)
    )  # fmt: skip


def _sharpest(values: NDArray[np.float64], own: float) -> float:
    """Return the diameter of the blur that a third of what is known stays within, pixels."""
    return 4 * math.sqrt(max(float(np.quantile(values, _SHARPEST_SHARE)) ** 2 - own**2, 0.0))


def _counts_beside(chosen: NDArray[np.bool_]) -> NDArray[np.int_]:
    """Return how many of the eight cells round each are chosen."""
    padded = np.pad(chosen.astype(int), 1)
    rows, columns = chosen.shape
    summed = sum(padded[row : row + rows, column : column + columns] for row in range(3) for column in range(3))
    return np.asarray(summed) - chosen
