"""One-sided just-noticeable defocus δ (mm in image space) of each aid.

A visible blur ``b`` makes ``δ = b·N`` with ``N`` the working stop ``N(1 + m/P)``: close up the cone is slower than the
ring says, and a wedge goes dark the earlier. Every ``N`` here is the working stop.

Small-angle models of an average eye (Ray, *Applied Photographic Optics*, ch. 41, for screens and wedges);
they leave out fatigue, light level and eyesight. Constants come from ``aids.constants``.
"""

from __future__ import annotations

import math

from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye, arcmin, arcsec

FULL_DIAGONAL_MM = 43.3  # of 36 × 24 mm, for which the indicator's constant is given


def eyepiece_focal(finder_magnification: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Apparent focal length ``f_e = 50/M`` in mm of a finder quoted with a 50 mm lens at infinity.

    Examples
    --------
    >>> round(eyepiece_focal(0.9), 2)
    55.56
    """
    return eye["eyepiece_focal"] / finder_magnification


def matte_defocus(finder_magnification: float, N: float, screen_stop: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ of a matte screen: visible blur ``α·f_e`` times ``max(N, N_screen)``.

    Examples
    --------
    >>> round(matte_defocus(0.9, 4, 2.8), 4)
    0.0646
    """
    blur = arcmin(eye["eye_blur"]) * eyepiece_focal(finder_magnification, eye=eye)
    return blur * max(N, screen_stop)


def split_image_defocus(finder_magnification: float, deviation_deg: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ of a split image: ``vernier·f_e/(2·tan d)``, the same at every stop while both halves are lit.

    Examples
    --------
    >>> round(split_image_defocus(0.9, 6.5), 5)
    0.02364
    """
    wedge = 2 * math.tan(math.radians(deviation_deg))
    return arcsec(eye["vernier_split"]) * eyepiece_focal(finder_magnification, eye=eye) / wedge


def microprism_defocus(finder_magnification: float, deviation_deg: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ, mm, of a microprism patch: as a split image, with the coarser acuity for shimmer.

    Examples
    --------
    >>> round(microprism_defocus(0.9, 5.0), 4)
    0.0462
    """
    wedge = 2 * math.tan(math.radians(deviation_deg))
    return arcsec(eye["vernier_microprism"]) * eyepiece_focal(finder_magnification, eye=eye) / wedge


def rangefinder_defocus(
    focal_mm: float, object_mm: float, base_mm: float, finder_magnification: float, *, eye: Eye = AVERAGE_EYE
) -> float:
    """Return δ of a rangefinder patch: ``Δs = s²·acuity/B`` with ``B = base·M``, converted to image space.

    Parameters
    ----------
    focal_mm, base_mm
        Focal length and base length, mm.
    object_mm
        Distance from the front principal plane, mm; infinite allowed.
    finder_magnification
        Of the rangefinder's finder.

    Examples
    --------
    >>> round(rangefinder_defocus(50, 3000, 47, 0.72), 5)
    0.02222
    """
    per_mm = arcsec(eye["patch_rangefinder"]) / (base_mm * finder_magnification)
    return focal_mm**2 * per_mm * _image_space(focal_mm, object_mm)


def rangefinder_bias(focal_mm: float, object_mm: float, true_mm: float, shown_mm: float) -> float:
    """Return by how much a maladjusted rangefinder puts the plane behind (positive), mm in image space.

    Its patches coincide at ``shown_mm`` on the scale when the subject is at ``true_mm``: a constant angle, so
    ``1/s`` is off by the same amount at every distance.

    Examples
    --------
    >>> round(rangefinder_bias(50, 3000, 2000, 2050), 4)
    0.0315
    """
    off = 1 / true_mm - 1 / shown_mm
    return focal_mm**2 * off * _image_space(focal_mm, object_mm)


def confirmation_defocus(base_stop: float, N: float, band_mm: float) -> float:
    """Return δ of an electronic confirmation: lit while blur at its own base stop is within its own ``band_mm``.

    The dead band is set by its base f-number, and by the lens where that is slower. It knows nothing of what the
    photographer calls sharp.

    Examples
    --------
    >>> round(confirmation_defocus(5.6, 1.4, 0.03), 3)
    0.168
    """
    return max(base_stop, N) * band_mm


def confirmation_band(diagonal_mm: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Blur circle in mm within which a focus indicator stays lit: the constant, in proportion to the format.

    Examples
    --------
    >>> round(confirmation_band(43.3), 3)
    0.03
    """
    return eye["indicator_blur"] * diagonal_mm / FULL_DIAGONAL_MM


def scale_defocus(focal_mm: float, object_mm: float, degrees_per_defocus: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ, mm, of a distance guessed by eye and set on the scale: the guess, and the setting of the ring.

    Infinity is never misjudged, but it too is set only as finely as a hand puts a ring on a mark.

    Examples
    --------
    >>> round(scale_defocus(35, 3000, 30), 4)
    0.0649
    """
    setting = eye["ring_setting"] / degrees_per_defocus
    if math.isinf(object_mm):
        return setting
    return math.hypot(eye["distance_guess"] * focal_mm**2 / object_mm * _image_space(focal_mm, object_mm), setting)


def _image_space(focal_mm: float, object_mm: float) -> float:
    """How much more a step in ``1/s`` moves the image than ``f²``: ``(s/(s − f))²``."""
    return 1.0 if math.isinf(object_mm) else (object_mm / (object_mm - focal_mm)) ** 2


def sensor_px_per_display_px(sensor_px: int, display_px: int, step: float) -> float:
    """Return ``r``, sensor pixels per display pixel at a magnification ``step`` over the whole-frame view.

    Examples
    --------
    >>> sensor_px_per_display_px(6000, 1200, 5)
    1.0
    """
    return sensor_px / (display_px * step)


def magnified_blur(pitch_mm: float, sensor_px: int, display_px: int, step: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Smallest visible blur on a magnified picture, mm on the sensor.

    ``k·p·max(1, r)``, never below what the eye separates on the display.

    Examples
    --------
    >>> magnified_blur(0.006, 6000, 1280, 6)
    0.012
    """
    r = sensor_px_per_display_px(sensor_px, display_px, step)
    seen = eye["display_blur"] * pitch_mm * max(1.0, r)
    return max(seen, eye["eye_display"] * pitch_mm * r)


def magnified_defocus(
    pitch_mm: float, sensor_px: int, display_px: int, step: float, N: float, *, eye: Eye = AVERAGE_EYE
) -> float:
    """Return δ of a magnified view at stop ``N``: the smallest visible blur times N.

    Examples
    --------
    >>> round(magnified_defocus(0.006, 6000, 1280, 6, 1.4), 4)
    0.0168
    """
    return magnified_blur(pitch_mm, sensor_px, display_px, step, eye=eye) * N


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

    Examples
    --------
    >>> round(peaking_defocus(0.028, 0.5, 0.1, 0.01, 1.4), 3)
    0.195
    """
    reach_px = contrast / threshold_per_px
    own_px = lens_blur_mm / display_px_mm
    if own_px >= reach_px:
        return None
    return math.sqrt(reach_px**2 - own_px**2) * display_px_mm * N
