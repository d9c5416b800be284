"""Whether a picture holds any detail as fine as its pixels, as what a camera recorded does where it is sharp.

What was enlarged, softened or scanned finer than the film resolves has none anywhere, grain included, and neither has
one that is nowhere in focus. Its blur cannot be told to the pixel: thin lines in it look sharp.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.windows import detailed_windows, faded_edges

WINDOW_PX = 128
_LEAST, _MOST = 4, 40  # windows that are judged: those with most fine detail
_MIDDLE, _FINE = (0.08, 0.2), (0.3, 0.45)  # bands of spatial frequency, cycles a pixel
# Power of the fine band over that of the middle one, a pixel. Pictures sharp to the pixel have 0.012 and more, noise of
# a sensor far more; enlarged by 1.5 or 2, softened by 1.2 px, or out of focus by a disc of 3 px radius, 0.001 to 0.006.
_SHARE = 0.009


def is_softened(picture: AnyArray) -> bool:
    """Whether no part of a picture has detail as fine as its pixels; False where too little shows anything.

    Parameters
    ----------
    picture
        Grey values of any range, shape (height, width).
    """
    shares = [_fine_share(window) for window in detailed_windows(picture, WINDOW_PX, _MOST)]
    return len(shares) >= _LEAST and max(shares) < _SHARE


def _fine_share(window: NDArray[np.float32]) -> float:
    """Return the power of the fine band over that of the middle one, of one window of grey values."""
    from scipy.fft import rfft2  # slow to import, so only where a picture is looked at

    power = np.abs(rfft2((window - window.mean()) * faded_edges(WINDOW_PX))) ** 2
    fine, middle = (float(power[band].mean()) for band in _bands())
    return fine / max(middle, 1e-12)


@cache
def _bands() -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Return which frequencies of half a transform lie in the fine band and in the middle one."""
    frequency = np.hypot(np.fft.fftfreq(WINDOW_PX)[:, None], np.fft.rfftfreq(WINDOW_PX)[None, :])
    fine, middle = ((low <= frequency) & (frequency < high) for low, high in (_FINE, _MIDDLE))
    return fine, middle
