"""Which parts of a live picture are sharp by the standard, and where an outline may be drawn round them."""

from __future__ import annotations

import math
from collections import deque
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from welotrope.core.kit.aids.kind import AidJudgement
from welotrope.core.kit.aids.live import LIVE, LivePicture, pixel_mm
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.optics.elementwise import AnyArray
from welotrope.core.picture.sharpness_map import SharpnessMap, sharpness_map

LEVELS = (0.5, 1.0, 2.0)  # of the largest blur allowed
FINEST_PX = 2.0  # the least blur that a sweep can be measured by
FRAMES = 6  # that the mean is taken of
_LEAST_PX = 0.35  # no lens and sensor blur less: what looks sharper is noise
_OWN_MOST_PX, _OWN_SHARE = 1.2, 0.1  # what they blur at most, and the share of the sharpest that tells it
_SHARPEST_SHARE = 0.33  # of what is known, whose blur is told
_LEAST_CELLS = 12
_BESIDE = 1.5  # times the limit that one beside it may be blurred


@dataclass(frozen=True, kw_only=True)
class ViewScale:
    """A live picture and the standard in hand.

    Parameters
    ----------
    pixel_mm
        What of the sensor one of its pixels shows, mm.
    sharp_px
        Diameter of the blur allowed at the taking stop, as it looks at the stop looked through, pixels.
    blur_mm
        The diameter itself, mm.
    """

    pixel_mm: float
    sharp_px: float
    blur_mm: float

    @property
    def is_coarse(self) -> bool:
        """Whether the blur allowed is too small to be measured in this picture."""
        return self.sharp_px < FINEST_PX

    @property
    def measured_px(self) -> float:
        """Diameter of the blur by which a sweep is measured: the one allowed, or the least that can be, pixels."""
        return max(self.sharp_px, FINEST_PX)

    @property
    def levels(self) -> tuple[tuple[float, float], ...]:
        """Blurs that an outline may be drawn up to: on the picture taken, mm, and in the live picture, pixels."""
        return tuple(
            (share * self.blur_mm, share * self.sharp_px) for share in LEVELS if share * self.sharp_px >= FINEST_PX / 2
        )


def view_scale(sight: ViewingOptics, sensor: Sensor, *, live_px: float, step: float) -> ViewScale:
    """Return the scale of a live picture.

    A subject out of focus by as much blurs in the ratio of the stops: looked at wide open and taken stopped down, it
    may look blurred by more than the standard allows and still be taken sharp.

    Parameters
    ----------
    sight
        The optics at the setting, with the stop looked through.
    sensor
        Under the lens.
    live_px
        Pixels across the picture that arrives.
    step
        Magnification over the whole picture at which the camera sends it.
    """
    pixel = pixel_mm(sensor.pitch_mm, sensor.width_px, live_px, step)
    return ViewScale(pixel_mm=pixel, sharp_px=sight.view_blur_mm / pixel, blur_mm=sight.blur_mm)


def step_blur_px(sight: ViewingOptics, scale: ViewScale, turn_deg: float) -> float:
    """Return the diameter of the blur, pixels, that a turn of the ring, degrees, makes of what was sharp before.

    Parameters
    ----------
    sight
        The optics of a set-up at a setting.
    scale
        How large things are in the live picture.
    turn_deg
        Turn of the ring in degrees.
    """
    return turn_deg / sight.degrees_per_defocus / sight.working_view_stop / scale.pixel_mm


def judged(sight: ViewingOptics, sensor: Sensor, *, live_px: int, step: float, eye: Eye = AVERAGE_EYE) -> AidJudgement:
    """Return how finely the live picture shows focus, as any aid is judged; δ in mm of image space.

    Parameters
    ----------
    sight
        The optics of a set-up at a setting.
    sensor
        The sensor.
    live_px
        Pixels along the long side of the live picture.
    step
        Magnification of the view, times that of the whole frame.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    """
    return LIVE.judges(LivePicture(live_px, step), sight, Target(), sensor, eye)


@dataclass(frozen=True, kw_only=True)
class Outlined:
    """What is sharp, cell by cell.

    Parameters
    ----------
    cell_px
        Side of a cell, pixels.
    sharp, known
        Which cells are sharp, and of which anything can be told, shape (rows, columns).
    blur_px
        Diameter of the blur of defocus in the sharpest part, pixels; NaN where nothing can be told.
    """

    cell_px: int
    sharp: NDArray[np.bool_]
    known: NDArray[np.bool_]
    blur_px: float


class Outliner:
    """Looks at the mean of the last frames of one size."""

    def __init__(self) -> None:
        self._frames: deque[AnyArray] = deque(maxlen=FRAMES)

    def add(self, grey: AnyArray, *, limit_px: float) -> Outlined:
        """Return what is sharp in the mean of the last frames.

        Parameters
        ----------
        grey
            Values of 8 bits, shape (height, width).
        limit_px
            Diameter of the largest blur that counts as sharp, pixels.

        Raises
        ------
        OutOfRangeError
            When its size cannot be judged.
        """
        if self._frames and self._frames[-1].shape != grey.shape:
            self._frames.clear()
        self._frames.append(grey)
        mean = np.mean(self._frames, axis=0, dtype=np.float32)
        return outlined(sharpness_map(np.rint(mean).astype(np.uint8)), limit_px=limit_px)


def outlined(seen: SharpnessMap, *, limit_px: float) -> Outlined:
    """Return which cells of a map are within a blur of defocus, the diameter of a disc in pixels.

    Parameters
    ----------
    seen
        Sharpness of the live picture, place by place.
    limit_px
        Blur that the standard allows, a standard deviation in pixels of the live picture.
    """
    blur = seen.blur_px
    known = np.isfinite(blur) & (blur >= _LEAST_PX)
    if not known.any():
        return Outlined(cell_px=seen.cell_px, sharp=known, known=known, blur_px=math.nan)
    values = np.sort(blur[known])
    own = min(float(values[int(_OWN_SHARE * len(values))]), _OWN_MOST_PX) if len(values) >= _LEAST_CELLS else _LEAST_PX
    defocus = 4 * np.sqrt(np.maximum(np.where(known, blur, np.inf) ** 2 - own**2, 0.0))
    sharp = defocus <= limit_px
    beside = _counts_beside(defocus <= _BESIDE * limit_px)
    return Outlined(
        cell_px=seen.cell_px, sharp=sharp & (beside > 0), known=known, blur_px=_sharpest(blur[known], own)
    )  # fmt: skip


def _sharpest(values: NDArray[np.float64], own: float) -> float:
    """Return the diameter of the blur that a third of what is known stays within, pixels."""
    return 4 * math.sqrt(max(float(np.quantile(values, _SHARPEST_SHARE)) ** 2 - own**2, 0.0))


def _counts_beside(chosen: NDArray[np.bool_]) -> NDArray[np.int_]:
    """Return how many of the eight cells round each are chosen."""
    padded = np.pad(chosen.astype(int), 1)
    rows, columns = chosen.shape
    summed = sum(padded[row : row + rows, column : column + columns] for row in range(3) for column in range(3))
    return np.asarray(summed) - chosen
