"""One-sided just-noticeable defocus δ (mm in image space) of each aid, and the constants of eye and aid behind it."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import cached_property

from welotrope.core.errors import OutOfRangeError, UnreadableError

_GLASS, _LIVE = ("matte", "split_image", "microprism"), ("magnified", "peaking")
FULL_DIAGONAL_MM = 43.3  # of 36 × 24 mm, for which the indicator's constant is given


@dataclass(frozen=True, kw_only=True)
class Constant:
    """A number an aid model rests on, with its unit, what it means, where it comes from and what it may be.

    ``aids`` are the tags of the kinds of aid that rest on it; empty where it bears on every camera.
    """

    id: str
    value: float
    unit: str
    text: str
    source: str
    low: float
    high: float
    aids: tuple[str, ...] = ()

    def serves(self, can_have: Callable[[str], bool]) -> bool:
        """Whether it bears on a camera: on every one, or on one that can have an aid that rests on it."""
        return not self.aids or any(can_have(tag) for tag in self.aids)


def _row(
    id: str, value: float, unit: str, text: str, source: str, low: float, high: float, *, aids: tuple[str, ...] = ()
) -> Constant:
    return Constant(id=id, value=value, unit=unit, text=text, source=source, low=low, high=high, aids=aids)


CONSTANTS: tuple[Constant, ...] = (
    _row("eyepiece_focal", 50.0, "mm", "apparent focal length of the finder at 1× with a 50 mm lens",
             "definition of finder magnification", 10, 200, aids=_GLASS),
    _row("eye_blur", 1.0, "arc-minute", "smallest blur an eye sees on a matte screen", "normal visual acuity",
             0.3, 10, aids=("matte",)),
    _row("vernier_split", 20.0, "arc-second", "smallest offset of two halves of a line an eye sees",
             "vernier acuity, usually given as 10 to 30 arc-seconds", 3, 120, aids=("split_image",)),
    _row("vernier_microprism", 30.0, "arc-second", "smallest offset that still makes a microprism shimmer",
             "vernier acuity, coarser than on a single line", 3, 180, aids=("microprism",)),
    _row("patch_rangefinder", 60.0, "arc-second", "smallest separation of the two pictures of a rangefinder patch",
             "normal visual acuity, one arc-minute", 5, 300, aids=("rangefinder",)),
    _row("display_blur", 2.0, "pixels", "smallest blur seen on a magnified picture, in sensor pixels",
             "two samples make the finest resolvable pair", 0.5, 10, aids=_LIVE),
    _row("eye_display", 1.0, "display pixels", "smallest blur the eye separates on the display",
             "a display pixel seen at about one arc-minute", 0.3, 10, aids=_LIVE),
    _row("live_blur", 1.0, "pixels", "blur left at the best of a live sweep, in pixels of the picture that arrives",
             "within this in 9 of 10 simulated sweeps", 0.1, 10, aids=("live",)),
    _row("edge_contrast", 0.5, "", "contrast of a hard, well-lit edge", "assumed", 0.02, 1, aids=("peaking",)),
    _row("texture_contrast", 0.25, "", "contrast of texture such as grain or cloth", "assumed", 0.02, 1,
        aids=("peaking",)),
    _row("low_contrast", 0.1, "", "contrast of a subject with little of it", "assumed", 0.01, 1, aids=("peaking",)),
    _row("lens_blur", 0.010, "mm", "a lens's own blur at its plane of focus, without diffraction", "assumed",
             0.0005, 0.2),
    _row("corner_blur", 3.0, "×", "how much softer the lens is in the corner", "assumed for old fast lenses",
             1, 20, aids=("peaking",)),
    _row("faint_detail", 1.5, "×", "how much coarser an eye judges low contrast", "assumed", 1, 5),
    _row("dim_light", 1.5, "×", "how much coarser an eye judges in a dim room",
             "acuity falls by about a third from 100 to 1 cd/m²", 1, 10),
    _row("dark", 3.0, "×", "how much coarser an eye judges in the dark",
             "acuity falls to about a third at 0.01 cd/m²", 1, 20),
    _row("display_noise", 1.5, "×", "how much coarser a noisy display in the dark shows", "assumed", 1, 10, aids=_LIVE),
    _row("indicator_blur", 0.03, "mm", "blur within which a focus lamp stays lit, for a 36 × 24 mm picture",
             "assumed: its sensors are made for a usual print, whatever you call sharp", 0.002, 0.3,
             aids=("confirmation",)),
    _row("distance_guess", 0.15, "", "share by which a distance is misjudged by eye", "assumed; practise and see",
             0.01, 1),
    _row("ring_setting", 0.5, "°", "how finely a hand sets a distance on its mark", "assumed; half a degree",
             0.02, 10),
    _row("body_sway", 12.0, "mm", "how far a standing person sways to and fro between focusing and release",
             "postural sway of quiet standing, some 10 to 15 mm", 0, 200),
    _row("kneeling_sway", 5.0, "mm", "the same seated or leaning on something", "assumed", 0, 200),
    _row("arm_length", 650.0, "mm", "your arm, from the eye to the fingertips held out",
             "adults reach some 600 to 750 mm", 300, 1200),
    _row("pace", 750.0, "mm", "one of your paces", "adults walk some 700 to 800 mm a step", 300, 1200),
    _row("eye_height", 1600.0, "mm", "your eye above the ground", "adults standing", 700, 2200),
    _row("waist_height", 1050.0, "mm", "a camera at your waist above the ground", "adults standing", 300, 1600),
    _row("reaction", 0.25, "s", "from seeing to pressing, the middle of many presses",
             "simple reaction to something seen, 0.2 to 0.3 s", 0.05, 2),
    _row("reaction_spread", 0.06, "s", "how much one press differs from another", "simple reaction, 0.03 to 0.1 s",
             0.005, 1),
    _row("reaction_presses", 0.0, "presses", "how many of your own presses those two rest on", "none yet", 0, 1000),
    _row("speed_guess", 0.15, "", "share by which a speed is misjudged by eye", "assumed; as a distance is", 0.01, 1),
    _row("ring_turn", 1.5, "s", "how long it takes to set another distance and look up", "assumed", 0.2, 20),
    _row("steady_hand", 1.0, "×", "how many times slower than 1/focal length you hold still",
             "the rule itself; try ten frames at each time and see", 0.2, 8),
    _row("hand_half_life", 60.0, "days", "days after which a trial counts half",
             "chosen here: a hand keeps for weeks, not for years", 3, 3650),
)  # fmt: skip

_TABLE = {constant.id: constant for constant in CONSTANTS}


@dataclass(frozen=True)
class Eye:
    """The table's values with the photographer's own put in.

    Parameters
    ----------
    own
        Pairs of id and value that replace the table's.

    Raises
    ------
    UnreadableError, OutOfRangeError
        When an id is none of the table's, or a value is out of its range.
    """

    own: tuple[tuple[str, float], ...] = ()

    def __post_init__(self) -> None:
        for id, value in self.own:
            constant = _TABLE.get(id)
            if constant is None:
                raise UnreadableError("constant", id, "there is none of that name", f"Choose from {', '.join(_TABLE)}")
            if not constant.low <= value <= constant.high:
                raise OutOfRangeError(
                    constant.text, f"{value:g} {constant.unit}".strip(), "that is out of range",
                    f"Write {constant.low:g} to {constant.high:g}",
                )  # fmt: skip

    @classmethod
    def of(cls, own: Mapping[str, float]) -> Eye:
        """Return the table with ``own`` values, each in the unit of its row, in place of its own."""
        return cls(tuple(sorted((id, value) for id, value in own.items())))

    @cached_property
    def values(self) -> dict[str, float]:
        """Every constant's value by id, in the unit of the table."""
        return {id: constant.value for id, constant in _TABLE.items()} | dict(self.own)

    def __getitem__(self, id: str) -> float:
        return self.values[id]


