"""Whether a picture holds any detail as fine as its pixels, as what a camera recorded does where it is sharp.

What was enlarged, softened or scanned finer than the film resolves has none anywhere, grain included, and neither has
one that is nowhere in focus. Its blur cannot be told to the pixel: thin lines in it look sharp.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

WINDOW_PX = 128
_LEAST, _MOST = 4, 64  # windows that are judged: those with most fine detail
_FLAT = 1.5  # standard deviation below which a window of 256 greys shows nothing
_MIDDLE, _FINE = (0.08, 0.2), (0.3, 0.45)  # bands of spatial frequency, cycles a pixel
# Power of the fine band over that of the middle one, a pixel. Pictures sharp to the pixel have 0.012 and more, noise of
# a sensor far more; enlarged by 1.5 or 2, softened by 1.2 px, or out of focus by a disc of 3 px radius, 0.001 to 0.006.
_SHARE = 0.009


def is_softened(picture: NDArray[Any]) -> bool:
    """Whether no part of a picture has detail as fine as its pixels; False where too little shows anything.

    Parameters
    ----------
    picture
        Grey values of any range, shape (height, width).
    """
    rows, columns = (side // WINDOW_PX for side in picture.shape)
    if rows * columns < _LEAST:
        return False
    white = 255.0 if picture.dtype == np.uint8 else max(float(np.max(picture)), 1e-6)
    held = picture[: rows * WINDOW_PX, : columns * WINDOW_PX].reshape(rows, WINDOW_PX, columns, WINDOW_PX)
    steps = np.abs(np.diff(held[:, ::4].astype(np.float32), axis=3)).mean(axis=(1, 3)).ravel()
    shares = []
    for place in np.argsort(-steps)[:_MOST]:
        window = held[place // columns, :, place % columns].astype(np.float64) * (255.0 / white)
        if window.std() >= _FLAT:
            shares.append(_fine_share(window))
    return len(shares) >= _LEAST and max(shares) < _SHARE


def _fine_share(window: NDArray[np.float64]) -> float:
    """Return the power of the fine band over that of the middle one, of one window of grey values."""
    hann = np.hanning(WINDOW_PX)
    power = np.abs(np.fft.rfft2((window - window.mean()) * np.outer(hann, hann))) ** 2
    frequency = np.hypot(np.fft.fftfreq(WINDOW_PX)[:, None], np.fft.rfftfreq(WINDOW_PX)[None, :])
    fine, middle = (float(power[(low <= frequency) & (frequency < high)].mean()) for low, high in (_FINE, _MIDDLE))
    return fine / max(middle, 1e-12)
