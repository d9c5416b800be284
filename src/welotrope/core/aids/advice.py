"""Which aid resolves the focus wanted: each aid of a body judged, best first, with how to set it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from welotrope.core.aids import models
from welotrope.core.aids.constants import constant
from welotrope.core.errors import ConflictError
from welotrope.core.kit.body import Aid, MagnifiedView, MatteScreen, Peaking, SplitImage
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.diffraction import airy_diameter
from welotrope.core.optics.thin_lens import film_distance_at_extension
from welotrope.core.ring.focus_ring import FocusRing
from welotrope.core.ring.window import sharp_window
from welotrope.core.stats.proportions import chance_within
from welotrope.core.units.stops import format_stop


@dataclass(frozen=True)
class Reading:
    """What an aid model gives for one setting: δ in mm (None when it shows nothing) and the words."""

    kind: str
    label: str
    defocus_mm: float | None
    setting: str
    why_not: str = ""


@dataclass(frozen=True)
class Verdict:
    """An aid judged against the sharp window.

    Parameters
    ----------
    kind, label
        ``matte``, ``split_image``, ``magnified`` or ``peaking``, and its name in words.
    usable
        False when the aid shows nothing at this stop.
    resolves
        Whether its error stays within the window on both sides.
    defocus_mm, error_deg
        One-sided just-noticeable defocus in image space, and on the ring; infinite when not usable.
    nearest_mm, farthest_mm
        Film-plane distances the plane may fall at, one δ either side.
    hit_chance
        Chance that the plane lands within the window, 0 to 1, with σ = δ.
    setting
        How to set it, or why it fails: one clause.
    """

    kind: str
    label: str
    usable: bool
    resolves: bool
    defocus_mm: float
    error_deg: float
    nearest_mm: float
    farthest_mm: float
    hit_chance: float
    setting: str


@dataclass(frozen=True)
class Situation:
    """What the aids are judged for: taking stop, viewing stop and ring angle (degrees) of a set-up."""

    setup: Setup
    stop: float
    view_stop: float
    angle_deg: float


def judge_aids(situation: Situation) -> list[Verdict]:
    """Judge every aid of the set-up's body, best first: usable ones by error, then the rest."""
    ring = situation.setup.ring(situation.stop)
    window = sharp_window(ring, situation.angle_deg, situation.stop, situation.setup.blur_mm)
    verdicts = [
        _verdict(_read(aid, situation), ring, situation.angle_deg, window.width_deg)
        for aid in situation.setup.body.aids
    ]
    return sorted(verdicts, key=lambda verdict: (not verdict.usable, verdict.error_deg))


def _read(aid: Aid, situation: Situation) -> Reading:
    if isinstance(aid, MatteScreen):
        return _read_matte(aid, situation)
    if isinstance(aid, SplitImage):
        return _read_split(aid, situation)
    if isinstance(aid, MagnifiedView):
        return _read_magnified(aid, situation)
    return _read_peaking(aid, situation)


def _verdict(reading: Reading, ring: FocusRing, angle_deg: float, window_deg: float) -> Verdict:
    if reading.defocus_mm is None:
        return Verdict(
            reading.kind, reading.label, False, False, math.inf, math.inf, 0.0, math.inf, 0.0, reading.why_not
        )
    error_deg = reading.defocus_mm * ring.degrees_per_mm(angle_deg)
    x = ring.extension_at_angle(angle_deg)
    return Verdict(
        reading.kind,
        reading.label,
        True,
        error_deg <= window_deg / 2 * (1 + 1e-9),
        reading.defocus_mm,
        error_deg,
        film_distance_at_extension(x + reading.defocus_mm, ring.focal_mm, ring.h_mm),
        film_distance_at_extension(x - reading.defocus_mm, ring.focal_mm, ring.h_mm),
        chance_within(window_deg / 2, error_deg),
        reading.setting,
    )


def _read_matte(aid: MatteScreen, situation: Situation) -> Reading:
    N = situation.view_stop
    defocus = models.matte_defocus(aid.finder_magnification, N, aid.screen_stop)
    setting = "works anywhere on the frame; swing through sharp and come back"
    if aid.screen_stop > situation.stop:
        setting = (
            f"shows the depth of {format_stop(aid.screen_stop)}, more than {format_stop(situation.stop)} will have;"
            " do not judge blur on it"
        )
    return Reading("matte", "Matte screen", defocus, setting)


def _read_split(aid: SplitImage, situation: Situation) -> Reading:
    limit = models.wedge_blackout_stop(aid.deviation_deg)
    if situation.view_stop > limit:
        why = f"one half goes black at {format_stop(situation.view_stop)}; it stays lit to {format_stop(limit)}"
        if situation.setup.lens.widest <= limit:
            why += f". Focus at {format_stop(situation.setup.lens.widest)}, then stop down"
        return Reading("split_image", "Split image", None, "", why)
    defocus = models.split_image_defocus(aid.finder_magnification, aid.deviation_deg)
    return Reading(
        "split_image", "Split image", defocus, "lay a line across the split; turn the camera if lines run along it"
    )


def _read_magnified(aid: MagnifiedView, situation: Situation) -> Reading:
    pitch, sensor_px = _sensor(situation)
    steps = sorted(aid.steps)
    blurs = {step: models.magnified_blur(pitch, sensor_px, aid.display_px, step) for step in steps}
    c = situation.setup.blur_mm
    finest = min(blurs.values())
    # An aid resolves the standard when the blur it just shows is no larger than the blur allowed there.
    enough = situation.view_stop * finest <= situation.stop * c
    step = next(
        (s for s in steps if situation.view_stop * blurs[s] <= situation.stop * c),
        next(s for s in steps if blurs[s] <= finest * (1 + 1e-9)),
    )
    larger = [s for s in steps if s > step]
    setting = f"magnify {step:g}×: {'resolves it' if enough else 'the finest there is, not fine enough'}"
    if larger:
        gains = blurs[larger[-1]] < blurs[step] * (1 - 1e-9)
        setting += f"; {larger[-1]:g}× shows {'it finer still' if gains else 'nothing more'}"
    return Reading("magnified", f"Magnified view {step:g}×", blurs[step] * situation.view_stop, setting)


def _read_peaking(aid: Peaking, situation: Situation) -> Reading:
    pitch, sensor_px = _sensor(situation)
    display_px_mm = pitch * models.sensor_px_per_display_px(sensor_px, aid.display_px, 1)
    own = math.hypot(constant("lens_blur"), airy_diameter(situation.view_stop))
    contrast = constant("edge_contrast")
    bands = {
        level.name: models.peaking_defocus(display_px_mm, contrast, level.threshold_per_px, own, situation.view_stop)
        for level in aid.levels
    }
    lit = {name: band for name, band in bands.items() if band is not None}
    if not lit:
        return Reading("peaking", "Peaking", None, "", "nothing lights: the lens is too soft at this stop")
    name, band = min(lit.items(), key=lambda item: item[1])
    fits = band <= situation.stop * situation.setup.blur_mm
    ending = "set the middle of the lit band" if fits else "ballpark only; finish with something finer"
    return Reading("peaking", f"Peaking {name}", band, f"level {name}: {ending}")


def _sensor(situation: Situation) -> tuple[float, int]:
    """Return pixel pitch in mm and pixels across; a body with live aids has a sensor, see ``kit.body``."""
    image = situation.setup.body.image
    if image.pitch_mm is None or image.width_px is None:
        raise ConflictError("focusing aids", "live view", "film gives no live picture", "Leave live aids out")
    return image.pitch_mm, image.width_px
