"""/practice: the record of the hand with the set-up in hand, and beginning a round."""

from __future__ import annotations

import statistics
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.aids.advice import judge_aids
from welotrope.core.errors import WelotropeError
from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.kit.aids.registry import view_name, views
from welotrope.core.kit.setup import Setup
from welotrope.core.practice.exercises import EXERCISES, Exercise, exercise_title, exercises_for, views_for
from welotrope.core.practice.scene_list import BY_NAME
from welotrope.core.practice.trial import Trial
from welotrope.core.stats import Proportion, wilson
from welotrope.core.units.exposure import parse_stop
from welotrope.store.queries import practice
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.practice import StoredTrial
from welotrope.web.forms import TextForm
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.practice.keeper import keeper_of

if TYPE_CHECKING:
    from welotrope.core.finder.round import RoundRequest


class RoundForm(TextForm):
    """The choices of a round."""

    exercise: str = "single"
    aid: str = ""
    scene: str = ""
    stop: str = ""

    def order(self, setup: Setup) -> RoundRequest:
        """Return the order; the usual stop is the widest, the usual aid the finest the exercise takes."""
        from welotrope.core.finder.round import RoundRequest

        stop = parse_stop(self.stop) if self.stop else setup.lens.widest
        return RoundRequest(self.exercise, self.aid, self.scene, stop)


_SHOWN = 12


@dataclass(frozen=True, kw_only=True)
class AidTally:
    """What the trials with an aid say: how many, how many hit and with what interval, scatter and bias."""

    aid: str
    name: str
    trials: int
    hits: Proportion
    hand: SkillEstimate
    seconds: float
    through: float


@dataclass(frozen=True)
class LatestRound:
    """A round of the list: as stored, and what its exercise and its aid are called."""

    stored: StoredTrial
    exercise: str
    aid: str


@dataclass(frozen=True, kw_only=True)
class PracticePage:
    """The Practice room: the record of the set-up in hand, and a round to choose."""

    stored: StoredSetup
    form: RoundForm
    problem: str
    exercises: tuple[Exercise, ...]
    aids: tuple[tuple[str, str, bool], ...]
    scenes: tuple[tuple[str, str], ...]
    records: tuple[AidTally, ...]
    latest: tuple[LatestRound, ...]
    stops: tuple[float, ...]
    left_out: int
    lost: bool


def practice_page(
    stored: StoredSetup, form: RoundForm, problem: str, trials: list[StoredTrial], hands: Mapping[str, SkillEstimate],
    finest: Sequence[str], left_out: int, *, lost: bool,
) -> PracticePage:  # fmt: skip
    """Compute the Practice room; ``finest`` are the kinds of aid that work here, best first."""
    own, can_have = aids_of(stored), stored.setup.body.can_have
    possible = exercises_for(can_have)
    chosen = next((one for one in possible if one.id == form.exercise), possible[0] if possible else EXERCISES[0])
    looks = views_for(can_have, chosen)
    if not form.aid:
        form = form.model_copy(update={"aid": next((kind for kind in finest if kind in looks), "")})
    return PracticePage(
        stored=stored, form=form, problem=problem, exercises=possible,
        aids=tuple((aid, view_name(aid), aid in own) for aid in sorted(looks, key=lambda aid: aid not in own)),
        scenes=tuple((scene, BY_NAME[scene].label) for scene in chosen.scenes), records=_records(trials, hands),
        latest=tuple(map(_latest, trials[:_SHOWN])), stops=stored.setup.lens.stops, left_out=left_out, lost=lost,
    )  # fmt: skip


def aids_of(stored: StoredSetup) -> list[str]:
    """Return the ways to look that the body in hand has, by key."""
    tags = set(stored.setup.body.aids_by_tag)
    return [view.key for kind, view in views() if {kind.tag, *view.with_tags} <= tags]


def _latest(stored: StoredTrial) -> LatestRound:
    trial = stored.trial
    return LatestRound(stored, exercise_title(trial.exercise), view_name(trial.aid))


def _records(trials: list[StoredTrial], hands: Mapping[str, SkillEstimate]) -> tuple[AidTally, ...]:
    by_aid: dict[str, list[Trial]] = defaultdict(list)
    for stored in trials:
        if stored.trial.counts:
            by_aid[stored.trial.aid].append(stored.trial)
    records = []
    for aid, own in by_aid.items():
        hits = wilson(sum(trial.hit for trial in own), len(own))
        if hits is not None:
            through = sum(trial.passed > 0 for trial in own) / len(own)
            seconds = statistics.median(trial.seconds for trial in own)
            records.append(
                AidTally(
                    aid=aid,
                    name=view_name(aid),
                    trials=len(own),
                    hits=hits,
                    hand=hands[aid],
                    seconds=seconds,
                    through=through,
                )
            )
    return tuple(sorted(records, key=lambda record: -record.hits.low))


router = APIRouter()


@router.get("/practice")
def room(context: CurrentContext) -> Response:
    """Show the record of the set-up in hand and a round to choose."""
    query = context.request.query_params
    form = RoundForm(**{name: query.get(name, "")[:40] for name in ("aid", "scene", "stop")} | {
        "exercise": query.get("exercise", "single")[:40]
    })  # fmt: skip
    return _room(context, form, "", lost="lost" in query)


@router.post("/practice/rounds")
def begin(context: CurrentContext) -> Response:
    """Begin a round."""
    data = context.typed
    form = RoundForm.read(data)
    stored = context.selected_setup()
    try:
        opened = keeper_of(context.request).open(
            stored.id, stored.setup, form.order(stored.setup), eye=context.personal().eye
        )
    except WelotropeError as error:
        return _room(context, form, error.sentence, status=422)
    return context.go(f"/practice/rounds/{opened.key}")


def _room(context: RequestContext, form: RoundForm, problem: str, *, status: int = 200, lost: bool = False) -> Response:
    stored = context.selected_setup()
    trials = practice.list_trials(context.uow, setup_id=stored.id)
    left_out = practice.left_out(context.uow)
    state, personal = context.ring_state(), context.personal()
    situation = state.aim.situation(stored.setup, state.stop, state.angle_deg)
    finest = [found.kind for found in judge_aids(situation, eye=personal.eye, hands=personal.hands) if found.usable]
    page = practice_page(stored, form, problem, trials, personal.hands, finest, left_out, lost=lost)
    return context.page("practice/record/page.html", page, query=state.query, status=status)
