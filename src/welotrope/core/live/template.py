"""What the frames of a sweep are compared with: the sharpest of them so far, laid on one another.

Each frame is laid on it, to parts of a pixel and with the change of scale that focusing brings. What it keeps of each
spatial frequency is their cross spectrum over the power of the template: noise is not alike in both and averages out.
Blur of a variance ``v`` keeps ``exp(-2 π² v f²)`` of a frequency ``f``, so the logarithm of what is kept falls with
``f²`` by how much more a frame is blurred; light that changes keeps the same of all.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cache

import numpy as np
from numpy.typing import NDArray

from welotrope.core.live.spot import FINEST, LiveSpot, Spectra, axes, rows_kept, tiling_of, window
from welotrope.core.picture.shake import highest_within

Grid = NDArray[np.float64]
REACH_PX = 12.0  # how far a frame may lie off before it is another picture
_TOLD_BY = (0.02, 0.2)  # periods a pixel, whose phase tells a small shift
_MOST_REST_PX = 1.5
BANDS = (0.018, 0.034, 0.056, 0.085, 0.12, 0.165, 0.22, 0.29, FINEST)  # limits, periods a pixel
_MOST_MEAN = 12.0  # frames that a template is the mean of
_RELIABLE = 0.012, 0.04  # share of itself to which what is kept of the coarsest and the finest band is known at best
_MAIN_LOBE = 0.34  # periods over the blur's standard deviation up to which a disc keeps the sign of what it blurs
_CLEAR_SHARE, _CLEAR = 0.2, 3.0  # of the noise, and times its scatter, by which detail stands clear of it
_LEFT_OF_NOISE = 0.1
_LEAST_SOFTNESS = 0.5  # pixels squared
_JITTER_PX2 = 0.02  # what shake and compression leave of scatter, pixels squared
_NOISE_KNOWN = 0.1  # share of itself to which the noise of a band is known
_LIGHT_KNOWN = 0.02  # the same of the light
_LEAST_SIGNAL = 4.0  # times its scatter that the power of a band must stand above the noise
_ALIKE = 0.7  # by how much neighbouring frequencies tell the same behind the faded edges, for half their power each
_SHARPER_MOST, _SHARPER_PX2 = 1.3, 0.3  # times the template's softness, and pixels squared, that a frame may be sharper
_MOST_TIMES = 4.0  # times more that a sharper frame keeps of a frequency, beyond which nothing is believed
_SHAPE = 0.12  # by how much a disc keeps more or less than the model says, of what it takes away


def laid_on(template: Spectra, spectra: Spectra, side: int, middles: Grid) -> tuple[Spectra, float]:
    """Return the transforms of a frame's tiles laid on those of a template, and how far off it lay, pixels.

    Parameters
    ----------
    template, spectra
        Transforms of tiles, shape (tiles, rows, columns).
    side
        Of a tile, pixels.
    middles
        Of the tiles, from that of the spot, pixels, shape (tiles, 2).
    """
    cross = template.conj() * spectra
    off = _shift(cross.sum(axis=0), side)
    if math.isinf(off[0]):  # nowhere near: left where it is, so that it looks like what it is, another picture
        return spectra, math.inf
    common = np.array([off])
    rest = _rest(cross * _turned(side, common), side, middles)
    return spectra * _turned(side, common + rest), math.hypot(*common[0])


def _shift(cross: NDArray[np.complex64], side: int) -> tuple[float, float]:
    """Return how far the frame lies to the right of the template and below it, pixels, by their likeness."""
    from scipy.fft import irfft2

    # The coarse half of the frequencies is a picture of half as many pixels.
    half = side // 2
    rows = rows_kept(side)
    coarse = (rows < half // 2) | (rows > side - half // 2)
    small = np.zeros((half, half // 2 + 1), dtype=np.complex64)
    columns = min(cross.shape[1], half // 2 + 1)
    small[np.where(rows < half, rows, rows - half)[coarse], :columns] = (cross * _coarse(side))[coarse, :columns]
    found = highest_within(irfft2(small, s=(half, half)), min(int(REACH_PX) // 2 + 1, half // 4))
    return (2 * found[0], 2 * found[1]) if found else (math.inf, math.inf)


@cache
def _coarse(side: int) -> NDArray[np.float32]:
    """Return weights of the frequencies that a place is found by: those that focus leaves."""
    radius = np.hypot(*axes(side))
    weight = np.clip(radius / 0.03, 0, 1) * np.exp(-((radius / 0.14) ** 2))
    return weight.astype(np.float32)


@cache
def _weights(side: int) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """Return how much each frequency tells of a shift across and down, and of how surely it does."""
    axes_of = np.stack(axes(side), axis=2)
    radius = np.hypot(*axes(side))
    told = ((radius > _TOLD_BY[0]) & (radius < _TOLD_BY[1]))[:, :, None]
    rising = told * axes_of * 2 * np.pi
    return rising.astype(np.float32), np.square(rising).astype(np.float32)


def _rest(cross: Spectra, side: int, middles: Grid) -> Grid:
    """Return how far each tile still lies off, pixels, shape (tiles, 2): a shift of all, and a change of scale."""
    rising, squared = _weights(side)
    turned = -np.tensordot(cross.imag, rising)
    force = np.maximum(np.tensordot(cross.real, squared), 0.0)
    if force.sum() <= 0:
        return np.zeros((len(cross), 2))
    design = np.zeros((len(cross), 2, 3))
    design[:, 0, 0] = design[:, 1, 1] = 1
    design[:, :, 2] = middles / side
    rows, weights = design.reshape(-1, 3), force.ravel()
    normal = rows.T @ (weights[:, None] * rows) + np.eye(3) * weights.sum() * 1e-6
    found = np.linalg.solve(normal, rows.T @ turned.ravel())
    return np.clip((rows @ found).reshape(-1, 2), -_MOST_REST_PX, _MOST_REST_PX)


def _turned(side: int, shift: Grid) -> Spectra:
    """Return the factors that shift transforms to the left and up, shape (tiles, rows, columns)."""
    across, down = axes(side)
    right = np.exp(2j * np.pi * across[0] * shift[:, :1]).astype(np.complex64)
    below = np.exp(2j * np.pi * down[:, 0] * shift[:, 1:]).astype(np.complex64)
    return np.asarray(below[:, :, None] * right[:, None, :])


_STEPS = np.concatenate([-np.geomspace(300.0, 0.02, 50), np.linspace(-0.016, 0.016, 9), np.geomspace(0.02, 300.0, 50)])


@dataclass(frozen=True, kw_only=True)
class Compared:
    """A frame beside the template.

    Parameters
    ----------
    blur
        By how much the variance of its blur exceeds the template's, pixels squared; negative where it is sharper.
    error, shared
        Of that, standard deviations: of this frame, and of all that are compared with one template; infinite where
        nothing can be told.
    alike, still_there
        How much of its coarsest detail is the template's, 0 to 1; and how much there is of it beside the template's,
        0 where that is all noise.
    fine
        Power of its detail above the noise, each octave for as much; what far blurred frames are told apart by.
    off_px
        How far it lies off.
    laid_on
        Its transforms, laid on the template.
    """

    blur: float
    error: float
    shared: float
    alike: float
    still_there: float
    fine: float
    off_px: float
    laid_on: Spectra


class Template:
    """The mean of the sharpest frames so far."""

    def __init__(self, spot: LiveSpot, *, blur: float = 0.0) -> None:
        self.size_px = spot.size_px
        self._side = spot.side
        self.spectra = spot.spectra
        self.blur = blur
        self._frames = 1.0
        self._noise: Grid | None = None
        self._power = _by_band(_power(self.spectra), self._side)

    def compared(self, spot: LiveSpot) -> Compared:
        """Return a frame of the same size beside the template."""
        side = self._side
        laid, off_px = laid_on(self.spectra, spot.spectra, side, tiling_of(self.size_px).middles)
        common = _by_band(np.real(self.spectra.conj() * laid), side)
        own = _by_band(_power(laid), side)
        signal, noise = self._signal(common, own)
        fine = float((np.maximum(own - noise, 0) * self._weights).sum())
        # Of what is all noise hardly anything is left, so that nothing is alike by chance.
        there = max(float(own[0] - noise[0]), _LEFT_OF_NOISE * float(own[0]), 1e-30)
        known = max(float(signal[0]), _LEFT_OF_NOISE * float(self._power[0]), 1e-30)
        fitted = self._blur(common, signal, noise)
        return Compared(
            blur=fitted.blur, error=fitted.error, shared=fitted.shared,
            alike=float(common[0]) / math.sqrt(there * known), still_there=there / known * self._clear_signal()[1][0],
            fine=fine,
            off_px=off_px, laid_on=laid,
        )  # fmt: skip

    @property
    def fine_power(self) -> float:
        """What :attr:`Compared.fine` is of the template itself, a pure number."""
        noise = 0 if self._noise is None else self._noise / self._frames
        return float((np.maximum(self._power - noise, 0) * self._weights).sum())

    @property
    def _weights(self) -> Grid:
        return np.asarray(_frequencies(self._side) ** 2)

    @property
    def is_full(self) -> bool:
        """Whether it is the mean of as many frames as it may be: of ever more, those that look sharp would move it."""
        return self._frames >= _MOST_MEAN

    def take(self, frame: Compared) -> None:
        """Take a frame that is as sharp into the mean."""
        share = 1 / (min(self._frames, _MOST_MEAN - 1) + 1)
        self._frames = min(self._frames + 1, _MOST_MEAN)
        self.spectra = (self.spectra + np.float32(share) * (frame.laid_on - self.spectra)).astype(np.complex64)
        self.blur += share * frame.blur
        self._power = _by_band(_power(self.spectra), self._side)

    def replaced_by(self, spot: LiveSpot, blur: float) -> Template:
        """Return the template that a sharper frame of such a variance of blur is, pixels squared."""
        made = Template(spot, blur=blur)
        made._noise = self._noise
        return made

    @property
    def softness(self) -> float:
        """The variance of the template's blur, pixels squared, if it holds as much of each octave as most subjects."""
        frequency = _frequencies(self._side)
        signal, seen = self._clear_signal()
        last = int(np.argmin(seen)) if not seen.all() else len(seen)
        level = np.log(signal[:last] * frequency[:last] ** 2) if last > 1 else np.zeros(0)
        if len(level) < 2:
            return 1 / (4 * math.pi**2 * float(frequency[0]) ** 2)
        off = frequency[:last] ** 2 - (frequency[:last] ** 2).mean()
        slope = float((off * level).sum() / (off**2).sum())
        return max(-slope / (4 * math.pi**2), _LEAST_SOFTNESS)

    @property
    def fine_contrast(self) -> float:
        """Standard deviation of its detail between 0.085 and 0.29 periods a pixel, over its light."""
        signal, seen = self._clear_signal()
        power = np.where(seen, signal, 0.0) * _counts(self._side)
        total = float(power[3:7].sum()) * 2 / (self._side**2 * float(np.square(window(self._side)).sum()))
        return math.sqrt(max(total, 0.0))

    def _clear_signal(self) -> tuple[Grid, NDArray[np.bool_]]:
        """Return the power of the template's detail by band, and where it stands clear of the noise."""
        noise = 0.0 if self._noise is None else self._noise / self._frames
        signal = np.asarray(self._power - noise)
        scatter = self._power / np.sqrt(_counts(self._side) * len(self.spectra))
        return signal, np.asarray(signal > _CLEAR_SHARE * noise + _CLEAR * scatter)

    def _signal(self, common: Grid, own: Grid) -> tuple[Grid, Grid]:
        """Return the power of the template's detail without its noise, and the noise of a frame, by band."""
        count = self._frames
        middle = own - count * self._power
        signal = (-middle + np.sqrt(middle**2 + 4 * count * common**2)) / (2 * count)
        found = np.maximum(count * (self._power - signal), 1e-12 * self._power)
        self._noise = found if self._noise is None else 0.8 * self._noise + 0.2 * found
        return np.maximum(self._power - self._noise / count, 1e-30), self._noise

    def _blur(self, common: Grid, signal: Grid, noise: Grid) -> FittedBlur:
        """Return how much more a frame is blurred."""
        counts = _counts(self._side) * len(self.spectra) / _ALIKE
        own = noise / self._frames
        scatter = np.sqrt((own**2 + own * noise + noise * signal) / counts)
        seen = signal > _LEAST_SIGNAL * np.sqrt((own**2 + own * signal) / counts)
        seen &= _frequencies(self._side) < _MAIN_LOBE / math.sqrt(self.softness)
        if seen.sum() < 2:
            return FittedBlur(blur=0.0)
        kept, error = common[seen] / signal[seen], scatter[seen] / signal[seen]
        # What is left of the power once its noise is taken off is no surer than that noise is known.
        shared = np.hypot(_NOISE_KNOWN * own / signal, np.sqrt(own / signal / counts))[seen] * np.abs(kept)
        scatter = np.hypot(error, _known_to(self._side)[seen] * np.abs(kept))
        least = -_SHARPER_MOST * self.softness - _SHARPER_PX2
        return fitted_blur(_frequencies(self._side)[seen], kept, scatter, shared, least=least)


