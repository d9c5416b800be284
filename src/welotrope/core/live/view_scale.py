"""How large the blur that a standard allows is in a live picture, and what that picture can tell."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.kind import AidJudgement
from welotrope.core.kit.aids.live import LIVE, LivePicture, pixel_mm
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics

LEVELS = (0.5, 1.0, 2.0)  # of the largest blur allowed
FINEST_PX = 2.0  # the least blur that a sweep can be measured by


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
    """Return the diameter of the blur, pixels, that a turn of the ring, degrees, makes of what was sharp before."""
    return turn_deg / sight.degrees_per_defocus / sight.working_view_stop / scale.pixel_mm


def judged(sight: ViewingOptics, sensor: Sensor, *, live_px: int, step: float, eye: Eye = AVERAGE_EYE) -> AidJudgement:
    """Return how finely the live picture shows focus, as any aid is judged; δ in mm of image space."""
    return LIVE.judges(LivePicture(live_px, step), sight, Target(), sensor, eye)
