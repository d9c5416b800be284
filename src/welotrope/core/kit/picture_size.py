"""Picture sizes as photographers name them: roll film and sheets by their nominal size, the rest in millimetres.

Nominal sizes of film are those of the material; what is exposed is smaller (ISO 1012 and 732 for film, usual gates).
"""

from __future__ import annotations

import math
import re

from welotrope.core.errors import OutOfRangeError, UnreadableError

# Name as written without spaces: width and height of the exposed picture, mm.
NAMED: dict[str, tuple[float, float]] = {
    "6x4.5": (56.0, 41.5), "645": (56.0, 41.5), "6x6": (56.0, 56.0), "6x7": (69.5, 56.0), "6x8": (76.0, 56.0),
    "6x9": (84.0, 56.0), "6x12": (112.0, 56.0), "6x17": (168.0, 56.0), "4x4": (40.0, 40.0), "4x6.5": (65.0, 40.0),
    "4x5": (120.0, 95.0), "4x5in": (120.0, 95.0), "5x7": (170.0, 120.0), "5x7in": (170.0, 120.0),
    "8x10": (245.0, 195.0), "8x10in": (245.0, 195.0), "9x12": (114.0, 84.0), "9x12cm": (114.0, 84.0),
    "13x18": (174.0, 124.0), "13x18cm": (174.0, 124.0), "35mm": (36.0, 24.0), "fullframe": (36.0, 24.0),
    "halfframe": (24.0, 18.0), "crop1.5": (23.6, 15.7), "crop1.6": (22.3, 14.9), "crop2": (17.3, 13.0),
    "crop2.7": (13.2, 8.8), "1in": (13.2, 8.8), "110": (17.0, 13.0), "crop1.3": (28.7, 19.1), "crop1": (36.0, 24.0),
    "crop1.54": (23.5, 15.6), "crop4.6": (7.6, 5.7), "crop4.7": (7.44, 5.58), "crop5": (6.9, 5.2),
    "crop5.6": (6.17, 4.55), "2/3in": (8.8, 6.6), "1/1.3in": (9.6, 7.2), "1/1.6in": (7.8, 5.8), "1/1.63in": (7.8, 5.8),
    "1/1.65in": (7.6, 5.7), "1/1.7in": (7.44, 5.58), "1/1.75in": (7.3, 5.5), "1/1.8in": (7.18, 5.32),
    "1/2in": (6.4, 4.8), "1/2.3in": (6.17, 4.55), "1/2.33in": (6.17, 4.55), "1/2.5in": (5.76, 4.29),
    "1/2.7in": (5.37, 4.04), "1/3.2in": (4.54, 3.42), "4/3in": (17.3, 13.0), "4/3": (17.3, 13.0), "1.5in": (18.7, 14.0),
    "fourthirds": (17.3, 13.0), "microfourthirds": (17.3, 13.0), "mft": (17.3, 13.0), "apsc": (23.6, 15.7),
    "apsh": (28.7, 19.1), "fx": (36.0, 24.0), "135": (36.0, 24.0), "half": (24.0, 18.0), "120": (56.0, 56.0),
    "220": (56.0, 56.0), "127": (40.0, 40.0), "126": (26.5, 26.5), "instant": (79.0, 79.0), "620": (56.0, 56.0),
}  # fmt: skip
_CROP = re.compile(r"^(?:crop)?(\d(?:\.\d{1,2})?)x?(?:crop)?$", re.ASCII)
_FULL_DIAGONAL_MM = math.hypot(36.0, 24.0)
_LEAST_CROP, _MOST_CROP, _FOUR_THIRDS_FROM = 0.4, 12.0, 1.8
# What a form offers: what is written, and what it is called.
OFFERED = (
    ("36 × 24", "35 mm film, full frame"), ("APS-C", "crop 1.5"), ("crop 1.6", "smaller APS-C"),
    ("four thirds", "crop 2"), ("1 in", "crop 2.7"), ("2/3 in", "compacts"), ("1/1.7 in", "compacts"),
    ("1/2.3 in", "small compacts"), ("half frame", "half of 35 mm film"), ("44 × 33", "medium format sensor"),
    ("127", "4 × 4 on 127 film"), ("126", "cassette film"), ("110", "pocket film"),
    ("6 × 4.5", "roll film"), ("6 × 6", "roll film"), ("6 × 7", "roll film"), ("6 × 9", "roll film"),
    ("6 × 12", "roll film"), ("6 × 17", "roll film"), ("4 × 5 in", "sheet film"), ("5 × 7 in", "sheet film"),
    ("8 × 10 in", "sheet film"), ("9 × 12 cm", "sheet film or plate"),
)  # fmt: skip
_WORKS = "Write width and height in mm, such as 36 × 24, or a name such as APS-C, 6 × 6, 4 × 5 in, 1/1.7 in or crop 1.5"
_SIDES = re.compile(r"^(\d{1,4}(?:[.,]\d{1,3})?)\s*x\s*(\d{1,4}(?:[.,]\d{1,3})?)\s*(mm|cm|in)?$", re.ASCII)
_UNIT_MM = {"mm": 1.0, "cm": 10.0, "in": 25.4}
_LEAST, _MOST = 4.0, 300.0


def parse_picture_size(text: str) -> tuple[float, float]:
    """Read a picture size.

    Parameters
    ----------
    text
        Such as ``36 × 24``, ``6x6`` (56 × 56 mm is exposed), ``4x5 in``, ``APS-C``, ``1/1.7"``, ``120`` or
        ``crop 1.5``; a crop of no name is taken as 3:2, from 1.8 on as 4:3, as such sensors are.

    Returns
    -------
    tuple[float, float]
        Width and height, mm.

    Raises
    ------
    UnreadableError
        When it is neither two sides nor a name.
    OutOfRangeError
        When a side is under 4 mm or over 300 mm and its unit is not written: it is asked which is meant.
    """
    cleaned = re.sub(r"(inches|inch|\")", "in", text.strip().lower().replace("×", "x").replace(",", "."))
    name = re.sub(r"[\s-]", "", cleaned)
    found = NAMED.get(name) or NAMED.get(f"{name}in" if "/" in name else name.removesuffix("film"))
    if found:
        return found
    crop = _CROP.match(name)
    if crop and _LEAST_CROP <= float(crop[1]) <= _MOST_CROP:
        return NAMED.get(f"crop{float(crop[1]):g}") or _by_crop(float(crop[1]))
    match = _SIDES.match(cleaned)
    if match is None:
        raise UnreadableError("picture size", text, "that is not a width and a height", _WORKS)
    width, height = (float(match[part]) * _UNIT_MM[match[3] or "mm"] for part in (1, 2))
    if match[3] is None and not (min(width, height) >= _LEAST and max(width, height) <= _MOST):
        small = min(width, height) < _LEAST
        raise OutOfRangeError(
            "picture size", text, f"{width:g} × {height:g} mm is {'smaller' if small else 'larger'} than usual",
            f"Write “{match[1]} × {match[2]} mm” if you mean that, "
            f"or {f'{width * 10:g} × {height * 10:g}' if small else f'{width / 10:g} × {height / 10:g}'}",
        )  # fmt: skip
    return width, height


def _by_crop(crop: float) -> tuple[float, float]:
    """Return width and height, mm, of a picture whose diagonal is the full frame's over a crop factor."""
    wide, high = (4.0, 3.0) if crop >= _FOUR_THIRDS_FROM else (3.0, 2.0)
    scale = _FULL_DIAGONAL_MM / crop / math.hypot(wide, high)
    return round(wide * scale, 1), round(high * scale, 1)
