"""/log/why: why it missed, and the test that would tell."""

from __future__ import annotations

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import ConflictError
from welotrope.core.hand.causes import CAUSES, Cause, Check, Cure
from welotrope.core.hand.cures import CHANGE_WORDS, VERDICT_CURES
from welotrope.core.hand.diagnosis import Diagnosis, FocusPattern
from welotrope.core.hand.evidence import ShownBy
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import kind_names, shown_by
from welotrope.core.review.evidence import EvidenceFrame
from welotrope.core.review.frame import TEST_TAG, frame_at
from welotrope.core.review.misses import (
    CorrectionRow,
    FramesToTake,
    Misses,
    change_worked,
    checks_for,
    correction,
    frames_to_take,
    why_missed,
)
from welotrope.core.review.outcomes import Outcome, Tally, tally
from welotrope.core.review.report import OF_A_SETUP, Division, counted, divide
from welotrope.core.testshot.aid_series import AidFault, fault_sentence, told_by_series
from welotrope.core.units.distance import Unit
from welotrope.core.units.turn import turn_text
from welotrope.store.queries import log, observations, practice, test_shots
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.observations import evidence_of_shot
from welotrope.store.queries.practice import KitChange
from welotrope.store.queries.test_shots import StoredShot
from welotrope.web.request.context import CurrentContext, RequestContext

_SETTINGS = {Cause.RANGEFINDER: ShownBy.RANGEFINDER, Cause.SCREEN: ShownBy.SCREEN}


@dataclass(frozen=True, kw_only=True)
class Odds:
    """A cause with how much it is believed, and its cure."""

    cause: Cause
    share: float
    cure: Cure


@dataclass(frozen=True, kw_only=True)
class Watched:
    """A change of the kit, and what frames tell before and since; None where there are none."""

    change: KitChange
    words: str
    before: Tally
    since: Tally
    before_deg: tuple[float, float, float] | None
    since_deg: tuple[float, float, float] | None
    worked: bool | None


@dataclass(frozen=True, kw_only=True)
class NearAndFar:
    """What test shots at two distances tell of an aid: how it is off, and that in words."""

    aid: str
    fault: AidFault
    sentence: str


@dataclass(frozen=True, kw_only=True)
class WhyPage:
    """Where focus lands with the set-up in hand, why, and what would decide."""

    stored: StoredSetup
    misses: Misses
    tally: Tally
    not_focus: int
    mostly_else: bool
    since: dt.date | None
    before: int
    cure: Cure | None
    odds: tuple[Odds, ...]
    correction: tuple[CorrectionRow, ...]
    turn: str
    shown_deg: float
    shown_low_deg: float
    shown_high_deg: float
    checks: tuple[tuple[str, Check], ...]
    test: tuple[FramesToTake, ...]
    divisions: tuple[Division, ...]
    watched: Watched | None
    shots: int
    near_and_far: tuple[NearAndFar, ...]
    aid_names: dict[str, str]
    unit: Unit

    @property
    def found(self) -> Diagnosis:
        """What the frames tell."""
        return self.misses.diagnosis

    @property
    def together(self) -> tuple[Cure, ...]:
        """The cures of two causes that act together; empty where one is stated, or none."""
        return tuple(CAUSES[cause].cure for cause in self.found.causes) if len(self.found.causes) > 1 else ()

    @property
    def likeliest(self) -> Odds | None:
        """The cause believed most, stated or not; None without any."""
        return next(iter(self.odds), None)

    @property
    def is_confirmed(self) -> bool:
        """Whether test shots near and far say the same of an aid as the cause believed most."""
        by = _SETTINGS.get(self.likeliest.cause) if self.likeliest else None
        return by is not None and any(
            one.fault is AidFault.SETTING and shown_by(one.aid) is by for one in self.near_and_far
        )

    @property
    def is_one_sided(self) -> bool:
        """Whether it falls to one side."""
        return self.found.verdict is FocusPattern.ONE_SIDED

    @property
    def frames_of_test(self) -> int:
        """How many frames the test takes in all."""
        return sum(one.frames for one in self.test)


def counts_since(measured: dt.date | None, change: KitChange | None) -> dt.datetime | None:
    """Return since when frames count: the ring was measured again, or the kit changed; None for all of them."""
    starts = [dt.datetime.combine(measured, dt.time())] if measured else []
    starts += [change.made_at] if change else []
    return max(starts, default=None)


def why_page(
    stored: StoredSetup, frames: Sequence[EvidenceFrame], measured_shots: Sequence[StoredShot],
    start: dt.datetime | None, change: KitChange | None, eye: Eye, others: Mapping[Outcome | None, int],
    unit: Unit,
) -> WhyPage:  # fmt: skip
    """Compute the page; what is older than ``start`` does not count any more, and ``others`` are those of since then.

    Of test shots it is known to a fraction of the window where focus fell.
    """
    shots = [evidence_of_shot(one) for one in measured_shots]
    now, measured = ([one for one in held if start is None or one.taken_at >= start] for held in (frames, shots))
    not_focus = sum(others.values())
    misses = why_missed(stored.setup, sorted([*now, *measured], key=lambda one: one.taken_at), eye=eye)
    found, per_mm = misses.diagnosis, misses.degrees_per_mm
    rows = correction(stored.setup, misses)
    return WhyPage(
        stored=stored,
        correction=rows,
        turn=_turn(stored, rows),
        misses=misses,
        tally=tally({**counted(now), **others}),
        not_focus=not_focus,
        mostly_else=not_focus > sum(one.outcome.is_miss for one in now),
        since=start.date() if start else None,
        before=len(frames) - len(now),
        cure=_cure(found),
        odds=tuple(Odds(cause=cause, share=share, cure=CAUSES[cause].cure) for cause, share in found.odds.items()),
        shown_deg=found.shown_mm * per_mm,
        shown_low_deg=found.shown_low_mm * per_mm,
        shown_high_deg=found.shown_high_mm * per_mm,
        checks=tuple((CAUSES[cause].cure.called, check) for cause, check in checks_for(misses)),
        test=frames_to_take(stored.setup, misses, eye=eye) if now or measured else (),
        shots=len(measured),
        near_and_far=_near_and_far(stored, measured_shots, start, eye),
        divisions=divide(now, ways=OF_A_SETUP),
        watched=_watched(stored, frames, change, eye),
        aid_names=kind_names(),
        unit=unit,
    )