@dataclass(frozen=True, kw_only=True)
class FittedBlur:
    """Variance of blur, pixels squared, with the scatter of this frame, and what all frames of one template share."""

    blur: float
    error: float = math.inf
    shared: float = math.inf


def fitted_blur(frequency: Grid, kept: Grid, scatter: Grid, shared: Grid, *, least: float) -> FittedBlur:
    """Return the variance of blur that keeps so much of each frequency.

    Parameters
    ----------
    frequency
        Periods a pixel, shape (bands,).
    kept
        Share kept of each, the same shape.
    scatter, shared
        Its standard deviation from frame to frame, and that of an error which all frames share.
    least
        The least that it can be, pixels squared: nothing is sharper than sharp.
    """
    squares = 2 * math.pi**2 * frequency**2
    light_weight = 1 / _LIGHT_KNOWN**2

    def weights(model: Grid) -> Grid:
        most = np.minimum(model, _MOST_TIMES)
        shape = _SHAPE * np.abs(1 - most) * np.maximum(most, 1)
        return np.asarray(1 / (scatter**2 + shared**2 + shape**2))

    model = np.exp(np.clip(-squares * _STEPS[:, None], -30, 30))
    weight = weights(model)
    light = (light_weight + (weight * model * kept).sum(axis=1)) / (light_weight + (weight * model**2).sum(axis=1))
    misfit = (weight * (kept - light[:, None] * model) ** 2).sum(axis=1) + light_weight * (light - 1) ** 2
    likely = np.where(least <= _STEPS, misfit - np.log(weight).sum(axis=1), np.inf)
    at = int(likely.argmin())
    blur, brightness = float(_STEPS[at]), float(light[at])
    if abs(blur) >= _STEPS[-1]:
        return FittedBlur(blur=blur)
    slopes: NDArray[np.floating] = np.zeros((2, len(kept)))
    inverse: Grid = np.eye(2)
    for _ in range(4):
        now = np.exp(np.clip(-squares * blur, -30, 30))
        weight = weights(now)
        slopes = np.stack([-squares * now * brightness, now]).astype(np.float64)
        inverse = np.linalg.inv((slopes * weight) @ slopes.T + np.diag([1e-9, light_weight]))
        force = (slopes * weight) @ (kept - brightness * now) + np.array([0.0, light_weight * (1 - brightness)])
        step = inverse @ force
        limit = 0.5 * abs(blur) + 0.05
        blur = max(blur + float(np.clip(step[0], -limit, limit)), least)
        brightness += float(step[1])
    lever = (inverse @ slopes * weight)[0]
    own = math.sqrt(float(lever**2 @ scatter**2) + float(inverse[0, 1] ** 2) * light_weight)
    return FittedBlur(blur=blur, error=math.hypot(own, _JITTER_PX2), shared=math.sqrt(float(lever**2 @ shared**2)))


