"""What an aid usually shows when nothing is known of it but its kind: typical finders, screens and displays."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.kind import AidRecord
from welotrope.core.kit.aids.live import LivePicture
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.peaking import Peaking, PeakingLevel
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.aids.scale import ScaleByEye
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics

_OPEN_ENOUGH = 2.0
USUAL_SENSOR = Sensor(pitch_mm=0.006, width_px=6000)
USUAL_AIDS: Mapping[str, AidRecord] = {
    "matte": MatteScreen(0.9), "split_image": SplitImage(0.9), "microprism": Microprism(0.9),
    "rangefinder": RangefinderPatch(47, 0.72), "confirmation": Confirmation(), "magnified": MagnifiedView(1280, (6.0,)),
    "live": LivePicture(1920), "peaking": Peaking(1280, (PeakingLevel("mid", 0.1),)), "scale": ScaleByEye(),
}  # fmt: skip


def usual_defocus(tag: str, sight: ViewingOptics, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ, mm of extension, of a typical aid of a kind; of a matte screen where it is none of ours.

    An aid that would show nothing at the stop is taken to have been looked through at a wider one.

    Examples
    --------
    See ``tests/interchange/test_hand_request.py``, where it stands for aids known by name only.
    """
    aid = USUAL_AIDS.get(tag, USUAL_AIDS["matte"])
    for at in (sight, replace(sight, view_stop=min(sight.view_stop, _OPEN_ENOUGH), lens_blur_mm=0.0)):
        found = kind_of(aid).judges(aid, at, Target(), USUAL_SENSOR, eye).defocus_mm
        if found is not None:
            return found
    return usual_defocus("matte", sight, eye=eye)
