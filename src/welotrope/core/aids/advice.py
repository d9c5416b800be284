"""Which aid resolves the focus wanted: each aid judged, best first, with how to set it and how to turn."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from welotrope.core.aids import models
from welotrope.core.aids.constants import AVERAGE_EYE, Eye
from welotrope.core.aids.rules import Advice, Case, advise, wedge_lit
from welotrope.core.aids.situation import Detail, Light, Lines, Place, Sight, Situation, Target
from welotrope.core.errors import ConflictError
from welotrope.core.kit.body import (
    Aid,
    Confirmation,
    MagnifiedView,
    MatteScreen,
    Microprism,
    Peaking,
    RangefinderPatch,
    SplitImage,
)
from welotrope.core.optics.diffraction import airy_diameter
from welotrope.core.practice.skill import Skill
from welotrope.core.stats.proportions import Proportion, chance_within

__all__ = ["Sensor", "Situation", "Skill", "Target", "Verdict", "judge", "judge_aids"]

BY_SCALE = "scale"


@dataclass(frozen=True)
class Sensor:
    """Pixel pitch in mm and pixels across, for the aids that show a live picture."""

    pitch_mm: float
    width_px: int


@dataclass(frozen=True)
class Verdict:
    """An aid judged against the sharp window.

    Parameters
    ----------
    kind, label
        Such as ``matte`` or ``split_image``, and its name in words.
    usable
        False when the aid shows nothing here.
    resolves
        Whether its error stays within the window on both sides.
    defocus_mm, error_deg
        One-sided just-noticeable defocus in image space, and on the ring; infinite when not usable.
    nearest_mm, farthest_mm
        Film-plane distances the plane may fall at, one δ either side.
    error_subject_mm
        The same as one figure, see :meth:`Sight.subject_error_mm`.
    hit_chance, hit_low, hit_high
        Chance that the plane lands within the window, 0 to 1, and its 95 % interval; all alike for the model's.
    spread_deg, bias_deg
        Spread of where the ring is left, and what it is always off by, positive behind the subject.
    skill
        The photographer's own record when the chance is from it; None when it is the model's, σ = δ.
    advice
        What the rules say.
    """

    kind: str
    label: str
    usable: bool
    resolves: bool
    defocus_mm: float
    error_deg: float
    nearest_mm: float
    farthest_mm: float
    error_subject_mm: float
    hit_chance: float
    hit_low: float
    hit_high: float
    spread_deg: float
    bias_deg: float
    skill: Skill | None
    advice: tuple[Advice, ...]

    @property
    def setting(self) -> str:
        """How to set it, or why it fails: one sentence."""
        part = "set" if self.usable else "fail"
        said = [advice.text for advice in self.advice if advice.part == part]
        return "; ".join(said or [advice.text for advice in self.advice])

    @property
    def turning(self) -> str:
        """How to turn with it, and what else to mind."""
        parts = ("turn", "fail") if self.usable else ("turn",)
        return "; ".join(advice.text for advice in self.advice if advice.part in parts)


@dataclass(frozen=True)
class _Found:
    """What a model gives: δ, and what was chosen to get it."""

    kind: str
    label: str
    defocus_mm: float | None
    bias_mm: float = 0.0
    chosen: Mapping[str, Any] | None = None


def judge_aids(
    situation: Situation, eye: Eye = AVERAGE_EYE, skills: Mapping[str, Skill] | None = None
) -> list[Verdict]:
    """Judge every aid of the set-up's body, and its scale, in a situation; best first, unusable ones last."""
    setup = situation.setup
    image = setup.body.image
    sensor = Sensor(image.pitch_mm, image.width_px) if image.pitch_mm and image.width_px else None
    aids: list[Aid | str] = list(setup.body.shown_aids)
    if setup.lens.engraved_units:
        aids.append(BY_SCALE)
    colours = setup.body.traits.peaking_colours
    return judge(aids, situation.sight, situation.target, sensor, eye, skills, colours)


