"""What a sharpness map says of the spot that was to be sharp, and of what is sharp instead."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.picture.sharpness_map import Place
from welotrope.core.review.frame import Spot

BlurGrid = Sequence[Sequence[float | None]]
NEAR = 0.12  # of the height of the picture: a place as near as that counts as the spot
AROUND = 0.05  # of the height: the spot itself, as far as a click and a subject's detail go
_AS_SHARP, _ROOM_PX = 1.25, 0.3  # what still counts as as sharp as the sharpest
_BLURRED_PX = 0.6  # no cell is told apart from a sharp one below


class SpotSharpness(StrEnum):
    """What can be said of the spot."""

    SHARP = "sharp"
    AS_SHARP_AS_ANY = "as sharp as any"
    ELSEWHERE = "sharper elsewhere"
    UNKNOWN = "nothing to judge by"


@dataclass(frozen=True, kw_only=True)
class SpotVerdict:
    """What is seen at a spot: its blur, a standard deviation in pixels, and the sharpest place elsewhere.

    Either is None where there is nothing to judge by.
    """

    seen: SpotSharpness
    blur_px: float | None
    elsewhere: Place | None

    @property
    def blur_words(self) -> str:
        """The blur at the spot in words, pixels; empty where nothing tells it."""
        return "" if self.blur_px is None else format_blur(self.blur_px)

    @property
    def elsewhere_words(self) -> str:
        """The blur of the sharpest place elsewhere in words, pixels; empty where there is none."""
        return "" if self.elsewhere is None else format_blur(self.elsewhere.blur_px)


def format_blur(blur_px: float) -> str:
    """Return a blur, a standard deviation in pixels, as far as it can be told: below 0.6 pixels all look alike.

    Parameters
    ----------
    blur_px
        Blur, a standard deviation in pixels.

    Examples
    --------
    >>> format_blur(0.0), format_blur(2.34)
    ('under 0.6 pixels', '2.3 pixels')
    """
    return f"under {_BLURRED_PX:g} pixels" if blur_px < _BLURRED_PX else f"{blur_px:.1f} pixels"


def blur_at(grid: BlurGrid, spot: Spot, cell: tuple[float, float]) -> float | None:
    """Return the blur of the cells at a spot, pixels: the lower quartile, since a few of them see only its edge.

    ``cell`` is the side of a cell as fractions of width and height; None where nothing there can be judged.

    Parameters
    ----------
    grid
        Blur of each cell in pixels, nan where there is nothing to judge.
    spot
        A place in the picture, as shares of its width and height.
    cell
        Width and height of a cell, as shares of those of the picture.
    """
    wide, high = cell
    aspect = high / wide
    known = sorted(
        (spot.distance_to(Spot(min((col + 0.5) * wide, 1.0), min((row + 0.5) * high, 1.0)), aspect), blur)
        for row, held in enumerate(grid)
        for col, blur in enumerate(held)
        if blur is not None
    )
    for reach in (AROUND, 2 * AROUND):
        there = sorted(blur for away, blur in known if away <= reach)
        if there:
            return there[len(there) // 4]
    return None


def at_spot(
    grid: BlurGrid, cell: tuple[float, float], places: Sequence[Place], spot: Spot, sharp_px: float | None
) -> SpotVerdict:
    """Judge a spot by a map: the blur of its cells, pixels, and its places, the sharpest first.

    ``cell`` is the side of a cell as fractions of width and height; ``sharp_px`` the blur, a standard deviation in
    pixels, that the standard allows, None when it is not known.

    Parameters
    ----------
    grid
        Blur of each cell in pixels, nan where there is nothing to judge.
    cell
        Width and height of a cell, as shares of those of the picture.
    places
        What the map shows, the sharpest first.
    spot
        A place in the picture, as shares of its width and height.
    sharp_px
        Blur that the standard allows, a standard deviation in pixels; None where it is not known.
    """
    there = blur_at(grid, spot, cell)
    aspect = cell[1] / cell[0]
    far = [one for one in places if spot.distance_to(Spot(one.x, one.y), aspect) > NEAR]
    elsewhere = min(far, key=lambda one: one.blur_px, default=None)
    if there is None:
        seen = SpotSharpness.UNKNOWN if elsewhere is None else SpotSharpness.ELSEWHERE
    elif sharp_px is not None and there <= max(sharp_px, _BLURRED_PX):
        seen = SpotSharpness.SHARP
    elif elsewhere is None or there <= _AS_SHARP * elsewhere.blur_px + _ROOM_PX:
        seen = SpotSharpness.AS_SHARP_AS_ANY
    else:
        seen = SpotSharpness.ELSEWHERE
    return SpotVerdict(seen=seen, blur_px=there, elsewhere=elsewhere)


def sharpest_of(blurs_px: Sequence[float | None], widths_px: Sequence[float]) -> int | None:
    """Return which of several pictures is sharpest, by its blur and how wide the same frame is in it, pixels.

    None when none of them can be judged.

    Parameters
    ----------
    blurs_px
        Blur of each picture, a standard deviation in pixels; None where it cannot be judged.
    widths_px
        Width of the same frame in each picture in pixels.
    """
    shares = [
        math.inf if blur is None else (blur + _BLURRED_PX) / width
        for blur, width in zip(blurs_px, widths_px, strict=True)
    ]
    best = min(range(len(shares)), key=lambda index: shares[index], default=None)
    return None if best is None or math.isinf(shares[best]) else best
