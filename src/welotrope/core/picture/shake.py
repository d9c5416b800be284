"""Whether a whole picture is drawn out along a line, as by a camera that moved, and how far.

What moved evenly by a length lacks, along that line, every spatial frequency of which the length holds a whole number
of periods. These missing lines are the same in every window of the picture, whatever it shows; in the cepstrum, the
transform of the logarithm of its power, they are a dip at the length and half a one at twice the length. What the
picture shows is not the same in every window and averages out, but for bricks, letters and the like, which are as
regular: they also have dips, yet their power along that line is not less than across. Where all three hold, the
picture is shaken. Shake that went to and fro, or slower and faster, leaves no such lines, and noise covers the fine
ones: that it is not said does not mean that a picture is steady.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache, cached_property

import numpy as np
from numpy.typing import NDArray

from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.blocks import detailed_windows, faded_edges

WINDOW_PX = 256
LEAST_PX, MOST_PX = 7.0, 64.0  # lengths that are told
_LEAST, _MOST = 4, 16  # windows that are judged
_CANDIDATES = 5  # deepest dips that are looked at
_LOW, _HIGH = 2.5 / WINDOW_PX, 0.45  # frequencies that are used, cycles a pixel
_ABOVE_NOISE = 2.0  # times the power of the noise from which a frequency counts
# Likeness to the dip expected; its depth as a share of what it should be, how many times it is what is around it, and
# power along the line over that across: one of two sets, the first two at least, the third at most. A dip as deep as it
# should be tells enough where letters stand as close as the picture moved, and have more power there. Of 150 steady
# pictures (photographs of brick, grass, people; print; rendered scenes; sharp, or out of focus by a disc or a hexagon)
# none meets a set, of print that was moved all do.
_LIKENESS = 0.55
_TOLD = ((0.3, 3.5, 0.6), (0.7, 8.0, 1.0))
_LEAST_TOLD = 0.02  # share of the frequencies that stand above the noise


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


Grid = NDArray[np.float64]


@dataclass(frozen=True, kw_only=True)
class Shake:
    """How far everything is drawn out, pixels, and in which direction, degrees from the horizontal, 0 to 180.

    The direction turns clockwise as the picture is looked at, as its rows are counted downwards.
    """

    length_px: float
    direction_deg: float


@dataclass(frozen=True)
class _Frequencies:
    """The frequencies of half a window's transform and the lags of its cepstrum, and their distances from zero."""

    across: Grid
    down: Grid
    lag_across: Grid
    lag_down: Grid

    @cached_property
    def radius(self) -> Grid:
        """Distance from zero of the frequencies, cycles a pixel."""
        return np.hypot(self.down, self.across)

    @cached_property
    def angle(self) -> Grid:
        """Direction of the frequencies, radians."""
        return np.arctan2(self.down, self.across)

    @cached_property
    def ring(self) -> NDArray[np.intp]:
        """The same in whole steps of a window's transform."""
        return np.round(self.radius * WINDOW_PX).astype(np.intp)

    @cached_property
    def lag(self) -> Grid:
        """Distance from zero of the lags, pixels."""
        return np.hypot(self.lag_down, self.lag_across)

    def less_its_rings(self, values: Grid) -> Grid:
        """Return values less the mean of all that are equally far from zero, which focus and content make."""
        mean = np.bincount(self.ring.ravel(), values.ravel()) / np.bincount(self.ring.ravel())
        found: Grid = values - mean[self.ring]
        return found


@dataclass(frozen=True)
class _Spectrum:
    """Mean log power of the windows, less its rings; weights of the frequencies; noise over signal at each."""

    log_power: Grid
    uneven: Grid
    weights: Grid
    noise: Grid

    def cepstrum(self, uneven: Grid) -> Grid:
        """Return the transform of uneven log power, smoothed over neighbouring lags."""
        import cv2
        from scipy.fft import irfft2

        found = irfft2(uneven * self.weights, s=(WINDOW_PX, WINDOW_PX)) / self.weights.mean()
        return np.asarray(cv2.GaussianBlur(np.fft.fftshift(found), (0, 0), 0.7), dtype=np.float64)


def shake_of(picture: AnyArray) -> Shake | None:
    """Return the shake of a picture; None where it is steady, or where nothing can be said.

    Parameters
    ----------
    picture
        Grey values of any range, shape (height, width).
    """
    windows = detailed_windows(picture, WINDOW_PX, _MOST)
    if len(windows) < _LEAST:
        return None
    spectrum = _spectrum(windows)
    if spectrum.weights.mean() < _LEAST_TOLD:
        return None
    dips = spectrum.cepstrum(spectrum.uneven)
    told = [(found, shake) for shake in _candidates(dips) if (found := _likeness(spectrum, dips, shake)) is not None]
    return max(told, key=lambda one: one[0])[1] if told else None


