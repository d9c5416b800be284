"""What a picture of a slope sheet or of a row tells: where the plane of focus fell."""

from __future__ import annotations

from dataclasses import dataclass

WIDE = 1.96  # standard errors of a 95 % interval


@dataclass(frozen=True, kw_only=True)
class PlaneReading:
    """What a picture tells; None for what it does not.

    Parameters
    ----------
    plane_mm, plane_low_mm, plane_high_mm
        Where the plane of focus crosses the line through the mark that is parallel to the axis: behind the mark (+) or
        before it (-), mm, with its 95 % interval.
    tilt_deg, tilt_low_deg, tilt_high_deg
        How the plane leans: positive, it lies farther away on the right of the picture. ``tilt_deg`` is None where its
        interval is wider than 0.3° or 15 % either way.
    slope_deg
        Angle between sheet and film, degrees; None for a row.
    distance_mm
        From the film to the mark, mm.
    sharp_near_mm, sharp_far_mm
        What counts as sharp by how blur was seen to grow, from the mark, mm; None for a limit at infinity.
    formula_near_mm, formula_far_mm
        The same by focal length and stop.
    own_blur_px
        What lens and sensor blur of themselves, a standard deviation, pixels.
    distortion
        By what share of the half diagonal the lens moves its end inwards (+) or outwards; None where it does not show.
    curved_mm
        How far focus at the side of the page lies behind that at the mark (−: before it), mm, because the field is
        curved; None where that does not show.
    markers
        How many were found.
    mark_px
        Where the mark lies in the picture.
    plane_line_px
        Where the plane crosses a slope sheet in the picture: its ends left and right.
    sheets
        How many sheets were measured.
    warnings
        Why it may not be trusted, sentence by sentence.
    """

    plane_mm: float | None = None
    plane_low_mm: float | None = None
    plane_high_mm: float | None = None
    tilt_deg: float | None = None
    tilt_low_deg: float | None = None
    tilt_high_deg: float | None = None
    slope_deg: float | None = None
    distance_mm: float | None = None
    sharp_near_mm: float | None = None
    sharp_far_mm: float | None = None
    formula_near_mm: float | None = None
    formula_far_mm: float | None = None
    own_blur_px: float | None = None
    distortion: float | None = None
    curved_mm: float | None = None
    markers: int = 0
    mark_px: tuple[float, float] | None = None
    plane_line_px: tuple[tuple[float, float], tuple[float, float]] | None = None
    sheets: int = 0
    warnings: tuple[str, ...] = ()


def sharp_limits(plane_mm: float, mark_mm: float, *, rate: float, blur_px: float) -> tuple[float, float | None]:
    """Return where blur reaches a diameter before and behind a plane of focus, from the mark, mm; None for infinity.

    Parameters
    ----------
    plane_mm, mark_mm
        From the lens to the plane of focus and to the mark, mm.
    rate
        Diameter of the blur for each difference of reciprocal distances, px·mm.
    blur_px
        The diameter, px.
    """
    apart, nearness = blur_px / rate, 1 / plane_mm
    return 1 / (nearness + apart) - mark_mm, 1 / (nearness - apart) - mark_mm if nearness > apart else None
