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

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.hand.focus_sample import Settings, ShownBy
from welotrope.core.optics.elementwise import FloatArray

_NONE = 1e-9


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


def _nearness(settings: Settings) -> FloatArray:
    """How much more a step in ``1/s`` moves the image than far away: ``(s/(s − f))²``."""
    s = settings.objects
    with np.errstate(invalid="ignore"):
        return np.where(np.isinf(s), 1.0, (s / (s - settings.focal_mm)) ** 2)


def _extension(settings: Settings) -> FloatArray:
    return np.ones(len(settings.stops))


def _aberration(settings: Settings) -> FloatArray:
    return 1 - (settings.widest / settings.stops) ** 2


def _by_stop(settings: Settings) -> FloatArray:
    found: FloatArray = 2 * np.log2(settings.stops / settings.widest)
    return found


def _relative(settings: Settings) -> FloatArray:
    found: FloatArray = _nearness(settings) * settings.focal_mm / settings.objects
    return found


def _in_the_scene(settings: Settings) -> FloatArray:
    found: FloatArray = _nearness(settings) * (settings.focal_mm / settings.objects) ** 2
    return found


def _of_the_aid(settings: Settings) -> FloatArray:
    return settings.defocus


def _of_the_window(settings: Settings) -> FloatArray:
    return settings.half_windows


_SCALE, _RANGEFINDER = frozenset({ShownBy.SCALE}), frozenset({ShownBy.RANGEFINDER})
_PICTURES = frozenset({ShownBy.PICTURE, ShownBy.PEAKS})
_SCREENS, _EDGES = frozenset({ShownBy.SCREEN, ShownBy.LAMP}), frozenset({ShownBy.PEAKS, ShownBy.LAMP})
SHAPES: tuple[CauseShape, ...] = (
    CauseShape(cause=Cause.RANGEFINDER, share=0.30, shape=_nearness, by=_RANGEFINDER, only=True),
    CauseShape(cause=Cause.INFINITY, share=0.10, shape=_extension, by=_SCALE),
    CauseShape(cause=Cause.INFINITY, share=0.02, shape=_extension, by=_SCALE | _RANGEFINDER),
    CauseShape(cause=Cause.SCREEN, share=0.15, shape=_extension, by=_SCREENS, only=True),
    CauseShape(cause=Cause.SHIFT, share=0.09, shape=_aberration),
    CauseShape(cause=Cause.SHIFT, share=0.06, shape=_by_stop),
    CauseShape(cause=Cause.GUESSING, share=0.12, shape=_relative, by=_SCALE),
    CauseShape(cause=Cause.LEAN, share=0.08, shape=_in_the_scene),
    CauseShape(cause=Cause.HABIT, share=0.05, shape=_of_the_aid, by=_EDGES, only=True),
    CauseShape(cause=Cause.HABIT, share=0.01, shape=_of_the_window),
    CauseShape(cause=Cause.UNKNOWN, share=0.03, shape=_extension, by=_PICTURES, only=True),
)


def possible(settings: Settings) -> list[tuple[CauseShape, float]]:
    """Return the shapes that could show at some settings, and the factor (a pure number) to make it half a window.

    Two of one cause that come out alike are one.
    """
    found: list[tuple[CauseShape, float]] = []
    seen: list[tuple[Cause, FloatArray]] = []
    window = math.sqrt(float(np.mean(settings.half_windows**2)))
    for each in SHAPES:
        shape = each.over(settings)
        if not np.any(np.abs(shape) > _NONE):
            continue
        factor = window / math.sqrt(float(np.mean(shape[shape != 0] ** 2)))
        if not any(cause is each.cause and np.allclose(shape * factor, known) for cause, known in seen):
            seen.append((each.cause, shape * factor))
            found.append((each, factor))
    return found
