"""The square windows of a picture that show most detail."""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray

_EVERY = 8  # rows of which one is looked at
_FLAT = 1.5  # standard deviation below which a window of 256 greys shows nothing


def detailed_windows(picture: AnyArray, side: int, most: int) -> list[NDArray[np.float32]]:
    """Return the windows that show most detail, at most so many, in 256 greys; none that is flat.

    They lie side by side, and by halves over each other where there would be too few.

    Parameters
    ----------
    picture
        Grey values of any range, shape (height, width).
    side
        Of a window, pixels; even.
    most
        Windows at most.
    """
    white = 255.0 if picture.dtype == np.uint8 else max(float(np.max(picture)), 1e-6)
    places = _by_detail(picture, side, 0)
    if len(places) < most:
        places = sorted(places + _by_detail(picture, side, side // 2), reverse=True)
    found = []
    for _, y, x in places[:most]:
        window = picture[y : y + side, x : x + side].astype(np.float32) * np.float32(255.0 / white)
        if window.std() >= _FLAT:
            found.append(window)
    return found


@cache
def faded_edges(side: int) -> NDArray[np.float32]:
    """Return what a window is multiplied with before its transform, so that its borders are no edges."""
    fade = np.hanning(side)
    return np.outer(fade, fade).astype(np.float32)


def _by_detail(picture: AnyArray, side: int, shifted: int) -> list[tuple[float, int, int]]:
    """Return windows side by side with their mean step between neighbours, top and left of each, most detail first."""
    import cv2

    rows, columns = ((length - shifted) // side for length in picture.shape)
    if rows < 1 or columns < 1:
        return []
    held = picture[shifted : shifted + rows * side : _EVERY, shifted : shifted + columns * side]
    steps = np.zeros(held.shape, dtype=held.dtype)
    steps[:, 1:] = cv2.absdiff(np.ascontiguousarray(held[:, 1:]), np.ascontiguousarray(held[:, :-1]))
    means = cv2.resize(steps.astype(np.float32), (columns, rows), interpolation=cv2.INTER_AREA)
    return sorted(
        ((float(means[y, x]), shifted + y * side, shifted + x * side) for y in range(rows) for x in range(columns)),
        reverse=True,
    )
