"""Where engraved and true depth marks are drawn over one ring, in pixels from the index."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.kit.setup import Setup
from welotrope.core.ring.engraving import EngravedMark, engraved_marks, fit_labels
from welotrope.core.ring.window import ring_zone, sharp_window
from welotrope.core.units.distance import Unit
from welotrope.core.units.exposure import format_stop

HALF_WIDTH = 470.0
_PX_PER_DEG = (24.0, 16.0, 12.0, 8.0, 6.0, 4.0, 3.0, 2.0)


@dataclass(frozen=True)
class Pair:
    """A stop's two marks, pixels from the index, and whether its number has room."""

    text: str
    near_px: float
    far_px: float
    labelled: bool


@dataclass(frozen=True, kw_only=True)
class MarksView:
    """Everything the figure draws; the index stands at the hyperfocal setting of the smallest stop but one."""

    engraved: tuple[Pair, ...]
    true: tuple[Pair, ...]
    numerals: tuple[tuple[float, EngravedMark], ...]
    focus_mm: float
    near_mm: float
    near_engraved_mm: float
    stop: float


def marks_view(setup: Setup, engraved_blur_mm: float, unit: Unit) -> MarksView:
    """Lay out both sets of marks for a set-up whose engraving implies ``engraved_blur_mm``."""
    ring, stops = setup.ring(), sorted(setup.lens.stops)
    stop = stops[-2] if len(stops) > 1 else stops[0]
    # Marks are read against the scale: they know no focus shift.
    angle = ring.angle_with_limit(math.inf, stop, setup.blur_mm, far=True)
    widest = sharp_window(ring, angle, stops[-1], max(engraved_blur_mm, setup.blur_mm)).width_deg / 2
    px = next((px for px in _PX_PER_DEG if widest * px < HALF_WIDTH * 0.8), _PX_PER_DEG[-1])
    scale = px * setup.lens.direction
    marks = engraved_marks(ring, unit, 10 / px, 10.5 / px, engraved=(), tick_deg=5 / px)
    return MarksView(
        engraved=_pairs(setup, angle, engraved_blur_mm, scale),
        true=_pairs(setup, angle, setup.blur_mm, scale),
        numerals=tuple(
            ((mark.angle_deg - angle) * scale, mark) for mark in marks if abs(mark.angle_deg - angle) * px < HALF_WIDTH
        ),
        focus_mm=float(ring.distance_at_angle(angle)),
        near_mm=ring_zone(ring, angle, stop, setup.blur_mm).near_mm,
        near_engraved_mm=ring_zone(ring, angle, stop, engraved_blur_mm).near_mm,
        stop=stop,
    )


def _pairs(setup: Setup, angle: float, blur_mm: float, scale: float) -> tuple[Pair, ...]:
    ring, stops = setup.ring(), sorted(setup.lens.stops)
    windows = [sharp_window(ring, angle, stop, blur_mm) for stop in stops]
    ends = [((window.near_deg - angle) * scale, (window.far_deg - angle) * scale) for window in windows]
    order = sorted(range(len(stops)), key=lambda i: -stops[i])
    kept = {order[k] for k in fit_labels([abs(ends[i][0]) for i in order], [22.0] * len(order))}
    return tuple(
        Pair(format_stop(stop).removeprefix("f/"), near, far, i in kept and abs(near) > 12)
        for i, (stop, (near, far)) in enumerate(zip(stops, ends, strict=True))
    )
