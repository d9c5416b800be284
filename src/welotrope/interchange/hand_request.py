"""The JSON requests about the hand, the same on the command line and in the API, and their answers."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict, Field, field_validator

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.errors import Field as Named
from welotrope.core.hand.causes import CAUSES
from welotrope.core.hand.deciding import frames_needed
from welotrope.core.hand.diagnosis import CARRIED, Diagnosis, FocusPattern, diagnose
from welotrope.core.hand.evidence import FocusSample, settings_of
from welotrope.core.hand.skill_estimate import SkillEstimate, estimate_skill
from welotrope.core.hand.skill_trial import MissSide, SkillTrial, far_off, side_of
from welotrope.core.kit.aids.registry import shown_by, usual_defocus
from welotrope.core.kit.aids.viewing_optics import ViewingOptics
from welotrope.core.optics.thin_lens import Datum, check_focal, extension_at
from welotrope.core.optics.turning import sharp_turning
from welotrope.core.ring.helicoid import check_lead
from welotrope.core.units.distance import check_distance
from welotrope.core.units.exposure import check_stop

MOST_TRIALS, MOST_AIDS = 20_000, 40


class _HandRequestPart(BaseModel):
    model_config = ConfigDict(extra="forbid", populate_by_name=True)


class LensPart(_HandRequestPart):
    """The lens: ``lead_mm`` is the helicoid's lead, mm a turn; ``widest`` its widest stop, if no trial was open."""

    focal_mm: float = Field(examples=[50])
    lead_mm: float = Field(examples=[10.8])
    widest: float | None = None


class TrialPart(_HandRequestPart):
    """A trial: an error in degrees of ring, positive behind the subject, or only the side focus fell on."""

    aid: str = Field(min_length=1, max_length=40, examples=["split_image"])
    stop: float = Field(examples=[2])
    distance_mm: float | None = Field(examples=[2000])
    error_deg: float | None = Field(None, allow_inf_nan=False, examples=[0.8])
    side: MissSide | None = None
    technique: str = Field("", max_length=40)
    days_ago: float = Field(0.0, ge=0, le=40_000, description="How long ago it was; older ones count for less")


class HandRequest(_HandRequestPart):
    """Trials with one lens, oldest first: millimetres, ``distance_mm`` null for infinity."""

    lens: LensPart
    blur_mm: float = Field(gt=0, le=10, examples=[0.03])
    trials: list[TrialPart] = Field(max_length=MOST_TRIALS)
    datum: Datum = Field(Datum.FILM, alias="from", description="Plane the distances start from")

    @field_validator("trials")
    @classmethod
    def _few_aids(cls, trials: list[TrialPart]) -> list[TrialPart]:
        """Each aid costs a fit of its own over all trials."""
        count = len({trial.aid for trial in trials})
        if count > MOST_AIDS:
            raise ValueError(f"{count} aids are more than anyone has; send at most {MOST_AIDS}")
        return trials


class SetAside(BaseModel):
    """A trial that was left out, counted from 1, and why."""

    trial: int
    reason: str


class AidHand(BaseModel):
    """A hand with an aid: bias and spread in units of what the aid shows, and the chance of a hit at its trials."""

    aid: str
    n: int
    slips: int
    bias_z: float
    bias_interval: tuple[float, float]
    spread_z: float
    spread_interval: tuple[float, float]
    hit_chance: float
    hit_interval: tuple[float, float]


class HandAnswer(BaseModel):
    """The hand, aid by aid in the order they first come, and what was set aside."""

    aids: list[AidHand]
    set_aside: list[SetAside]


class DiagnosisAnswer(BaseModel):
    """Where focus lands and why; ``needed`` is null when no number of such trials would tell."""

    verdict: FocusPattern
    cause: str = Field(
        description="rangefinder, extension, focus shift, guessing, lean, habit; none, or undecided: then see causes"
    )
    causes: list[str] = Field(description="The cause, or two that act together; empty when none is stated")
    odds: dict[str, float]
    bias_deg: float | None
    bias_interval: tuple[float, float] | None
    needed: int | None
    n: int
    hits: int
    set_aside: list[SetAside]


@dataclass(frozen=True, kw_only=True)
class _Read:
    """A trial as read, its place counted from 1, and the optics at its setting; lengths in mm."""

    place: int
    part: TrialPart
    sight: ViewingOptics
    error_mm: float | None
    side: MissSide

    @property
    def shot(self) -> FocusSample:
        return FocusSample(
            aid=self.part.aid, by=shown_by(self.part.aid), stop=self.part.stop, object_mm=self.sight.object_mm,
            half_mm=self.sight.half_window_mm, defocus_mm=usual_defocus(self.part.aid, self.sight),
            error_mm=self.error_mm, side=self.side,
        )  # fmt: skip


def hand_answer(asked: HandRequest) -> HandAnswer:
    """Tell the hand of the trials of a request; raises WelotropeError naming what is wrong in which trial."""
    read, aside = _trials(asked)
    by_aid: dict[str, list[_Read]] = {}
    for one in read:
        by_aid.setdefault(one.part.aid, []).append(one)
    return HandAnswer(aids=[_aid_hand(aid, held) for aid, held in by_aid.items()], set_aside=aside)


