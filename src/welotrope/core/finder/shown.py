"""What the picture in the finder could resolve: the smallest defocus, in mm of extension, that shows on the screen.

The same models as for real aids (``kit.aids.models``), with the picture's pixels in place of the eye: a blur shows from
as many pixels as the eye separates on a magnified picture, a displacement from one.
"""

from __future__ import annotations

import math

from welotrope.core.finder.display import Viewing
from welotrope.core.finder.finder import WIDTH_PX, Finder, FrameRequest
from welotrope.core.kit.aids import models
from welotrope.core.kit.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.view import Indicator, Needle, Patch, Prisms, Split
from welotrope.core.optics.thin_lens import effective_stop, magnification


def shown_defocus(
    finder: Finder, look: FrameRequest, extension_mm: float, *, viewing: Viewing | None = None, eye: Eye = AVERAGE_EYE
) -> float | None:
    """Return δ, mm, of the picture seen with the lens at ``extension_mm``; None where it shows no focus at all.

    ``look`` gives aid, magnification and peaking level; ``viewing`` the screen, where it was measured: on one whose
    pixels look smaller than the eye tells apart, the eye decides and not the pixel.
    """
    instrument, stage = finder.instrument, finder.stage
    f = stage.focal_mm
    working = effective_stop(instrument.view_stop, magnification(max(extension_mm, 0.0), f))
    pixel = finder.pixel_mm(look)
    blur = max(eye["display_blur"], _told(60 * eye["eye_blur"], viewing)) * pixel
    seen = finder.seen(look.aid)
    part = seen.parts[0] if seen.parts else None
    if isinstance(part, Indicator):
        return models.confirmation_defocus(part.base_stop, working, instrument.confirmation_band_mm)
    if isinstance(part, Split | Prisms):
        vernier = eye["vernier_split" if isinstance(part, Split) else "vernier_microprism"]
        return pixel * _told(vernier, viewing) / (2 * math.tan(math.radians(part.deviation_deg)))
    if isinstance(part, Patch):
        # The pictures part by base·f·Δ(1/s), and the image moves by f²·Δ(1/s).
        return pixel * _told(eye["patch_rangefinder"], viewing) * f / part.base_mm
    if isinstance(part, Needle):
        return eye["live_blur"] * pixel * working
    if look.threshold is not None:
        display = 36 * stage.unit_mm / look.step / seen.display_px
        return models.peaking_defocus(display, eye["edge_contrast"], look.threshold, instrument.own_blur_mm, working)
    return blur * max(working, seen.screen_stop)


def _told(arcsec: float, viewing: Viewing | None) -> float:
    """Return from how many pixels of the picture on the eye tells an angle; one where the screen is not known."""
    if viewing is None:
        return 1.0
    return viewing.display.pixels_told(arcsec, shown_px=viewing.shown_px, picture_px=WIDTH_PX)
