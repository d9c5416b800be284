"""One-sided just-noticeable defocus δ (mm in image space) of each aid.

Small-angle models of an average eye (Ray, *Applied Photographic Optics*, ch. 41, for screens and wedges);
they leave out fatigue, light level and eyesight. Constants come from ``aids.constants``.
"""

from __future__ import annotations

import math

from welotrope.core.aids.constants import arcmin, arcsec, constant


def eyepiece_focal(finder_magnification: float) -> float:
    """Apparent focal length ``f_e = 50/M`` in mm of a finder quoted with a 50 mm lens at infinity."""
    return constant("eyepiece_focal") / finder_magnification


def matte_defocus(finder_magnification: float, N: float, screen_stop: float) -> float:
    """Return δ of a matte screen: visible blur ``α·f_e`` times ``max(N, N_screen)``."""
    blur = arcmin(constant("eye_blur")) * eyepiece_focal(finder_magnification)
    return blur * max(N, screen_stop)


def split_image_defocus(finder_magnification: float, deviation_deg: float) -> float:
    """Return δ of a split image: ``vernier·f_e/(2·tan d)``, the same at every stop while both halves are lit."""
    wedge = 2 * math.tan(math.radians(deviation_deg))
    return arcsec(constant("vernier_split")) * eyepiece_focal(finder_magnification) / wedge


def wedge_blackout_stop(deviation_deg: float) -> float:
    """Return the f-number past which one half of a split image goes black, about ``1/(2·tan d)``."""
    return 1 / (2 * math.tan(math.radians(deviation_deg)))


def sensor_px_per_display_px(sensor_px: int, display_px: int, step: float) -> float:
    """Return ``r``, sensor pixels per display pixel at a magnification ``step`` over the whole-frame view."""
    return sensor_px / (display_px * step)


def magnified_blur(pitch_mm: float, sensor_px: int, display_px: int, step: float) -> float:
    """Smallest visible blur on a magnified picture, mm on the sensor.

    ``k·p·max(1, r)``, never below what the eye separates on the display.
    """
    r = sensor_px_per_display_px(sensor_px, display_px, step)
    seen = constant("display_blur") * pitch_mm * max(1.0, r)
    return max(seen, constant("eye_display") * pitch_mm * r)


def magnified_defocus(pitch_mm: float, sensor_px: int, display_px: int, step: float, N: float) -> float:
    """Return δ of a magnified view at stop ``N``: the smallest visible blur times N."""
    return magnified_blur(pitch_mm, sensor_px, display_px, step) * N


def peaking_defocus(
    display_px_mm: float, contrast: float, threshold_per_px: float, lens_blur_mm: float, N: float
) -> float | None:
    """Return δ of peaking: half the band of focus over which an edge stays lit, or None when nothing lights.

    An edge of contrast C lights while ``C/√(b²+b₀²)`` exceeds the threshold, blurs in display pixels, so
    it goes dark at ``b = √((C/T)² − b₀²)``.

    Parameters
    ----------
    display_px_mm
        Size of a display pixel on the sensor, ``r·p`` mm.
    contrast, threshold_per_px
        Edge contrast 0 to 1, and the level's threshold in contrast per display pixel.
    lens_blur_mm
        The lens's own blur b₀ at this stop and place in the frame, mm.
    N
        Stop at which the picture is viewed.
    """
    reach_px = contrast / threshold_per_px
    own_px = lens_blur_mm / display_px_mm
    if own_px >= reach_px:
        return None
    return math.sqrt(reach_px**2 - own_px**2) * display_px_mm * N
