"""The blur of a spot full of detail, beside the sharpest frame so far."""

from __future__ import annotations

import math

import numpy as np

from welotrope.core.live.spot import Spot, spot_of
from welotrope.core.live.sweep import Change, Gauge, Gauged
from welotrope.core.live.template import Compared, Template
from welotrope.core.optics.elementwise import AnyArray

_SHARPER, _LEAST_PX2 = 3.0, 0.03  # times its error, and pixels squared, that a frame must be sharper to be the template
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


class DetailGauge(Gauge):
    """Compares each frame with the mean of the sharpest so far."""

    def __init__(self) -> None:
        self._template: Template | None = None
        self._was_sharper = self._is_new = False
        self._odd = 0
        self._lights: list[float] = []

    def gauge(self, grey: AnyArray) -> Gauged:
        """Return what the next frame shows; one of another size, place or light begins a sweep."""
        spot = spot_of(grey)
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

    def _begun(self, spot: Spot, change: Change) -> Gauged:
        self._template = Template(spot)
        self._was_sharper = self._is_new = False
        self._odd, self._lights = 0, [spot.light]
        return Gauged(change=change, begins=True, softness=self._template.softness)

    def _changed(self, spot: Spot, compared: Compared) -> Change:
        if abs(math.log(spot.light / float(np.median(self._lights)))) > _LIGHT:
            return Change.LIGHT
        if compared.still_there > _STILL_THERE and compared.alike < _LIKE:
            return Change.MOVED
        there = compared.still_there > 0 and compared.alike > _LIKE
        return Change.BUMPED if there and compared.off_px > _MOVED_PX else Change.NONE

    def _compared(self, template: Template, spot: Spot, compared: Compared) -> Gauged:
        """Take the frame into the template, or for it, where it is sharp."""
        known = math.isfinite(compared.error)
        blur, unsettled, fell = template.blur + compared.blur, 0.0, False
        if known and self._is_new:  # how surely frames are compared with it shows with the first of them
            unsettled, self._is_new = compared.shared, False
        needed = max(_SHARPER * compared.error, _LEAST_PX2)
        if known and self._was_sharper and compared.blur < -needed:
            unsettled, fell, self._is_new = math.hypot(unsettled, compared.shared, compared.error), True, True
            blur += compared.error  # of many frames the luckiest looks sharpest
            self._template = template.replaced_by(spot, blur)
        elif not known and _is_finer(compared, template):
            unsettled, fell = math.inf, True
            self._template = template.replaced_by(spot, blur)
        elif known and compared.blur < max(_AS_SHARP * compared.error, _AS_SHARP_PX2):
            template.take(compared)
        self._was_sharper = known and compared.blur < -_NEARLY * needed
        held = self._template or template
        return Gauged(blur=blur, error=compared.error, softness=held.softness, unsettled=unsettled, fell=fell)


def _is_finer(compared: Compared, template: Template) -> bool:
    """Whether a frame so blurred that nothing is known of it surely holds more of the same detail."""
    same = compared.still_there > 0 and compared.alike > _SURELY_LIKE
    return same and compared.fine > _MORE_POWER * template.fine_power
