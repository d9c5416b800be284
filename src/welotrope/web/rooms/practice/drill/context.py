"""What the page of a drill shows."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from welotrope.core.hand.skill_estimate import Interval, SkillEstimate, estimate_skill
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import kind_names, kind_of
from welotrope.core.kit.aids.viewing_optics import LightLevel
from welotrope.core.practice.drill_readings import ReadIn, guess_share, half_window_deg
from welotrope.core.practice.drill_summary import (
    LEAST_TO_SAY,
    ApertureChance,
    RangeRow,
    attempts_of,
    consistent_for,
    drift,
    guess_ranges,
    streak,
)
from welotrope.core.practice.drills import DAILY, Drill, DrillId, DrillTrial, Throw
from welotrope.core.review.frame import Technique
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.practice import StoredDrill
from welotrope.web.components.plot.trials import TrialsPlot, trials_plot
from welotrope.web.rooms.practice.drill.form import TrialForm, distance_now, throw_now

_NAMES = kind_names()
_SHOWN = 12


@dataclass(frozen=True, kw_only=True)
class DrillPage:
    """A drill: what to do next, what was read so far, and what it says."""

    drill: Drill
    stored: StoredSetup
    form: TrialForm
    errors: dict[str, str]
    begun: bool
    index: int
    throw: Throw | None
    throw_deg: float
    throw_mm: float | None
    next_mm: float | None
    aids: tuple[tuple[str, str], ...]
    techniques: tuple[tuple[str, str], ...]
    lights: tuple[tuple[str, str], ...]
    aid_name: str
    trials: tuple[StoredDrill, ...]
    plot: TrialsPlot | None
    plot_words: str
    hand: SkillEstimate | None
    last_share: float | None
    stops: tuple[ApertureChance, ...]
    slope: Interval | None
    ranges: tuple[RangeRow, ...]
    streak: int
    today_done: bool
    daily: int
    unit: Unit

    @property
    def place(self) -> int:
        """Which trial comes next, counted from 1."""
        return self.index + 1

    @property
    def good_for(self) -> ApertureChance | None:
        """The widest stop for which the hand is consistent enough."""
        return next((row for row in self.stops if row.enough), None)

    @property
    def not_for(self) -> ApertureChance | None:
        """The stop next wider than that for which it is; the smallest where it is for none."""
        wider = [row for row in self.stops if not row.enough]
        return wider[-1] if wider else None


def drill_page(
    drill: Drill, stored: StoredSetup, form: TrialForm, errors: dict[str, str], trials: Sequence[StoredDrill],
    of_session: Sequence[StoredDrill], base: DrillTrial | None, eye: Eye, now: dt.datetime, unit: Unit,
) -> DrillPage:  # fmt: skip
    """Compute the page; ``trials`` are all of the drill by who is practising, ``of_session`` those of the session."""
    if not form.unit:
        form = form.model_copy(update={"unit": ReadIn.DEGREES if stored.setup.mm_per_degree is None else ReadIn.MM})
    setup, begun, index = stored.setup, bool(form.key) and base is not None, len(of_session)
    judged = [one.trial for one in (trials if not drill.aided else of_session)]
    distance = _distance(drill, base, judged)
    half = (
        None
        if base is None or distance is None
        else half_window_deg(setup, replace(base, distance_mm=distance), eye=eye)
    )
    counted = attempts_of(judged)
    hand = estimate_skill(counted) if len(counted) >= LEAST_TO_SAY else None
    throw = throw_now(form, index) if begun and drill.on_the_ring else None
    throw_deg = throw.size_deg(half or 0.0) if throw else 0.0
    per_degree = setup.mm_per_degree
    plotted, plot_half, words = _plotted(drill, judged, half, eye, hand)
    return DrillPage(
        drill=drill, stored=stored, form=form, errors=errors, begun=begun, index=index, throw=throw,
        throw_deg=throw_deg, throw_mm=None if per_degree is None else throw_deg * per_degree,
        next_mm=distance_now(drill, form, setup, index) if begun and not drill.on_the_ring else None,
        aids=aids_on(stored), techniques=tuple((one.value, one.value) for one in Technique),
        lights=tuple((one.value, one.value) for one in LightLevel), aid_name=_NAMES.get(form.aid, form.aid),
        trials=tuple(reversed(list(of_session if drill.aided else trials)))[:_SHOWN],
        plot=trials_plot(plotted, plot_half, _text(drill)), plot_words=words, hand=hand,
        stops=consistent_for(setup, form.aid, distance, judged, eye=eye)
        if drill.id in (DrillId.TAPE, DrillId.LEAN) and hand and base and distance is not None else (),
        slope=drift([one.error_deg for one in judged if one.error_deg is not None])
        if drill.on_the_ring else None,
        last_share=_last_share(trials, eye) if not drill.aided else None,
        ranges=guess_ranges(judged, eye=eye) if not drill.aided else (),
        streak=streak({one.taken_at.date() for one in trials}, now.date()),
        today_done=sum(one.taken_at.date() == now.date() for one in trials) >= DAILY, daily=DAILY, unit=unit,
    )  # fmt: skip


def aids_on(stored: StoredSetup) -> tuple[tuple[str, str], ...]:
    """Return the aids that a drill with the set-up in hand can be done with, by tag and name."""
    kinds = [kind_of(aid) for aid in stored.setup.body.shown_aids]
    return tuple((kind.tag, kind.label) for kind in kinds) or (("scale", _NAMES["scale"]),)


def _distance(drill: Drill, base: DrillTrial | None, judged: Sequence[DrillTrial]) -> float | None:
    if drill.on_the_ring:
        return base.distance_mm if base else None
    known = [one.distance_mm for one in judged if one.distance_mm is not None]
    return known[-1] if drill.id is DrillId.LEAN and known else None


def _plotted(
    drill: Drill, judged: Sequence[DrillTrial], half: float | None, eye: Eye, hand: SkillEstimate | None
) -> tuple[list[float], float, str]:
    """Return what is plotted: errors, half the band they are held against, and words for it."""
    latest = judged[-40:]
    if not drill.aided:
        band = eye["distance_guess"] * (hand.sigma_z if hand else 1.0)
        shares = [guess_share(one.z, eye=eye) for one in latest if one.z is not None]
        return shares, band, "Guesses in share of the distance, over the spread of your hand"
    if drill.id is DrillId.DAILY:
        return [], 1.0, ""
    errors = [one.error_deg for one in latest if one.error_deg is not None]
    return errors, half or 1.0, "Trials in degrees of ring, over the sharp window"


def _last_share(trials: Sequence[StoredDrill], eye: Eye) -> float | None:
    """Return how far the latest guess was off, in share of the distance, positive too far."""
    z = trials[-1].trial.z if trials else None
    return None if z is None else guess_share(z, eye=eye)


def _text(drill: Drill) -> Callable[[float], str]:
    if not drill.aided:
        return lambda share: f"{100 * share:+.0f} %"
    return lambda degrees: f"{degrees:+.1f}°"