def judge(
    aids: Sequence[Aid | str],
    sight: Sight,
    target: Target | None = None,
    sensor: Sensor | None = None,
    eye: Eye = AVERAGE_EYE,
    skills: Mapping[str, Skill] | None = None,
    colours: tuple[str, ...] = (),
) -> list[Verdict]:
    """Judge aids at a sight; best first, unusable ones last.

    Parameters
    ----------
    aids
        The aids; ``"scale"`` stands for a distance judged by eye.
    sight, target
        The optics, and what there is to focus on.
    sensor
        Needed by live aids.
    eye
        Constants.
    skills
        The photographer's record by kind of aid, drawn towards the average eye as few rounds as it holds.
    colours
        Colours the body peaks in.

    Raises
    ------
    ConflictError
        When a live aid is asked for without a sensor.
    """
    target = target or Target()
    verdicts = []
    for aid in aids:
        found = _MODELS[aid if isinstance(aid, str) else type(aid)](aid, sight, target, sensor, eye)
        skill = (skills or {}).get(found.kind)
        case = Case(
            aid, sight, target, found.defocus_mm, False, colours=colours, bias_mm=found.bias_mm,
            **(found.chosen or {}),
        )  # fmt: skip
        verdicts.append(_verdict(found, case, skill))
    return best_first(verdicts)


def best_first(verdicts: Sequence[Verdict]) -> list[Verdict]:
    """Return verdicts by chance of a hit, then by error; unusable ones last."""
    return sorted(verdicts, key=lambda verdict: (not verdict.usable, -round(verdict.hit_chance, 6), verdict.error_deg))


def _verdict(found: _Found, case: Case, skill: Skill | None) -> Verdict:
    sight, defocus = case.sight, found.defocus_mm
    if defocus is None:
        return Verdict(
            found.kind, found.label, False, False, math.inf, math.inf, 0.0, math.inf, math.inf, 0.0, 0.0, 0.0, math.inf,
            0.0, None, advise(case),
        )  # fmt: skip
    error_deg = defocus * sight.degrees_per_mm
    half, bias_mm = sight.half_window_mm, found.bias_mm
    resolves = defocus + abs(bias_mm) <= half * (1 + 1e-9)
    if skill:
        chance = skill.chance(half, defocus, bias_mm)
        bias_mm += skill.bias_z * defocus
    else:
        model = chance_within(half, defocus, bias_mm)
        chance = Proportion(model, model, model)
    # A bias puts the plane behind, so where it may fall lies around that.
    return Verdict(
        found.kind, found.label, True, resolves, defocus, error_deg, sight.film_mm(defocus - found.bias_mm),
        sight.film_mm(-defocus - found.bias_mm), sight.subject_error_mm(defocus), chance.share, chance.low, chance.high,
        (skill.sigma_z if skill else 1.0) * error_deg, bias_mm * sight.degrees_per_mm, skill,
        advise(replace(case, resolves=resolves)),
    )  # fmt: skip


def _eye_factor(target: Target, eye: Eye, live: bool = False) -> float:
    """How much coarser the eye judges than in good light at a hard edge."""
    factor = eye["faint_detail"] if target.detail is Detail.FAINT else 1.0
    if live:  # a display keeps its brightness; in the dark it gets noisy
        return factor * (eye["display_noise"] if target.light is Light.DARK else 1.0)
    return factor * {Light.DIM: eye["dim_light"], Light.DARK: eye["dark"]}.get(target.light, 1.0)


def _matte(aid: Any, sight: Sight, target: Target, _sensor: Sensor | None, eye: Eye) -> _Found:
    defocus = models.matte_defocus(aid.finder_magnification, sight.working_view_stop, aid.screen_stop, eye)
    return _Found("matte", "Matte screen", defocus * _eye_factor(target, eye))


def _split(aid: Any, sight: Sight, target: Target, _sensor: Sensor | None, eye: Eye) -> _Found:
    lit = wedge_lit(aid, sight) and target.lines is not Lines.NONE
    defocus = models.split_image_defocus(aid.finder_magnification, aid.deviation_deg, eye) * _eye_factor(target, eye)
    return _Found("split_image", "Split image", defocus if lit else None)


def _microprism(aid: Any, sight: Sight, target: Target, _sensor: Sensor | None, eye: Eye) -> _Found:
    lit = wedge_lit(aid, sight)
    defocus = models.microprism_defocus(aid.finder_magnification, aid.deviation_deg, eye) * _eye_factor(target, eye)
    return _Found("microprism", "Microprism", defocus if lit else None)


