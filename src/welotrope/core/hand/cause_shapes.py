"""What leaves focus off to one side, as shapes of the error over distance, stop and aid.

Each is a shape in mm of extension, of which only the size is unknown:

- *rangefinder*: constant in ``1/s``, for frames focused with it;
- *extension* (adapter, infinity mark, height of the screen): constant in ``x``, for aids that do not show the picture
  itself, which a live picture does;
- *focus shift*: grows as the lens is stopped down, none wide open: as ``1 − (N₀/N)²``, which is how far the focus of a
  pupil's zones lies from that of the open lens in third-order aberration (Kingslake and Johnson, *Lens Design
  Fundamentals*, ch. 6), or by the stop;
- *guessing*: in proportion to the distance, where it was guessed;
- *lean* (the subject moved, or one swayed): constant in the scene;
- *habit*: a fraction of what the aid shows, or of the window: where on the edge of sharp one stops;
- *none of these*: constant in ``x`` in a picture of the sensor itself, which nothing above can do.

Two causes may act together: their sum, in every proportion, is an explanation of its own.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.hand.focus_sample import Settings, ShownBy
from welotrope.core.optics.elementwise import FloatArray


class Cause(StrEnum):
    """What may leave focus off to one side."""

    RANGEFINDER = "rangefinder"
    INFINITY = "infinity mark or adapter"
    SCREEN = "height of the screen"
    SHIFT = "focus shift"
    GUESSING = "guessing"
    LEAN = "lean or movement"
    HABIT = "habit"
    UNKNOWN = "none of these"


@dataclass(frozen=True, kw_only=True, eq=False)
class CauseShape:
    """A shape that a cause may have, how likely beforehand among causes, and by what it can be shown; None for any.

    A cause acts only where it can: an adapter that is off cannot show in a picture of the sensor, and a distance is
    misjudged only where it was judged. An aid of an unknown kind may be touched, unless it is ``only`` these.
    """

    cause: Cause
    share: float
    shape: Callable[[Settings], FloatArray]
    by: frozenset[ShownBy] | None = None
    only: bool = False

    def over(self, settings: Settings) -> FloatArray:
        """Return its error at some settings, mm of extension in a size of its own; 0 where it does not show."""
        found: FloatArray = self.shape(settings) * np.array([self._touches(by) for by in settings.by], dtype=float)
        return found

    def _touches(self, by: ShownBy) -> bool:
        return self.by is None or by in self.by or (by is ShownBy.OTHER and not self.only)


def nearness(settings: Settings) -> FloatArray:
    """Return how much more a step in ``1/s`` moves the image than far away: ``(s/(s − f))²``."""
    s = settings.objects
    with np.errstate(invalid="ignore"):
        return np.where(np.isinf(s), 1.0, (s / (s - settings.focal_mm)) ** 2)


def extension(settings: Settings) -> FloatArray:
    """Return the same mm of extension everywhere."""
    return np.ones(len(settings.stops))


def aberration(settings: Settings) -> FloatArray:
    """Return mm of extension, none wide open, and as third-order aberration once stopped down, ``1 − (N₀/N)²``."""
    return 1 - (settings.widest / settings.stops) ** 2


def by_stop(settings: Settings) -> FloatArray:
    """Return mm of extension, none wide open, and as much again for every stop closed."""
    found: FloatArray = 2 * np.log2(settings.stops / settings.widest)
    return found


def relative(settings: Settings) -> FloatArray:
    """Return it in proportion to the distance: a fraction of ``s`` in mm of extension."""
    found: FloatArray = nearness(settings) * settings.focal_mm / settings.objects
    return found


def in_the_scene(settings: Settings) -> FloatArray:
    """Return the same mm before the camera, as mm of extension."""
    found: FloatArray = nearness(settings) * (settings.focal_mm / settings.objects) ** 2
    return found


def of_the_aid(settings: Settings) -> FloatArray:
    """Return a fraction of what the aid shows, mm of extension."""
    return settings.defocus


def of_the_window(settings: Settings) -> FloatArray:
    """Return a fraction of half the window, mm of extension."""
    return settings.half_windows


SCALE, RANGEFINDER = frozenset({ShownBy.SCALE}), frozenset({ShownBy.RANGEFINDER})
PICTURES = frozenset({ShownBy.PICTURE, ShownBy.PEAKS})
SCREENS, EDGES = frozenset({ShownBy.SCREEN, ShownBy.LAMP}), frozenset({ShownBy.PEAKS, ShownBy.LAMP})