AVERAGE_EYE = Eye()


def arcmin(value: float) -> float:
    """Arc-minutes to radians.

    Parameters
    ----------
    value
        Angle in the unit of the name.

    Examples
    --------
    >>> round(arcmin(1) * 1000, 5)  # mrad
    0.29089
    """
    return math.radians(value / 60)


def arcsec(value: float) -> float:
    """Arc-seconds to radians.

    Parameters
    ----------
    value
        Angle in the unit of the name.

    Examples
    --------
    >>> round(arcsec(20) * 1e6, 2)  # µrad
    96.96
    """
    return math.radians(value / 3600)


def eyepiece_focal(finder_magnification: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Apparent focal length ``f_e = 50/M`` in mm of a finder quoted with a 50 mm lens at infinity.

    Parameters
    ----------
    finder_magnification
        Magnification of the finder with a 50 mm lens at infinity, a ratio.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

    Examples
    --------
    >>> round(eyepiece_focal(0.9), 2)
    55.56
    """
    return eye["eyepiece_focal"] / finder_magnification


def matte_defocus(finder_magnification: float, N: float, screen_stop: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ of a matte screen: visible blur ``α·f_e`` times ``max(N, N_screen)``.

    Parameters
    ----------
    finder_magnification
        Magnification of the finder with a 50 mm lens at infinity, a ratio.
    N
        F-number, 0.5 to 128.
    screen_stop
        F-number that the screen is as bright at as wide open.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

    Examples
    --------
    >>> round(matte_defocus(0.9, 4, 2.8), 4)
    0.0646
    """
    blur = arcmin(eye["eye_blur"]) * eyepiece_focal(finder_magnification, eye=eye)
    return blur * max(N, screen_stop)


def split_image_defocus(finder_magnification: float, deviation_deg: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ of a split image: ``vernier·f_e/(2·tan d)``, the same at every stop while both halves are lit.

    Parameters
    ----------
    finder_magnification
        Magnification of the finder with a 50 mm lens at infinity, a ratio.
    deviation_deg
        Angle in degrees by which a prism bends light.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

    Examples
    --------
    >>> round(split_image_defocus(0.9, 6.5), 5)
    0.02364
    """
    wedge = 2 * math.tan(math.radians(deviation_deg))
    return arcsec(eye["vernier_split"]) * eyepiece_focal(finder_magnification, eye=eye) / wedge


def microprism_defocus(finder_magnification: float, deviation_deg: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ, mm, of a microprism patch: as a split image, with the coarser acuity for shimmer.

    Parameters
    ----------
    finder_magnification
        Magnification of the finder with a 50 mm lens at infinity, a ratio.
    deviation_deg
        Angle in degrees by which a prism bends light.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

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
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

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

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    object_mm
        Distance in mm of the subject from the front principal plane; infinity allowed.
    true_mm
        Distance in mm as it is.
    shown_mm
        Distance in mm that the scale shows when the patches coincide.

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

    Parameters
    ----------
    base_stop
        F-number that the indicator's own base works at.
    N
        F-number, 0.5 to 128.
    band_mm
        Blur diameter in mm within which it stays lit.

    Examples
    --------
    >>> round(confirmation_defocus(5.6, 1.4, 0.03), 3)
    0.168
    """
    return max(base_stop, N) * band_mm


def confirmation_band(diagonal_mm: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Blur circle in mm within which a focus indicator stays lit: the constant, in proportion to the format.

    Parameters
    ----------
    diagonal_mm
        Diagonal of the picture in mm.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

    Examples
    --------
    >>> round(confirmation_band(43.3), 3)
    0.03
    """
    return eye["indicator_blur"] * diagonal_mm / FULL_DIAGONAL_MM


def scale_defocus(focal_mm: float, object_mm: float, degrees_per_defocus: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ, mm, of a distance guessed by eye and set on the scale: the guess, and the setting of the ring.

    Infinity is never misjudged, but it too is set only as finely as a hand puts a ring on a mark.

    Parameters
    ----------
    focal_mm
        Focal length in mm, 1 to 5000.
    object_mm
        Distance in mm of the subject from the front principal plane; infinity allowed.
    degrees_per_defocus
        Degrees of ring for one mm of extension.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

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

    Parameters
    ----------
    sensor_px
        Pixels along the long side of the sensor.
    display_px
        Pixels along the long side of the display.
    step
        Magnification of the view, times that of the whole frame.

    Examples
    --------
    >>> sensor_px_per_display_px(6000, 1200, 5)
    1.0
    """
    return sensor_px / (display_px * step)


def magnified_blur(pitch_mm: float, sensor_px: int, display_px: int, step: float, *, eye: Eye = AVERAGE_EYE) -> float:
    """Smallest visible blur on a magnified picture, mm on the sensor.

    ``k·p·max(1, r)``, never below what the eye separates on the display.

    Parameters
    ----------
    pitch_mm
        Distance between pixels on the sensor in mm.
    sensor_px
        Pixels along the long side of the sensor.
    display_px
        Pixels along the long side of the display.
    step
        Magnification of the view, times that of the whole frame.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

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

    Parameters
    ----------
    pitch_mm
        Distance between pixels on the sensor in mm.
    sensor_px
        Pixels along the long side of the sensor.
    display_px
        Pixels along the long side of the display.
    step
        Magnification of the view, times that of the whole frame.
    N
        F-number, 0.5 to 128.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

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