def _near_and_far(
    stored: StoredSetup, shots: Sequence[StoredShot], start: dt.datetime | None, eye: Eye
) -> tuple[NearAndFar, ...]:
    """Return what test shots at two distances tell of each aid that they tell something of."""
    counted = [one for one in shots if start is None or one.taken_at >= start]
    told = {
        aid: told_by_series(
            stored.setup, aid, [(one.series, one.shot) for one in counted if one.aid == aid], eye=eye
        )
        for aid in dict.fromkeys(one.aid for one in counted)
    }  # fmt: skip
    return tuple(
        NearAndFar(aid=aid, fault=one.fault, sentence=fault_sentence(one, aid))
        for aid, one in told.items() if one is not None and one.fault
    )  # fmt: skip


def _turn(stored: StoredSetup, rows: Sequence[CorrectionRow]) -> str:
    """Say how far to turn the ring after focusing, and which way: by the middle of the distances told."""
    if not rows:
        return ""
    setup, middle = stored.setup, rows[len(rows) // 2].turn_deg
    amount = turn_text(abs(middle), setup.turn_in)
    if setup.mm_per_degree is not None:
        amount += f" ({abs(middle) * setup.mm_per_degree:.1f} mm at its edge)"
    return f"turn the ring {amount} {'towards the close end' if middle > 0 else 'towards ∞'}"


def _cure(found: Diagnosis) -> Cure | None:
    """Return the cure of the cause that is stated, else of the verdict; two causes have theirs in the table."""
    if found.cause is not None:
        return CAUSES[found.cause].cure
    return VERDICT_CURES.get(found.verdict)


def _watched(
    stored: StoredSetup, frames: Sequence[EvidenceFrame], change: KitChange | None, eye: Eye
) -> Watched | None:
    """Return what frames tell before and since a change of the kit."""
    if change is None:
        return None
    parts = [[one for one in frames if (one.taken_at >= change.made_at) is later] for later in (False, True)]
    before, since = (tally(counted(part)) for part in parts)
    misses = [why_missed(stored.setup, part, eye=eye) if part else None for part in parts]
    return Watched(
        change=change, words=CHANGE_WORDS.get(change.what, change.what), before=before, since=since,
        before_deg=_bias(misses[0]), since_deg=_bias(misses[1]), worked=change_worked(before, since, misses[1]),
    )  # fmt: skip


def _bias(misses: Misses | None) -> tuple[float, float, float] | None:
    """Return the mean error with its interval, degrees of ring: middle, low, high."""
    if misses is None:
        return None
    found, per_mm = misses.diagnosis, misses.degrees_per_mm
    return found.bias_mm * per_mm, found.bias_low_mm * per_mm, found.bias_high_mm * per_mm


router = APIRouter()


@router.get("/log/why")
def why(context: CurrentContext) -> Response:
    """Show where focus lands with the set-up in hand, and why."""
    what = ("why", context.selection.key, context.now().date(), context.preferences.unit)
    return context.page("log/why/page.html", context.cached(what, lambda: _page(context)))


@router.post("/log/why/test")
def take_along(context: CurrentContext) -> Response:
    """Begin an outing that holds the frames of the test, to be marked as they are looked at; undoable as one."""
    page = _page(context)
    if not page.test:
        raise ConflictError("test", "nothing to test", "the frames there are decide it", "See Why it missed")
    with context.undoable_transaction("Began a test"):
        outing = log.add_outing(context.uow, f"Test: {page.stored.setup.lens.name}"[:80], context.now().date())
        _add_frames(context, outing, page.test)
    return context.back_to(f"/log?outing={outing}")


def _page(context: RequestContext) -> WhyPage:
    stored = context.selected_setup()
    change = next(iter(practice.changes_of(context.uow, stored.id)), None)
    since = counts_since(observations.measured_on(context.uow).get(stored.id), change)
    return why_page(
        stored, observations.field_frames(context.uow, stored.id), test_shots.shots_of_setup(context.uow, stored.id),
        since, change, context.personal().eye, observations.other_outcomes(context.uow, stored.id, since),
        context.preferences.unit,
    )  # fmt: skip


def _add_frames(context: RequestContext, outing: int, taken: tuple[FramesToTake, ...]) -> None:
    stored = context.selected_setup()
    for one in taken:
        ring = stored.setup.ring(one.stop)
        angle = ring.clamp(float(ring.angle_at_distance(one.distance_mm)))
        for _ in range(one.frames):
            frame = frame_at(stored.id, stored.setup, angle, one.stop, context.now())
            log.add_frame(
                context.uow, outing,
                replace(frame, aid=one.aid, subject="test target", believed_mm=one.distance_mm, tags=(TEST_TAG,)),
            )  # fmt: skip
