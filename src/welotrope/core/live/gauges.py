"""How blurred a spot of a live picture is beside the sharpest frame so far: by its detail, or its brightest star."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from welotrope.core.live.spot import LiveSpot, blocks_in, spot_of, tiling_of
from welotrope.core.live.sweep import Change, Gauge, Gauged
from welotrope.core.live.template import Compared, Template
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.testshot.transfer import light_of

_SHARPER, _LEAST_PX2 = 3.0, 0.03  # times its error, and pixels squared, that a frame must be sharper to be the template
_LUCK = 0.2  # of its error, by which a frame that looks sharpest of many is less sharp than it looks
_NEARLY = 0.7  # of that, which the frame before must have been sharper too
_AS_SHARP, _AS_SHARP_PX2 = 2.0, 0.02  # within which a frame is taken into the template
_MORE_POWER = 1.25  # times the template's, of a far blurred frame that takes its place
_LIGHT = 0.3  # logarithm by which light may change
_LIKE, _STILL_THERE = 0.35, 0.3  # of the coarse detail, by likeness and by strength
_SURELY_LIKE = 0.5  # the same of a frame of which nothing else is known
_MOVED_PX = 10.0  # how far off a frame may lie before it was bumped
_PATIENCE = 2  # frames in a row that must look changed
_LIGHTS = 10  # frames whose middle light is compared with
_MOST_HALVINGS = 20.0
_SMOOTH_PX = 1.5
_ABOVE, _SEEN = 4.0, 8.0  # times the noise: of a smoothed pixel of a star, and of all its light
_LEAST_NOISE = 2e-4  # of white
_STANDS_OUT, _LONGEST = 6.0, 1.8  # times the noise, within the radius of half its light; times longer than wide
_GROWN_PX, _EVERY = 3, 3
_REACH_PX, _REACH_WIDTHS = 24, 4.0  # about where it was that it is looked for
_MOST_SHARE = 0.4  # of the spot that a star may fill
_JUMP_PX, _JUMP_WIDTHS = 12.0, 3.0  # from frame to frame, before it is taken for another star
_KNOWN_TO = 0.02  # share of itself to which the radius is known at best
_FELL = 3.0


class DetailGauge(Gauge):
    """Compares each frame with the mean of the sharpest so far."""

    def __init__(self) -> None:
        self._template: Template | None = None
        self._was_sharper = self._is_new = False
        self._odd = 0
        self._lights: list[float] = []

    def gauge(self, grey: AnyArray) -> Gauged:
        """Return what the next frame shows; one of another size, place or light begins a sweep."""
        return replace(self._gauged(spot_of(grey)), blocks=blocks_in(grey))

    def _gauged(self, spot: LiveSpot) -> Gauged:
        if spot.is_black or spot.is_white:
            return Gauged(change=Change.BLACK if spot.is_black else Change.WHITE)
        template = self._template
        if template is None or template.size_px != spot.size_px:
            return self._begun(spot, Change.SIZE if template else Change.NONE)
        compared = template.compared(spot)
        change = self._changed(spot, compared)
        if change:
            self._odd += 1
            return self._begun(spot, change) if self._odd >= _PATIENCE else Gauged(change=change)
        self._odd = 0
        self._lights = [*self._lights[1 - _LIGHTS :], spot.light]
        return self._compared(template, spot, compared)

    def sharpness_at(self, blur: float, sharp: float) -> float:
        """Return the contrast of fine detail, per cent of the light, at a variance of blur in pixels squared."""
        template = self._template
        if template is None:
            return 0.0
        return float(100 * template.fine_contrast * 2 ** min((template.blur - blur) / sharp, _MOST_HALVINGS))

    def _begun(self, spot: LiveSpot, change: Change) -> Gauged:
        self._template = Template(spot)
        self._was_sharper = self._is_new = False
        self._odd, self._lights = 0, [spot.light]
        return Gauged(change=change, begins=True, softness=self._template.softness)

    def _changed(self, spot: LiveSpot, compared: Compared) -> Change:
        if abs(math.log(spot.light / float(np.median(self._lights)))) > _LIGHT:
            return Change.LIGHT
        if compared.still_there > _STILL_THERE and compared.alike < _LIKE:
            return Change.MOVED
        there = compared.still_there > 0 and compared.alike > _LIKE
        return Change.BUMPED if there and compared.off_px > _MOVED_PX else Change.NONE

    def _compared(self, template: Template, spot: LiveSpot, compared: Compared) -> Gauged:
        """Take the frame into the template, or for it, where it is sharp."""
        known = math.isfinite(compared.error)
        blur, unsettled, fell = template.blur + compared.blur, 0.0, False
        if known and self._is_new:  # how surely frames are compared with it shows with the first of them
            unsettled, self._is_new = compared.shared, False
        needed = max(_SHARPER * compared.error, _LEAST_PX2)
        if known and self._was_sharper and compared.blur < -needed:
            unsettled, fell, self._is_new = math.hypot(unsettled, compared.shared, compared.error), True, True
            blur += _LUCK * compared.error
            self._template = template.replaced_by(spot, blur)
        elif not known and _is_finer(compared, template):
            unsettled, fell = math.inf, True
            self._template = template.replaced_by(spot, blur)
        elif known and not template.is_full and compared.blur < max(_AS_SHARP * compared.error, _AS_SHARP_PX2):
            template.take(compared)
        self._was_sharper = known and compared.blur < -_NEARLY * needed
        held = self._template or template
        return Gauged(blur=blur, error=compared.error, softness=held.softness, unsettled=unsettled, fell=fell)


def _is_finer(compared: Compared, template: Template) -> bool:
    """Whether a frame so blurred that nothing is known of it surely holds more of the same detail."""
    same = compared.still_there > 0 and compared.alike > _SURELY_LIKE
    return same and compared.fine > _MORE_POWER * template.fine_power


@dataclass(frozen=True, kw_only=True)
class Star:
    """A star: where it is, the radius that holds half its light, and the error of that, pixels."""

    x: float
    y: float
    half_flux_px: float
    error_px: float


def star_of(grey: AnyArray, *, near: Star | None = None) -> Star | None:
    """Return the brightest star of a spot, in focus or a disc; None where none stands above the noise.

    Parameters
    ----------
    grey
        Values of 8 bits, shape (height, width).
    near
        Where it was in the frame before; only what is about there is looked at.
    """
    import cv2

    some = light_of(grey[::_EVERY, ::_EVERY], linear=False)
    ground = float(np.median(some))
    noise = max(1.4826 * float(np.median(np.abs(some - ground))), _LEAST_NOISE)
    left, top, piece = _about(grey, near)
    flux = light_of(piece, linear=False) - np.float32(ground)
    smooth = cv2.GaussianBlur(flux, (0, 0), _SMOOTH_PX)
    there = (smooth > _ABOVE * noise / (2 * math.sqrt(math.pi) * _SMOOTH_PX)).astype(np.uint8)
    count, labels = cv2.connectedComponents(there)
    if count < 2:
        return None
    light_of_each = np.bincount(labels.ravel(), weights=flux.ravel(), minlength=count)
    brightest = int(light_of_each[1:].argmax()) + 1
    held = cv2.dilate((labels == brightest).astype(np.uint8), np.ones((2 * _GROWN_PX + 1, 2 * _GROWN_PX + 1), np.uint8))
    rows, columns = np.nonzero(held)
    values = flux[rows, columns].astype(np.float64)
    total, scatter = float(values.sum()), noise * math.sqrt(len(values))
    if total < _SEEN * scatter or len(values) > _MOST_SHARE * grey.size:
        return None
    x, y = (float((values * one).sum() / total) for one in (columns, rows))
    radius = _half_flux(np.hypot(columns - x, rows - y), values)
    if total / (2 * math.pi * radius**2) < _STANDS_OUT * noise or _length(columns - x, rows - y, values) > _LONGEST:
        return None
    return Star(x=left + x, y=top + y, half_flux_px=radius, error_px=radius * (scatter / total + _KNOWN_TO))


def _length(across: NDArray[np.floating], down: NDArray[np.floating], values: NDArray[np.floating]) -> float:
    """Return how many times longer than wide light is spread; what is no point of light is long, or in pieces."""
    weights = np.maximum(values, 0)
    spread = np.cov(np.stack([across, down]), aweights=weights)
    shortest, longest = np.linalg.eigvalsh(spread)
    return math.sqrt(longest / max(shortest, 1e-6))


def _about(grey: AnyArray, star: Star | None) -> tuple[int, int, AnyArray]:
    """Return left and top of what lies about a star, and that piece of the picture; all of it without one."""
    if star is None:
        return 0, 0, grey
    reach = int(_REACH_PX + _REACH_WIDTHS * star.half_flux_px)
    left, top = max(int(star.x) - reach, 0), max(int(star.y) - reach, 0)
    return left, top, grey[top : int(star.y) + reach, left : int(star.x) + reach]


class StarGauge(Gauge):
    """Measures the brightest star, frame by frame."""

    def __init__(self) -> None:
        self._last: Star | None = None
        self._softest = self._sharpest = math.nan
        self._size: tuple[int, ...] = ()

    def gauge(self, grey: AnyArray) -> Gauged:
        """Return what the next frame shows; another star, or another size, begins a sweep."""
        tiling_of((grey.shape[1], grey.shape[0]))
        same_size = self._size == grey.shape
        star = star_of(grey, near=self._last if same_size else None)
        if star is None:
            self._size = ()
            return Gauged(change=Change.PLAIN)
        last, resized = self._last, self._size not in ((), grey.shape)
        self._last, self._size = star, grey.shape
        blur, error = star.half_flux_px**2 / 2, star.half_flux_px * star.error_px
        if last is None or resized or _is_other(star, last):
            self._softest = self._sharpest = blur
            change = Change.NONE if last is None else Change.SIZE if resized else Change.MOVED
            return Gauged(change=change, begins=True, blur=blur, error=error, softness=blur)
        fell = blur < self._softest - _FELL * error
        self._softest, self._sharpest = max(self._softest, blur), min(self._sharpest, blur)
        return Gauged(blur=blur, error=error, softness=self._sharpest, fell=fell)

    def sharpness_at(self, blur: float, sharp: float) -> float:
        """Return 100 over the half-flux radius in pixels of such a blur."""
        return 100 / math.sqrt(2 * max(blur, 1e-3))


def _is_other(star: Star, last: Star) -> bool:
    return math.hypot(star.x - last.x, star.y - last.y) > _JUMP_PX + _JUMP_WIDTHS * last.half_flux_px


def _half_flux(radius: NDArray[np.float64], values: NDArray[np.float64]) -> float:
    """Return the radius within which half of the light falls, pixels, between those of single pixels."""
    order = np.argsort(radius)
    gathered = np.cumsum(values[order])
    half = gathered[-1] / 2
    at = int(np.argmax(gathered >= half))
    before = gathered[at - 1] if at else 0.0
    inner = radius[order[at - 1]] if at else 0.0
    share = (half - before) / max(gathered[at] - before, 1e-12)
    return max(float(inner + share * (radius[order[at]] - inner)), 0.3)
