"""Where the likeness of two pictures is highest: how one lies off the other."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def highest_within(likeness: NDArray[np.floating], reach: int) -> tuple[float, float] | None:
    """Return how far off the likeness is highest, right and down, to parts of a pixel; None at the rim of the search.

    Parameters
    ----------
    likeness
        Of each shift, with no shift in the corner, as an inverse transform gives it, shape (height, width).
    reach
        How far to search each way, pixels.
    """
    near = np.roll(likeness, (reach, reach), axis=(0, 1))[: 2 * reach + 1, : 2 * reach + 1]
    row, column = (int(one) for one in np.unravel_index(near.argmax(), near.shape))
    if not (0 < row < 2 * reach and 0 < column < 2 * reach):
        return None
    across, down = _vertex(near[row, column - 1 : column + 2]), _vertex(near[row - 1 : row + 2, column])
    return column - reach + across, row - reach + down


def _vertex(three: NDArray[np.floating]) -> float:
    """Return where between three values the highest lies, from the middle one."""
    bend = float(three[0] - 2 * three[1] + three[2])
    return 0.0 if bend == 0 else float(three[0] - three[2]) / (2 * bend)