def diagnosis_answer(asked: HandRequest) -> DiagnosisAnswer:
    """Tell where the trials of a request land and why; raises as :func:`hand_answer`."""
    read, aside = _trials(asked)
    known = [one for one in read if one.error_mm is not None]
    outliers = far_off([(one.error_mm or 0.0) / one.sight.half_window_mm for one in known])
    left_out = {known[place].place for place in outliers}
    aside += [SetAside(trial=place, reason="far from all the others: a slip") for place in sorted(left_out)]
    kept = [one for one in read if one.place not in left_out]
    settings = settings_of([one.shot for one in kept], asked.lens.focal_mm, widest=asked.lens.widest)
    hits = sum(one.side is MissSide.HIT for one in kept)
    found = diagnose(settings, hits)
    per_mm = 360 / asked.lens.lead_mm
    known_bias = found.shots > 0
    causes = list(dict.fromkeys(CAUSES[one].json_name for one in found.causes))
    return DiagnosisAnswer(
        verdict=found.verdict, cause=_cause(found, causes), causes=causes, odds=_odds(found),
        bias_deg=found.bias_mm * per_mm if known_bias else None,
        bias_interval=(found.bias_low_mm * per_mm, found.bias_high_mm * per_mm) if known_bias else None,
        needed=0 if causes else frames_needed(found, settings), n=found.shots, hits=hits, set_aside=aside,
    )  # fmt: skip


def _odds(found: Diagnosis) -> dict[str, float]:
    odds: dict[str, float] = {}
    for cause, share in found.odds.items():
        name = CAUSES[cause].json_name
        odds[name] = odds.get(name, 0.0) + share
    return {cause: round(share, 6) for cause, share in sorted(odds.items(), key=lambda pair: -pair[1])}


def _cause(found: Diagnosis, causes: list[str]) -> str:
    """Return the cause where one alone is stated: two of one name in a request are one."""
    if found.verdict is not FocusPattern.ONE_SIDED:
        return "none"
    if len(causes) == 1:
        return causes[0]
    odds = _odds(found)
    likeliest = next(iter(odds), "")
    return likeliest if not causes and likeliest != "unknown" and odds[likeliest] >= CARRIED else "undecided"


def _aid_hand(aid: str, held: Sequence[_Read]) -> AidHand:
    attempts = [_attempt(one) for one in held]
    hand: SkillEstimate = estimate_skill(attempts)
    chance = hand.chance_of([(one.half_z, 1.0) for one in attempts])
    return AidHand(
        aid=aid, n=hand.trials, slips=hand.slips, bias_z=hand.bias.middle,
        bias_interval=(hand.bias.low, hand.bias.high), spread_z=hand.spread.middle,
        spread_interval=(hand.spread.low, hand.spread.high), hit_chance=chance.share,
        hit_interval=(chance.low, chance.high),
    )  # fmt: skip


def _attempt(one: _Read) -> SkillTrial:
    shot = one.shot
    return SkillTrial(
        z=None if shot.error_mm is None else shot.error_mm / shot.defocus_mm, side=shot.side,
        half_z=shot.half_mm / shot.defocus_mm, days_ago=one.part.days_ago, technique=one.part.technique,
    )  # fmt: skip


def _trials(asked: HandRequest) -> tuple[list[_Read], list[SetAside]]:
    """Return the trials that tell something, and those set aside: their own two figures contradict each other."""
    f, lead = check_focal(asked.lens.focal_mm), check_lead(asked.lens.lead_mm)
    if asked.lens.widest is not None:
        check_stop(asked.lens.widest, field="widest stop")
    kept, aside = [], []
    for place, part in enumerate(asked.trials, start=1):
        one = _read(place, part, f, lead, asked)
        if part.side is not None and one.side is not part.side:
            said = f"said {part.side} but is off by {part.error_deg:g}°, which is {one.side}"
            aside.append(SetAside(trial=place, reason=f"contradicts itself: {said}"))
        else:
            kept.append(one)
    return kept, aside


def _read(place: int, part: TrialPart, f: float, lead: float, asked: HandRequest) -> _Read:
    def named(what: str) -> Named:
        return Named(f"trials.{place}", f"{what} of trial {place}")

    if part.error_deg is None and part.side is None:
        raise ConflictError(named("error"), "nothing", "where focus fell is not told", "Give error_deg or side")
    if part.error_deg is not None and abs(part.error_deg) > 3600:
        raise OutOfRangeError(named("error"), f"{part.error_deg:g}°", "no ring turns so far", "Give degrees of ring")
    stop = check_stop(part.stop, field=named("stop"))
    given = math.inf if part.distance_mm is None else check_distance(part.distance_mm, field=named("distance"))
    x = float(extension_at(given, f, asked.datum))
    window_mm = sharp_turning(x, f, stop, asked.blur_mm).width
    sight = ViewingOptics(
        focal_mm=f, focus_x=x, stop=stop, view_stop=stop, widest=stop, blur_mm=asked.blur_mm,
        degrees_per_mm=360 / lead, window_deg=window_mm * 360 / lead,
    )  # fmt: skip
    error = None if part.error_deg is None else part.error_deg / sight.degrees_per_defocus
    if error is None:
        return _Read(place=place, part=part, sight=sight, error_mm=None, side=part.side or MissSide.HIT)
    side = side_of(error, sight.half_window_mm)
    return _Read(place=place, part=part, sight=sight, error_mm=error, side=side)
