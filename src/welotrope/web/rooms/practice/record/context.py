"""What the Practice room shows: the record of the hand, and a round to choose."""

from __future__ import annotations

import statistics
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.kit.aids.registry import view_name, views
from welotrope.core.practice.exercises import EXERCISES, Exercise, exercises_for, views_for
from welotrope.core.practice.scene_list import BY_NAME
from welotrope.core.practice.trial import Trial
from welotrope.core.stats.proportions import Proportion, wilson
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.practice import StoredTrial
from welotrope.web.rooms.practice.record.form import RoundForm

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
    latest: list[StoredTrial]
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
        latest=trials[:_SHOWN], stops=stored.setup.lens.stops, left_out=left_out, lost=lost,
    )  # fmt: skip


def aids_of(stored: StoredSetup) -> list[str]:
    """Return the ways to look that the body in hand has, by key."""
    tags = set(stored.setup.body.aids_by_tag)
    return [view.key for kind, view in views() if {kind.tag, *view.with_tags} <= tags]


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
