"""Which aid resolves the focus wanted: each aid judged, best first, with how to set it and how to turn."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from welotrope.core.aids.handling import Situation
from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.kit.aids.kind import FAIL, SET, TURN, AidJudgement, AidKind, AidRecord, Case
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.aids.scale import ScaleByEye
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.kit.camera_kind import ScaleShown
from welotrope.core.rules import RuleFinding, Severity, findings
from welotrope.core.stats import Proportion, chance_within

_SCALE = kind_of(ScaleByEye()).tag
_UNSEEN = RuleFinding(
    rule="scale-infinity", severity=Severity.CAREFUL, topic=SET, reason="", clears="sight infinity", drawing="",
    text="the ∞ mark has not been checked on this set-up: sight it once",
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class AidVerdict:
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
        The same as one figure, see :meth:`ViewingOptics.subject_error_mm`.
    hit_chance, hit_low, hit_high
        Chance that the plane lands within the window, 0 to 1, and its 95 % interval; all alike without a hand.
    spread_deg, bias_deg
        Spread of where the ring is left, and what it is always off by, positive behind the subject.
    aid_bias_mm
        What the aid itself is always off by, mm of defocus, positive behind.
    hand
        The hand that the chance is from, with how many trials it rests on; None when it is the model's, σ = δ.
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
    aid_bias_mm: float
    hand: SkillEstimate | None
    advice: tuple[RuleFinding, ...]

    @property
    def setting(self) -> str:
        """How to set it, or why it fails; empty where there is nothing to it but turning."""
        topic = SET if self.usable else FAIL
        said = [advice.text for advice in self.advice if advice.topic == topic]
        return "; ".join(said if said or self.usable else [advice.text for advice in self.advice])

    @property
    def turning(self) -> str:
        """How to turn with it, and what else to mind."""
        topics = (TURN, FAIL) if self.usable else (TURN,)
        return "; ".join(advice.text for advice in self.advice if advice.topic in topics)


def judge_aids(
    situation: Situation, *, eye: Eye = AVERAGE_EYE, hands: Mapping[str, SkillEstimate] | None = None
) -> list[AidVerdict]:
    """Judge every aid of the set-up's body, and its scale, in a situation; best first, unusable ones last.

    Parameters
    ----------
    situation
        A set-up at a setting, and what there is to focus on.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.
    hands
        What is known of the photographer's hand, by tag of the aid; None for an average one.
    """
    setup = situation.setup
    image = setup.body.image
    sensor = Sensor(image.pitch_mm, image.width_px) if image.pitch_mm and image.width_px else None
    aids: list[AidRecord] = list(setup.body.shown_aids)
    if setup.lens.engraved_units or setup.body.kind.scale is not ScaleShown.RING:
        aids.append(ScaleByEye())
    colours = setup.body.traits.peaking_colours
    sight = situation.sight
    verdicts = judge(aids, sight, target=situation.target, sensor=sensor, eye=eye, hands=hands, colours=colours)
    if math.isinf(sight.object_mm) and not setup.infinity_seen:
        return _not_on_trust(verdicts)
    return verdicts


def _not_on_trust(verdicts: list[AidVerdict]) -> list[AidVerdict]:
    """Put the scale behind every aid that shows infinity: how finely a hand sets a mark says not that it is right."""
    by_mark = [
        replace(verdict, resolves=False, advice=(*verdict.advice, _UNSEEN)) if verdict.kind == _SCALE else verdict
        for verdict in verdicts
    ]
    return sorted(by_mark, key=lambda verdict: (not verdict.usable, verdict.kind == _SCALE))


def judge(
    aids: Sequence[AidRecord],
    sight: ViewingOptics,
    *,
    target: Target | None = None,
    sensor: Sensor | None = None,
    eye: Eye = AVERAGE_EYE,
    hands: Mapping[str, SkillEstimate] | None = None,
    colours: tuple[str, ...] = (),
) -> list[AidVerdict]:
    """Judge aids at a sight; best first, unusable ones last.

    Parameters
    ----------
    aids
        The aids.
    sight, target
        The optics, and what there is to focus on.
    sensor
        Needed by live aids.
    eye
        Constants.
    hands
        The photographer's hand by kind of aid.
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
        kind = kind_of(aid)
        judged = kind.judges(aid, sight, target, sensor, eye)
        case = Case(
            aid=aid, sight=sight, target=target, defocus_mm=judged.defocus_mm, colours=colours,
            bias_mm=judged.bias_mm, **judged.chosen,
        )  # fmt: skip
        verdicts.append(_verdict(kind, judged, case, (hands or {}).get(kind.tag)))
    return best_first(verdicts)


def best_first(verdicts: Sequence[AidVerdict]) -> list[AidVerdict]:
    """Return verdicts by chance of a hit, then by error; unusable ones last.

    Parameters
    ----------
    verdicts
        Judged aids.
    """
    return sorted(verdicts, key=lambda verdict: (not verdict.usable, -round(verdict.hit_chance, 6), verdict.error_deg))


def _verdict(kind: AidKind, judged: AidJudgement, case: Case, hand: SkillEstimate | None) -> AidVerdict:
    sight, defocus, label = case.sight, judged.defocus_mm, judged.label or kind.label
    if defocus is None:
        return AidVerdict(
            kind=kind.tag, label=label, usable=False, resolves=False, defocus_mm=math.inf, error_deg=math.inf,
            nearest_mm=0.0, farthest_mm=math.inf, error_subject_mm=math.inf, hit_chance=0.0, hit_low=0.0, hit_high=0.0,
            spread_deg=math.inf, bias_deg=0.0, aid_bias_mm=0.0, hand=None, advice=tuple(findings(kind.rules, case)),
        )  # fmt: skip
    error_deg = defocus * sight.degrees_per_defocus
    half, bias_mm = sight.half_window_mm, judged.bias_mm
    resolves = defocus + abs(bias_mm) <= half * (1 + 1e-9)
    if hand:
        chance = hand.chance(half, defocus, bias=bias_mm)
        bias_mm += hand.bias_z * defocus
    else:
        model = chance_within(half, defocus, bias=bias_mm)
        chance = Proportion(model, model, model)
    # A bias puts the plane behind, so where it may fall lies around that; beyond life size nearer is farther.
    ends = sight.film_mm(defocus - judged.bias_mm), sight.film_mm(-defocus - judged.bias_mm)
    return AidVerdict(
        kind=kind.tag, label=label, usable=True, resolves=resolves, defocus_mm=defocus, error_deg=error_deg,
        nearest_mm=min(ends), farthest_mm=max(ends),
        error_subject_mm=sight.subject_error_mm(defocus), hit_chance=chance.share, hit_low=chance.low,
        hit_high=chance.high, spread_deg=(hand.sigma_z if hand else 1.0) * error_deg,
        bias_deg=bias_mm * sight.degrees_per_defocus, aid_bias_mm=judged.bias_mm, hand=hand,
        advice=tuple(findings(kind.rules, replace(case, resolves=resolves))),
    )  # fmt: skip
