"""A drill: its page, a session of it, and one trial after the other."""

from __future__ import annotations

import datetime as dt
import secrets
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.responses import Response

from welotrope.core.errors import OutOfRangeError
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
from welotrope.core.units.distance import Unit, write_distance
from welotrope.store.queries import practice
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.practice import NewDrill, StoredDrill
from welotrope.web.components.plot import TrialsPlot, trials_plot
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.practice.drill_form import TrialForm, distance_now, throw_now

_NAMES = kind_names()
_SHOWN = 12
MOST_TRIALS = 500
_USUAL_FOCALS = 40  # how far off a tape drill is done unless told otherwise, in focal lengths


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


router = APIRouter()


def drill_router(drill: Drill) -> APIRouter:
    """Return the routes of one drill."""
    router = APIRouter()

    def show(context: CurrentContext) -> Response:
        """Show the drill, or where its session stands; with a camera it does not suit, what does."""
        if not drill.suits(context.selected_setup().setup.body.kind):
            return context.page("practice/drill/unsuited.html", drill)
        return _page(context, drill, TrialForm.read(FormData(dict(context.request.query_params))), {})

    def begin(context: CurrentContext) -> Response:
        """Begin a session with what was chosen."""
        form = TrialForm.read(context.typed).model_copy(update={"session": secrets.token_urlsafe(9)})
        _, errors = form.begun(drill, context.selected_setup().setup, context.numbers_in)
        if errors:
            return _page(context, drill, form.model_copy(update={"session": ""}), errors, status=422)
        return context.go(f"/practice/{drill.id}?{_session(form)}")

    def keep(context: CurrentContext) -> Response:
        """Keep a trial, undoably."""
        return _keep(context, drill, TrialForm.read(context.typed))

    for method, path, route in (("GET", "", show), ("POST", "/begin", begin), ("POST", "", keep)):
        router.add_api_route(
            f"/practice/{drill.id}{path}", route, methods=[method], name=f"{route.__name__} {drill.id}"
        )
    return router


@router.post("/practice/drills/{id}/delete")
def delete(context: CurrentContext, id: int) -> Response:
    """Delete a trial, undoably."""
    stored = practice.get_drill(context.uow, id)
    with context.undoable_transaction("Deleted a trial"):
        practice.delete_drill(context.uow, id)
    query = TrialForm.read(context.typed)
    return context.back_to(f"/practice/{stored.trial.drill.value}?{_session(query)}")


def _keep(context: RequestContext, drill: Drill, form: TrialForm) -> Response:
    stored = context.selected_setup()
    key = _key(context, drill, form)
    before = _of_session(context, drill, key)
    if len(before) >= MOST_TRIALS:
        raise OutOfRangeError("session", f"{len(before)} trials", "that is as long as one may be", "Begin anew")
    form = form.model_copy(update={"session": key})
    trial, errors = form.trial(drill, stored.setup, len(before), context.numbers_in, context.personal().eye)
    if trial is None:
        return _page(context, drill, form, errors, status=422)
    setup = stored.setup
    new = NewDrill(
        session=key, person=context.preferences.person, setup_id=stored.id if drill.aided else None,
        body_name=setup.body.name if drill.aided else "", lens_name=setup.lens.name if drill.aided else "",
        taken_at=context.now(),
    )  # fmt: skip
    with context.undoable_transaction(f"Saved a trial: {drill.title.lower()}"):
        practice.add_drill(context.uow, new, trial)
    return context.back_to(f"/practice/{drill.id}?{_session(form)}")


def _key(context: RequestContext, drill: Drill, form: TrialForm) -> str:
    """Return the session: as it was begun; what needs no beginning has one a day."""
    return form.key if drill.aided else f"{drill.id}-{context.now():%Y%m%d}"


def _of_session(context: RequestContext, drill: Drill, key: str) -> list[practice.StoredDrill]:
    found = practice.drills_of_session(context.uow, key) if key else []
    return [one for one in found if one.trial.drill is drill.id]


def _session(form: TrialForm) -> str:
    """Return what of a form stays in the address; which way it is read does too."""
    return form.query(reading="", where="", guess="", taped="", side="", unit=form.unit)


def _page(
    context: RequestContext, drill: Drill, form: TrialForm, errors: dict[str, str], *, status: int = 200
) -> Response:
    stored = context.selected_setup()
    usual = {name: value for name, value in _usual(context).items() if not getattr(form, name)}
    form = form.model_copy(update={**usual, "session": _key(context, drill, form)})
    base, wrong = form.begun(drill, stored.setup, context.numbers_in)
    done = [
        one for one in practice.list_drills(context.uow)
        if one.trial.drill is drill.id and one.person == context.preferences.person
    ]  # fmt: skip
    page = drill_page(
        drill, stored, form, errors or (wrong if form.key else {}), done, _of_session(context, drill, form.key), base,
        context.personal().eye, context.now(), context.preferences.unit,
    )  # fmt: skip
    return context.page("practice/drill/page.html", page, status=status)


def _usual(context: RequestContext) -> dict[str, str]:
    """Return what a session begins with: the finest aid of the body, wide open, at a few steps' distance."""
    stored = context.selected_setup()
    lens = stored.setup.lens
    distance = max(round(_USUAL_FOCALS * lens.focal_mm, -2), 1.2 * lens.closest_mm)
    return {"aid": aids_on(stored)[0][0], "stop": f"{lens.widest:g}", "distance": write_distance(round(distance, -1))}