@cache
def _frequencies() -> _Frequencies:
    down, across = np.meshgrid(np.fft.fftfreq(WINDOW_PX), np.fft.rfftfreq(WINDOW_PX), indexing="ij")
    lag_down, lag_across = np.mgrid[0:WINDOW_PX, 0:WINDOW_PX] - WINDOW_PX / 2
    return _Frequencies(across, down, lag_across, lag_down)


def _spectrum(windows: list[NDArray[np.float32]]) -> _Spectrum:
    f = _frequencies()
    fade = faded_edges(WINDOW_PX)
    floor = np.float32(1e-3 * WINDOW_PX**2)  # far below what rounding to whole grey levels leaves
    from scipy.fft import rfft2  # slow to import, so only where a picture is looked at

    logs = [np.log(np.abs(rfft2((one - one.mean()) * fade)) ** 2 + floor) for one in windows]
    log_power = np.asarray(np.mean(logs, axis=0), dtype=np.float64)
    uneven = f.less_its_rings(log_power)
    noise = np.exp(np.quantile(log_power[f.radius > _HIGH - 0.03], 0.1) - (log_power - uneven))
    used = (f.radius > _LOW) & (f.radius < _HIGH)
    return _Spectrum(log_power, uneven, np.clip(1 - _ABOVE_NOISE * noise, 0, 1) * used, noise)


def _candidates(dips: Grid) -> list[Shake]:
    """Return the shakes that the deepest dips of a cepstrum would be."""
    import cv2

    f = _frequencies()
    lowest = (dips <= cv2.erode(dips, np.ones((3, 3)))) & (f.lag >= LEAST_PX - 1) & (f.lag <= MOST_PX)
    places = np.argwhere(lowest & (f.lag_down >= 0))
    deepest = places[np.argsort(dips[tuple(places.T)])[:_CANDIDATES]]
    return [
        Shake(length_px=float(np.hypot(x, y)), direction_deg=math.degrees(math.atan2(y, x)) % 180)
        for y, x in deepest - WINDOW_PX // 2
    ]


def _likeness(spectrum: _Spectrum, dips: Grid, shake: Shake) -> float | None:
    """Return how like the dips of a shake those of a picture are, 0 to 1; None if they are not."""
    f = _frequencies()
    turn = math.radians(shake.direction_deg)
    length, cosine, sine = shake.length_px, math.cos(turn), math.sin(turn)
    power_left = _along_over_across(spectrum, length, turn)
    if length < LEAST_PX or power_left > _TOLD[-1][2]:
        return None
    passed = np.sinc(length * (f.across * cosine + f.down * sine)) ** 2
    expected = spectrum.cepstrum(f.less_its_rings(np.log(np.maximum(passed, 0.01) + spectrum.noise)))
    along, across = f.lag_across * cosine + f.lag_down * sine, f.lag_down * cosine - f.lag_across * sine
    near, far = max(0.6 * length, LEAST_PX - 1.5), 2.4 * length
    on_line = (np.abs(across) <= 3) & (np.abs(along) >= near) & (np.abs(along) <= far)
    around = (np.abs(across) > 6) & (f.lag >= near) & (f.lag <= far)
    seen, wanted = dips[on_line], expected[on_line]
    depth = float(seen @ wanted) / max(float(wanted @ wanted), 1e-12)
    likeness = float(seen @ wanted) / max(math.sqrt(float(wanted @ wanted) * float(seen @ seen)), 1e-12)
    clear = -float(seen.min()) / max(float(np.sqrt((dips[around] ** 2).mean())), 1e-12)
    told = any(depth > deep and clear > apart and power_left < left for deep, apart, left in _TOLD)
    return likeness if told and likeness > _LIKENESS else None


def _along_over_across(spectrum: _Spectrum, length: float, turn: float) -> float:
    """Return the power along a line over that across it, at the frequencies that a shake of a length takes away."""
    f = _frequencies()
    band = (f.radius > 1 / length) & (f.radius < min(3 / length, _HIGH))
    off = np.abs((f.angle[band] - turn + math.pi / 2) % math.pi - math.pi / 2)
    power = spectrum.log_power[band]
    return float(np.exp(power[off < math.radians(10)].mean() - power[off > math.pi / 4].mean()))