def _power(spectra: Spectra) -> Grid:
    return np.asarray(spectra.real**2 + spectra.imag**2)


def _by_band(values: Grid, side: int) -> Grid:
    """Return the mean of each band over all tiles, shape (bands,)."""
    place, counts = _places(side)
    summed = values.sum(axis=0, dtype=np.float64).ravel()
    sums = np.bincount(place, weights=summed, minlength=len(counts) + 1)[1:]
    return np.asarray(sums / (counts * len(values)))


@cache
def _places(side: int) -> tuple[NDArray[np.intp], Grid]:
    """Return the band of each frequency, from 1, 0 for none, and how many each holds."""
    radius = np.hypot(*axes(side)).ravel()
    place = np.digitize(radius, BANDS)
    place[place == len(BANDS)] = 0
    return place, np.maximum(np.bincount(place, minlength=len(BANDS))[1:], 1).astype(np.float64)


def _counts(side: int) -> Grid:
    return _places(side)[1]


@cache
def _frequencies(side: int) -> Grid:
    radius = np.hypot(*axes(side)).ravel()
    place, counts = _places(side)
    squares = np.bincount(place, weights=radius**2, minlength=len(BANDS))[1:] / counts
    return np.asarray(np.sqrt(np.maximum(squares, 1e-9)))


@cache
def _known_to(side: int) -> Grid:
    """Return to which share of itself what is kept of each band is known: compression takes the finest of it."""
    squares = _frequencies(side) ** 2
    return np.asarray(_RELIABLE[0] + (_RELIABLE[1] - _RELIABLE[0]) * squares / squares[-1])
