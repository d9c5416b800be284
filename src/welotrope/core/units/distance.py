"""Distances and sharp ranges as people write them, metric or feet and inches, to and from millimetres."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import ConflictError, Field, OutOfRangeError, UnreadableError

MM_PER_INCH = 25.4
MM_PER_FOOT = 304.8
MIN_DISTANCE_MM = 0.1  # finer than anything in front of a lens can be told
MAX_DISTANCE_MM = 1e7  # 10 km; every photographic lens calls that infinity
MAX_TEXT = 60

_WORKS = "Write a distance such as 2.4, 2,4 m, 240 cm, 8 ft, 7'6\", 7 1/2 ft or ∞"
_INFINITY = {"inf", "infinity", "infinite", "∞", "oo"}
_NUMBER = r"(?:\d+(?:[.,]\d+)?|[.,]\d+)"
_VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅓": "1/3", "⅔": "2/3", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8"}
_QUANTITY = rf"(?:(?P<{{0}}whole>\d+)[\s-]+)?(?P<{{0}}num>\d+)/(?P<{{0}}den>\d+)|(?P<{{0}}dec>{_NUMBER})"
_METRIC = re.compile(rf"^(?:{_QUANTITY.format('m')})\s*(?P<unit>mm|cm|km|m|metres?|meters?)?$", re.ASCII)
_FEET = re.compile(
    rf"^(?:(?:{_QUANTITY.format('f')})\s*(?:ft\.?|feet|foot|'))?"
    rf"(?:[\s-]*(?:{_QUANTITY.format('i')})\s*(?:in\.?|inch|inches|\"|''))?$",
    re.ASCII,
)
_FEET_BARE_INCHES = re.compile(
    rf"^(?:{_QUANTITY.format('f')})\s*(?:ft\.?|feet|foot|')[\s-]*(?:{_QUANTITY.format('i')})$", re.ASCII
)
_THOUSANDS = re.compile(r"^([1-9]\d{0,2})((?:,\d{3})+)(?=\s*(\D*)$)", re.ASCII)
_METRIC_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "km": 1e6}
_EIGHTHS = ("", "⅛", "¼", "⅜", "½", "⅝", "¾", "⅞")
_LEAST_UNITS = 3  # of the last place shown, between the ends


class Unit(StrEnum):
    """The system that leads on the screen."""

    METRIC = "m"
    FEET = "ft"

    @property
    def mm(self) -> float:
        """Millimetres in one metre or one foot."""
        return 1000.0 if self is Unit.METRIC else MM_PER_FOOT

    @property
    def other(self) -> Unit:
        """The system that follows."""
        return Unit.FEET if self is Unit.METRIC else Unit.METRIC


def parse_distance(text: str, *, field: str = "distance", bare: Unit = Unit.METRIC) -> float:
    """Read a distance as written by a person.

    Parameters
    ----------
    text
        Such as ``2.4``, ``2,4 m``, ``240cm``, ``8ft``, ``7'6"``, ``7 1/2 ft``, ``inf`` or ``∞``.
    field
        Name of the input for messages.
    bare
        Unit of a number written without one.

    Returns
    -------
    float
        Millimetres, greater than 0 and at most 1e7, or ``math.inf``.

    Raises
    ------
    UnreadableError
        When the text is not a distance.
    OutOfRangeError
        When it is zero, negative, or beyond 10 km but not infinity.
    """
    cleaned = _clean(text)
    if not cleaned or len(cleaned) > MAX_TEXT:
        problem = "that is empty" if not cleaned else f"that is longer than {MAX_TEXT} characters"
        raise UnreadableError(field, text[:MAX_TEXT], problem, _WORKS)
    if cleaned in _INFINITY:
        return math.inf
    if cleaned.startswith(("-", "−")):
        raise OutOfRangeError(field, text, "a distance cannot be negative", _WORKS)
    cleaned = _thousands(cleaned, text, field)
    mm = _parse_metric(cleaned, bare)
    if mm is None:
        mm = _parse_feet(cleaned)
    if mm is None:
        raise UnreadableError(field, text, "that is not a distance", _WORKS)
    return check_distance(mm, field=field, read=text)


def check_distance(mm: float, *, field: str = "distance", read: object = None) -> float:
    """Return ``mm`` when it is a usable distance (0 < mm ≤ 1e7, or infinity), else raise OutOfRangeError.

    Parameters
    ----------
    mm
        Distance in mm; infinity allowed.
    field
        What an error names.
    read
        What was read, for the sentence of an error.
    """
    shown = f"{mm:g} mm" if read is None else read
    if math.isnan(mm) or mm <= 0:
        raise OutOfRangeError(field, shown, "a distance must be greater than zero", _WORKS)
    if mm < MIN_DISTANCE_MM:
        raise OutOfRangeError(field, shown, f"that is less than {MIN_DISTANCE_MM:g} mm", _WORKS)
    if math.isfinite(mm) and mm > MAX_DISTANCE_MM:
        raise OutOfRangeError(field, shown, "that is more than 10 km", "Write ∞ or inf for infinity")
    return mm


def check_ends(near_mm: float, far_mm: float) -> None:
    """Check that near is nearer than far, mm, else raise ConflictError shown at near.

    Parameters
    ----------
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    """
    if not near_mm < far_mm:
        raise ConflictError(
            Field("near", "near"), write_distance(near_mm), f"it lies at or beyond far, {write_distance(far_mm)}",
            "Give a near distance smaller than the far one",
        )  # fmt: skip


def _clean(text: str) -> str:
    cleaned = text.strip().lower()[: MAX_TEXT + 1]
    for vulgar, ascii_fraction in _VULGAR.items():
        cleaned = cleaned.replace(vulgar, " " + ascii_fraction)
    for odd, plain in (("′", "'"), ("’", "'"), ("″", '"'), ("”", '"'), ("“", '"'), ("\u00a0", " ")):
        cleaned = cleaned.replace(odd, plain)
    cleaned = cleaned.strip()
    # A full stop behind a unit, as in “2 m.” or “8 ft.”, says nothing.
    return cleaned[:-1].rstrip() if re.search(r"[a-z\"']\.$", cleaned) else cleaned


def _decimal(text: str) -> float:
    return float(text.replace(",", "."))


def _thousands(cleaned: str, text: str, field: str) -> str:
    """Take thousands apart: ``1,200 mm`` is 1200 mm; before metres or nothing the comma may be either, so it is asked.

    Raises
    ------
    UnreadableError
        When it could be read two ways.
    """
    match = _THOUSANDS.match(cleaned)
    if match is None:
        return cleaned
    plain = match[0].replace(",", "")
    if match[3].strip() == "mm" or match[2].count(",") > 1:
        return plain + cleaned[match.end() :]
    raise UnreadableError(
        field, text, "the comma could be a decimal comma or thousands",
        f"Write {match[0].replace(',', '.').rstrip('0').rstrip('.')} or {plain}",
    )  # fmt: skip


def _parse_metric(text: str, bare: Unit) -> float | None:
    match = _METRIC.match(text)
    value = _quantity(match, "m") if match else None
    if match is None or value is None:
        return None
    unit = match["unit"]
    if unit is None:
        return value * bare.mm
    return value * _METRIC_MM["m" if unit.startswith("met") else unit]


def _parse_feet(text: str) -> float | None:
    match = _FEET_BARE_INCHES.match(text) or _FEET.match(text)
    if match is None:
        return None
    parts = [(_quantity(match, prefix), size) for prefix, size in (("f", MM_PER_FOOT), ("i", MM_PER_INCH))]
    written = [any(match[prefix + part] for part in ("num", "dec")) for prefix in ("f", "i")]
    # A part that was written and cannot be read makes the whole unreadable.
    if not any(written) or any(value is None for (value, _), there in zip(parts, written, strict=True) if there):
        return None
    return sum((value or 0.0) * size for value, size in parts)


def _quantity(match: re.Match[str], prefix: str) -> float | None:
    if match[f"{prefix}dec"]:
        return _decimal(match[f"{prefix}dec"])
    if not match[f"{prefix}num"] or int(match[f"{prefix}den"]) == 0:
        return None
    return float(match[f"{prefix}whole"] or 0) + int(match[f"{prefix}num"]) / int(match[f"{prefix}den"])


def format_metric(mm: float) -> str:
    """Write a distance in metres to about three digits: ``0.45 m``, ``0.452 m``, ``2.41 m``, ``12.3 m``, ``∞``.

    As rings are engraved; under 10 cm in millimetres, from 1 km to 10 m, past 10 km as infinity.

    Parameters
    ----------
    mm
        Distance in mm; infinity allowed.
    """
    if mm > MAX_DISTANCE_MM:
        return "∞"
    if mm < 99.95:
        return f"{_trim(mm, 1)} mm"
    metres = mm / 1000
    if metres < 0.9995:
        return f"{metres:.3f}".removesuffix("0") + " m"
    if metres < 99.95:
        return f"{metres:.2f} m" if metres < 9.995 else f"{metres:.1f} m"
    return f"{metres:.0f} m" if metres < 999.5 else f"{half_up(metres / 10) * 10} m"


def format_feet(mm: float) -> str:
    """Write mm in feet and inches: ``7′11″``, ``2′0½″``.

    Eighths of an inch under a foot, half inches under 3 ft, whole feet from 30 ft, tens from 1000.

    Parameters
    ----------
    mm
        Distance in mm; infinity allowed.
    """
    if mm > MAX_DISTANCE_MM:
        return "∞"
    inches = mm / MM_PER_INCH
    if inches >= 999.5 * 12:
        return f"{half_up(inches / 120) * 10}′"
    if inches >= 30 * 12:
        return f"{half_up(inches / 12)}′"
    if inches >= 36:
        feet, rest = divmod(half_up(inches), 12)
        return f"{feet}′{rest}″"
    eighths = half_up(inches * 8)
    if eighths < 96:
        whole, part = divmod(eighths, 8)
        return f"{whole or ''}{_EIGHTHS[part]}″" if eighths else "0″"
    feet, half_inches = divmod(half_up(inches * 2), 24)
    return f"{feet}′{half_inches // 2}{'½' if half_inches % 2 else ''}″"


def format_distance(mm: float, unit: Unit) -> str:
    """Write a distance in mm in one system; see :func:`format_metric` and :func:`format_feet`.

    Parameters
    ----------
    mm
        Distance in mm; infinity allowed.
    unit
        Leading unit: metric, or feet and inches.
    """
    return format_metric(mm) if unit is Unit.METRIC else format_feet(mm)


def write_distance(mm: float) -> str:
    """Write a distance for a field, so that reading it gives the same number back, in the unit it most likely came in.

    Whole centimetres are metric, half inches feet and inches; else whole millimetres, hundredths of a foot, and last
    all the digits there are: ``0.45 m``, ``7′6″``, ``3.3 ft``, ``2955.7 mm``, ``∞``.

    Parameters
    ----------
    mm
        Distance in mm; infinity allowed.
    """
    if math.isinf(mm):
        return "∞"
    inches = mm / MM_PER_INCH
    if _whole(mm / 10):
        return f"{round(mm / 10) / 100:g} m" if mm >= 100 else f"{round(mm):g} mm"
    if _whole(inches * 2):
        feet, halves = divmod(round(inches * 2), 24)
        rest = f"{halves // 2}{'½' if halves % 2 else ''}″" if halves else ""
        return f"{feet}′{rest}" if feet else rest.removeprefix("0") if rest == "0½″" else rest
    if _whole(mm):
        return f"{round(mm) / 1000} m" if mm >= 100 else f"{round(mm)} mm"
    if _whole(mm / MM_PER_FOOT * 100):
        return f"{round(mm / MM_PER_FOOT * 100) / 100:g} ft"
    return f"{mm!r} mm"


def _whole(value: float) -> bool:
    return value >= 1 and abs(value - round(value)) < 1e-12 * value


def format_rough(mm: float, unit: Unit) -> str:
    """Write a difference as one would say it: mm, whole cm, tenths of a metre; inches to two feet, then half feet.

    Under 3 mm to a tenth, under 1 mm to two figures: close up that is what there is.

    Parameters
    ----------
    mm
        Difference in mm.
    unit
        Leading unit: metric, or feet and inches.
    """
    if mm > MAX_DISTANCE_MM:
        return "∞"
    if unit is Unit.METRIC:
        if mm < 0.95:
            return f"{mm:.2f} mm" if mm >= 0.005 else "under 0.01 mm"
        if mm < 9.5:
            return f"{mm:.1f} mm" if mm < 2.95 else f"{mm:.0f} mm"
        return f"{mm / 10:.0f} cm" if mm < 995 else f"{mm / 1000:.1f} m" if mm < 9950 else f"{mm / 1000:.0f} m"
    inches = mm / MM_PER_INCH
    if inches < 0.5:
        return "under ½″"
    if inches < 23.5:
        return f"{half_up(inches)}″"
    halves = half_up(inches / 6)
    return f"{halves // 2}{'½' if halves % 2 else ''}′" if inches < 120 else f"{half_up(inches / 12)}′"


def _trim(value: float, digits: int) -> str:
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def half_up(value: float) -> int:
    """Round a pure number to the nearest whole one, halves up, as the script does.

    Parameters
    ----------
    value
        The number.
    """
    return math.floor(value + 0.5)


@dataclass(frozen=True)
class SpanText:
    """Near and far end as text, and the depth between them, empty when it has no end."""

    near: str
    far: str
    depth: str


def format_span(near_mm: float, far_mm: float, unit: Unit) -> SpanText:
    """Write a range of distances (mm from the film plane) so that its width can be read from it.

    Parameters
    ----------
    near_mm
        Nearest distance in mm.
    far_mm
        Farthest distance in mm; infinity allowed.
    unit
        Leading unit: metric, or feet and inches.
    """
    if far_mm > MAX_DISTANCE_MM:
        return SpanText(format_distance(near_mm, unit), format_distance(far_mm, unit), "")
    near, far = _metric(near_mm, far_mm) if unit is Unit.METRIC else _feet(near_mm, far_mm)
    return SpanText(near, far, format_depth(far_mm - near_mm, unit))


def format_depth(mm: float, unit: Unit) -> str:
    """Write how deep a range is: ``0.12 mm``, ``2.4 mm``, ``9 mm``, ``35 cm``; ``0.15″``, ``1.2″``, ``3½′``.

    Parameters
    ----------
    mm
        Depth in mm.
    unit
        Leading unit: metric, or feet and inches.
    """
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
    return _to_places(near, places), _to_places(far, places)


def _places(difference: float) -> int:
    """Decimals at which a difference is several units of the last one, at most six."""
    return min(max(math.ceil(-math.log10(max(difference, 1e-9) / _LEAST_UNITS)), 0), 6)


def _in_eighths(mm: float, step: int) -> str:
    feet, eighths = divmod(math.floor(mm / MM_PER_INCH * 8 / step + 0.5) * step, 96)
    whole, part = divmod(eighths, 8)
    if feet:
        return f"{feet}′{whole}{_EIGHTHS[part]}″"
    return f"{whole or ''}{_EIGHTHS[part]}″" if eighths else "0″"


def _to_places(mm: float, places: int) -> str:
    inches = mm / MM_PER_INCH
    feet = math.floor(inches / 12 + 1e-12)
    rest = f"{inches - 12 * feet:.{places}f}″"
    return f"{feet}′{rest}" if feet else rest
