"""The optics of a set-up at a setting, and what an aid shows there."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.aids.scale import ScaleByEye
from welotrope.core.kit.aids.usual import usual_defocus
from welotrope.core.kit.aids.viewing_optics import LightLevel, Sensor, Target, ViewingOptics
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.window import sharp_window


def sight_of(setup: Setup, angle_deg: float, stop: float, view_stop: float) -> ViewingOptics:
    """Return the optics with the index at ``angle_deg``, at a taking and a viewing stop."""
    ring = setup.ring(stop)
    return ViewingOptics(
        focal_mm=setup.lens.focal_mm, focus_x=float(ring.extension_at_angle(angle_deg)), stop=stop,
        view_stop=view_stop, widest=setup.lens.widest, blur_mm=setup.blur_mm,
        degrees_per_mm=ring.degrees_per_mm(angle_deg),
        window_deg=sharp_window(ring, angle_deg, stop, setup.blur_mm).width_deg, mm_per_degree=setup.mm_per_degree,
        h_mm=ring.h_mm, diagonal_mm=setup.body.image.diagonal_mm,
        corner_stop=setup.lens.corner_stop, middle_blur_mm=setup.lens.own_blur_mm(view_stop, corner=False),
        corner_blur_mm=setup.lens.own_blur_mm(view_stop, corner=True),
    )  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Resolved:
    """What an aid shows at a setting, and how sharp it must be: mm of defocus in image space.

    ``half_mm`` is half the sharp window, ``object_mm`` the distance from the principal plane; ``degrees_per_defocus``
    are degrees of ring for a mm of defocus of a subject that stays.
    """

    defocus_mm: float
    half_mm: float
    degrees_per_defocus: float
    object_mm: float

    @property
    def half_z(self) -> float:
        """Half the sharp window in units of what the aid shows, a ratio."""
        return self.half_mm / self.defocus_mm


def resolved(
    setup: Setup,
    tag: str,
    distance_mm: float,
    stop: float,
    *,
    light: LightLevel = LightLevel.BRIGHT,
    eye: Eye = AVERAGE_EYE,
) -> Resolved:
    """Return what an aid, by its tag, shows of a subject at a distance.

    An aid that the body has not, or that shows nothing there, is taken as a typical one of its kind.

    Parameters
    ----------
    distance_mm, stop
        Of the subject from the film plane, mm, may be infinite; and the taking stop.
    light, eye
        How much there is, and constants.

    Raises
    ------
    WelotropeError
        When the ring does not reach the distance.
    """
    ring = setup.ring(stop)
    angle = ring.clamp(float(ring.angle_at_distance(ring.check_reach(distance_mm))))
    sight = sight_of(setup, angle, stop, setup.view_stop(stop))
    aid = ScaleByEye() if tag == "scale" else setup.body.aids_by_tag.get(tag)
    image = setup.body.image
    sensor = Sensor(image.pitch_mm, image.width_px) if image.pitch_mm and image.width_px else None
    found = None
    if aid is not None and (sensor is not None or not kind_of(aid).live):
        found = kind_of(aid).judges(aid, sight, Target(light=light), sensor, eye).defocus_mm
    defocus = usual_defocus(tag, sight, eye=eye) if found is None else found
    return Resolved(
        defocus_mm=defocus, half_mm=sight.half_window_mm, degrees_per_defocus=sight.degrees_per_defocus,
        object_mm=sight.object_mm,
    )  # fmt: skip
