"""A sharp range in words: both ends as finely as it takes to tell them apart, and how deep it is."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.units.distance import MAX_DISTANCE_MM, MM_PER_INCH, Unit, format_distance, format_rough

_LEAST_UNITS = 3  # of the last place shown, between the ends
_EIGHTHS = ("", "⅛", "¼", "⅜", "½", "⅝", "¾", "⅞")


@dataclass(frozen=True)
class SpanText:
    """Near and far end as text, and the depth between them, empty when it has no end."""

    near: str
    far: str
    depth: str


def format_span(near_mm: float, far_mm: float, unit: Unit) -> SpanText:
    """Write a range of distances (mm from the film plane) so that its width can be read from it."""
    if far_mm > MAX_DISTANCE_MM:
        return SpanText(format_distance(near_mm, unit), format_distance(far_mm, unit), "")
    near, far = _metric(near_mm, far_mm) if unit is Unit.METRIC else _feet(near_mm, far_mm)
    return SpanText(near, far, format_depth(far_mm - near_mm, unit))


def format_depth(mm: float, unit: Unit) -> str:
    """Write how deep a range is: ``0.12 mm``, ``2.4 mm``, ``9 mm``, ``35 cm``; ``0.15″``, ``1.2″``, ``3½′``."""
    small = mm if unit is Unit.METRIC else mm / MM_PER_INCH
    sign = " mm" if unit is Unit.METRIC else "″"
    if small < 0.295:
        return f"{small:.2f}{sign}"
    return f"{small:.1f}{sign}" if small < 2.95 else format_rough(mm, unit)


def _metric(near: float, far: float) -> tuple[str, str]:
    usual = 0 if far >= 99_950 else 1 if far >= 9995 else 2
    places = _places((far - near) / 1000)
    if places <= usual:
        return format_distance(near, Unit.METRIC), format_distance(far, Unit.METRIC)
    if places > 3:
        return f"{near:.{places - 3}f} mm", f"{far:.{places - 3}f} mm"
    return f"{near / 1000:.{places}f} m", f"{far / 1000:.{places}f} m"


def _feet(near: float, far: float) -> tuple[str, str]:
    deep = (far - near) / MM_PER_INCH
    usual = 0.5 if far < 36 * MM_PER_INCH else 1 if far < 360 * MM_PER_INCH else 12
    if deep >= _LEAST_UNITS * usual:
        return format_distance(near, Unit.FEET), format_distance(far, Unit.FEET)
    for eighths in (8, 4, 2, 1):  # the coarsest step that shows the width
        if deep >= _LEAST_UNITS * eighths / 8:
            return _in_eighths(near, eighths), _in_eighths(far, eighths)
    places = _places(deep)
    return _decimal(near, places), _decimal(far, places)


def _places(difference: float) -> int:
    """Decimals at which a difference is several units of the last one, at most six."""
    return min(max(math.ceil(-math.log10(max(difference, 1e-9) / _LEAST_UNITS)), 0), 6)


def _in_eighths(mm: float, step: int) -> str:
    feet, eighths = divmod(math.floor(mm / MM_PER_INCH * 8 / step + 0.5) * step, 96)
    whole, part = divmod(eighths, 8)
    if feet:
        return f"{feet}′{whole}{_EIGHTHS[part]}″"
    return f"{whole or ''}{_EIGHTHS[part]}″" if eighths else "0″"


def _decimal(mm: float, places: int) -> str:
    inches = mm / MM_PER_INCH
    feet = math.floor(inches / 12 + 1e-12)
    rest = f"{inches - 12 * feet:.{places}f}″"
    return f"{feet}′{rest}" if feet else rest