def _rangefinder(aid: Any, sight: Sight, target: Target, _sensor: Sensor | None, eye: Eye) -> _Found:
    defocus = models.rangefinder_defocus(
        sight.focal_mm, sight.object_mm, aid.base_mm, aid.finder_magnification, eye
    ) * _eye_factor(target, eye)
    bias = models.rangefinder_bias(sight.focal_mm, sight.object_mm, 2000.0, aid.reads_mm)
    return _Found("rangefinder", "Rangefinder patch", defocus, bias)


def _confirmation(aid: Any, sight: Sight, _target: Target, _sensor: Sensor | None, eye: Eye) -> _Found:
    defocus = models.confirmation_defocus(
        aid.base_stop, sight.working_view_stop, models.confirmation_band(sight.diagonal_mm, eye)
    )
    return _Found("confirmation", "Focus indicator", defocus)


def _scale(_aid: Any, sight: Sight, _target: Target, _sensor: Sensor | None, eye: Eye) -> _Found:
    return _Found(
        "scale", "Scale, by eye", models.scale_defocus(sight.focal_mm, sight.object_mm, sight.degrees_per_mm, eye)
    )


def _magnified(aid: Any, sight: Sight, target: Target, sensor: Sensor | None, eye: Eye) -> _Found:
    pixels = _needed(sensor)
    factor = _eye_factor(target, eye, live=True)
    steps = sorted(aid.steps)
    blurs = {
        step: models.magnified_blur(pixels.pitch_mm, pixels.width_px, aid.display_px, step, eye) * factor
        for step in steps
    }
    finest = min(blurs.values())
    # An aid resolves the standard when the blur it just shows is no larger than the blur allowed there.
    step = next(
        (step for step in steps if blurs[step] <= sight.view_blur_mm),
        next(step for step in steps if blurs[step] <= finest * (1 + 1e-9)),
    )
    larger = [other for other in steps if other > step]
    chosen = {"step": step}
    if larger:
        chosen |= {"finer_step": larger[-1], "finer_gains": blurs[larger[-1]] < blurs[step] * (1 - 1e-9)}
    return _Found("magnified", f"Magnified view {step:g}×", blurs[step] * sight.working_view_stop, chosen=chosen)


def _peaking(aid: Any, sight: Sight, target: Target, sensor: Sensor | None, eye: Eye) -> _Found:
    pixels = _needed(sensor)
    display_mm = pixels.pitch_mm * models.sensor_px_per_display_px(pixels.width_px, aid.display_px, 1)
    own = sight.lens_blur_mm
    if own is None:
        soft = eye["lens_blur"] * (eye["corner_blur"] if target.place is Place.CORNER else 1.0)
        own = math.hypot(soft, airy_diameter(sight.working_view_stop))
    contrast = eye[
        {Detail.TEXTURE: "texture_contrast", Detail.FAINT: "low_contrast"}.get(target.detail, "edge_contrast")
    ]
    lit = {}
    for level in aid.levels:
        # Weak edges light over less of the ring, or not at all: that is fewer of them lit, not a finer band.
        bands = [
            models.peaking_defocus(display_mm, C, level.threshold_per_px, own, sight.working_view_stop)
            for C in (contrast, max(contrast, eye["edge_contrast"]))
        ]
        if bands[0] is not None and bands[1] is not None:
            lit[level.name] = max(bands[0], bands[1])
    if not lit:
        return _Found("peaking", "Peaking", None)
    name, band = min(lit.items(), key=lambda item: item[1])
    return _Found("peaking", f"Peaking {name}".strip(), band, chosen={"level": name})


def _needed(sensor: Sensor | None) -> Sensor:
    if sensor is None:
        raise ConflictError("focusing aids", "live view", "film gives no live picture", "Leave live aids out")
    return sensor


_Model = Callable[[Any, Sight, Target, Sensor | None, Eye], _Found]
_MODELS: dict[type | str, _Model] = {
    MatteScreen: _matte, SplitImage: _split, Microprism: _microprism, RangefinderPatch: _rangefinder,
    Confirmation: _confirmation, MagnifiedView: _magnified, Peaking: _peaking, BY_SCALE: _scale,
}  # fmt: skip
