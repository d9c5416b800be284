"""/practice/hand: the hand of who is practising, who that is, and what was changed on the kit."""

from __future__ import annotations

import datetime as dt
import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.hand.cures import CHANGE_WORDS, changes_of
from welotrope.core.hand.progress import LEAST_TO_COMPARE, SkillChange, blocks, compared, other_hands
from welotrope.core.hand.skill_estimate import SkillEstimate, estimate_skill
from welotrope.core.hand.skill_trial import Manner, SkillTrial
from welotrope.core.kit.aids.registry import kind_names
from welotrope.core.kit.setup import resolved
from welotrope.core.practice.exercises import AidAtHand, Suggestion, suggestions
from welotrope.core.review.roll import read_time
from welotrope.core.stats import Proportion
from welotrope.core.testshot.shot_progress import AidProgress, progress_with
from welotrope.core.units.distance import Unit
from welotrope.core.units.text import check_text, format_date
from welotrope.store.queries import practice, test_shots
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.observations import Observation
from welotrope.store.queries.practice import KitChange
from welotrope.store.queries.test_shots import StoredShot
from welotrope.web.components.plot import LearningPlot, learning_plot
from welotrope.web.forms import TextForm
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.request.preferences import MOST_NAME, remember
from welotrope.web.state.personal import Personal

_NOTE_LIMIT = 120
# Where trials come from, in words for one and for several.
_SOURCES = {
    "finder": ("round", "rounds"), "tape": ("tape trial", "tape trials"), "guess": ("guess", "guesses"),
    "approach": ("walk", "walks"), "lean": ("lean", "leans"), "daily": ("of the daily five", "of the daily five"),
    "frame": ("frame", "frames"), "test shot": ("test shot", "test shots"),
}  # fmt: skip
_FOCALS_AWAY, _MOST_ASIDE = 40, 40


class ChangeForm(TextForm):
    """A change of the kit."""

    what: str = "screen"
    note: str = ""
    made_at: str = ""

    def value(self, setup_id: int, now: dt.datetime) -> tuple[KitChange | None, dict[str, str]]:
        """Return the change, or None with an error sentence per field; without a day it is now."""
        errors: dict[str, str] = {}
        made = now
        try:
            if self.what not in CHANGE_WORDS:
                raise UnreadableError("what", self.what, "there is none of that name", "Choose one of the list")
            check_text(self.note, "note", _NOTE_LIMIT) if self.note else ""
        except WelotropeError as error:
            errors["what" if error.key == "what" else "note"] = error.sentence
        try:
            made = read_time(self.made_at, "day") if self.made_at else now
        except WelotropeError as error:
            errors["made_at"] = error.sentence
        if made > now:
            errors["made_at"] = f"Day: read “{self.made_at}”; it has not come yet. Write a day up to today."
        if errors:
            return None, errors
        return KitChange(setup_id=setup_id, what=self.what, note=self.note, made_at=made), {}


def person_of(text: str) -> str:
    """Return the name of who is practising, empty for the owner; raises WelotropeError for what cannot be shown."""
    return check_text(text.strip(), "name", MOST_NAME) if text.strip() else ""


_NAMES = kind_names()


@dataclass(frozen=True, kw_only=True)
class AidRow:
    """An aid: the hand with it, where its trials come from, its chance here, and how it changed."""

    aid: str
    name: str
    hand: SkillEstimate
    sources: str
    chance: Proportion | None
    learning: LearningPlot | None
    manners: tuple[tuple[str, int, SkillEstimate], ...]

    @property
    def change(self) -> tuple[float, float, float]:
        """How many times its scatter is what it was a hundred trials ago: middle, low, high."""
        trend = self.hand.trend
        return math.exp(trend.middle), math.exp(trend.low), math.exp(trend.high)


@dataclass(frozen=True, kw_only=True)
class ChangeRow:
    """A change of the kit, in words, and the hand with each aid before and after, by name of the aid."""

    change: KitChange
    words: str
    told: tuple[tuple[str, SkillChange], ...]


@dataclass(frozen=True, kw_only=True)
class Aside:
    """Trials that are set aside for one reason: how many, and where the latest lies."""

    reason: str
    count: int
    link: str


@dataclass(frozen=True, kw_only=True)
class AidPictures:
    """Series of test shots with an aid, by its name."""

    name: str
    progress: AidProgress


@dataclass(frozen=True, kw_only=True)
class HandPage:
    """The hand of who is practising, with the set-up in hand."""

    stored: StoredSetup
    person: str
    persons: list[str]
    rows: tuple[AidRow, ...]
    trials: int
    stop: float
    distance_mm: float
    best: AidRow | None
    suggested: tuple[Suggestion, ...]
    aside: tuple[Aside, ...]
    odd_days: tuple[tuple[str, float, str], ...]
    pictures: tuple[AidPictures, ...]
    changes: tuple[ChangeRow, ...]
    kinds: tuple[tuple[str, str], ...]
    form: ChangeForm
    errors: dict[str, str]
    half_life_days: float
    unit: Unit


def hand_page(
    stored: StoredSetup, personal: Personal, told: Sequence[Observation], changes: Sequence[KitChange],
    persons: list[str],
    person: str, unit: Unit, form: ChangeForm, errors: dict[str, str], shots: Sequence[StoredShot],
) -> HandPage:  # fmt: skip
    """Compute the page from everything that tells of a hand."""
    setup = stored.setup
    stop, distance = setup.lens.widest, max(_FOCALS_AWAY * setup.lens.focal_mm, 1.2 * setup.lens.closest_mm)
    by_aid: dict[str, list[Observation]] = defaultdict(list)
    for one in told:
        if not one.aside:
            by_aid[one.aid].append(one)
    rows = tuple(
        sorted(
            (_row(stored, personal, aid, held, distance, stop) for aid, held in by_aid.items()),
            key=lambda row: -(row.chance.low if row.chance else 0.0),
        )
    )
    return HandPage(
        stored=stored, person=person, persons=persons, rows=rows, trials=sum(len(held) for held in by_aid.values()),
        stop=stop, distance_mm=distance, best=next((row for row in rows if row.chance), None),
        suggested=tuple(suggestions(_here(stored, personal, distance, stop))[:3]), aside=_aside(told),
        odd_days=_odd_days(told), pictures=_pictures(stored, personal, shots),
        changes=tuple(_change(change, told) for change in changes), form=form,
        kinds=changes_of(setup.body.can_have, has_mount=setup.body.kind.has_mount),
        errors=errors, half_life_days=personal.eye["hand_half_life"], unit=unit,
    )  # fmt: skip


def _pictures(stored: StoredSetup, personal: Personal, shots: Sequence[StoredShot]) -> tuple[AidPictures, ...]:
    """Return what test shots show of the hand, aid by aid; without aids of which no series tells anything."""
    by_aid: dict[str, dict[str, list[StoredShot]]] = defaultdict(lambda: defaultdict(list))
    for one in shots:
        by_aid[one.aid][one.series].append(one)
    found = []
    for aid, series in by_aid.items():
        held = [(key, taken[0].taken_at, [one.shot for one in taken]) for key, taken in series.items()]
        progress = progress_with(stored.setup, aid, held, eye=personal.eye)
        if progress.series:
            found.append(AidPictures(name=_NAMES.get(aid, aid), progress=progress))
    return tuple(found)


def _row(
    stored: StoredSetup, personal: Personal, aid: str, held: Sequence[Observation], distance_mm: float, stop: float
) -> AidRow:
    hand = personal.hands.guessing if aid == "scale" else personal.hands[aid]
    counts = Counter(one.source for one in held)
    chance = None
    if aid in {*stored.setup.body.aids_by_tag, "scale"}:
        chance = _chance(stored, personal, hand, aid, distance_mm, stop)
    return AidRow(
        aid=aid, name=_NAMES.get(aid, aid), hand=hand, chance=chance,
        sources=", ".join(f"{count} {_SOURCES[source][count > 1]}" for source, count in counts.most_common()),
        learning=learning_plot(blocks([one.attempt for one in held if one.attempt.z is not None])),
        manners=_manners(held),
    )  # fmt: skip


def _manners(held: Sequence[Observation]) -> tuple[tuple[str, int, SkillEstimate], ...]:
    """Return the hand by technique and light where there are trials enough of two at least: words, how many, hand."""
    found = []
    for name in ("technique", "light"):
        counts = Counter(said for one in held if (said := str(getattr(one.attempt, name))))
        known = [said for said, count in counts.most_common() if count >= LEAST_TO_COMPARE]
        if len(known) < 2:
            continue
        attempts = [one.attempt for one in held]
        found += [(said, counts[said], estimate_skill(attempts, manner=Manner(**{name: said}))) for said in known]
    return tuple(found)


def _chance(
    stored: StoredSetup, personal: Personal, hand: SkillEstimate, aid: str, distance_mm: float, stop: float
) -> Proportion | None:
    try:
        shown = resolved(stored.setup, aid, distance_mm, stop, eye=personal.eye)
    except WelotropeError:
        return None
    return hand.chance(shown.half_mm, shown.defocus_mm)


def _here(stored: StoredSetup, personal: Personal, distance_mm: float, stop: float) -> list[AidAtHand]:
    found = []
    for tag in (*stored.setup.body.aids_by_tag, "scale"):
        try:
            shown = resolved(stored.setup, tag, distance_mm, stop, eye=personal.eye)
        except WelotropeError:
            continue
        found.append(
            AidAtHand(
                aid=tag, name=_NAMES.get(tag, tag), hand=personal.hands[tag], half_mm=shown.half_mm,
                defocus_mm=shown.defocus_mm,
            )
        )  # fmt: skip
    return found


def _aside(told: Sequence[Observation]) -> tuple[Aside, ...]:
    by_reason: dict[str, list[Observation]] = defaultdict(list)
    for one in told:
        if one.aside:
            by_reason[one.aside].append(one)
    return tuple(
        Aside(reason=reason, count=len(held), link=held[-1].link)
        for reason, held in sorted(by_reason.items(), key=lambda pair: -len(pair[1]))
    )


def _odd_days(told: Sequence[Observation]) -> tuple[tuple[str, float, str], ...]:
    """Return days whose trials hardly come from the same hand: in words, how many times they scatter, and a trial."""
    found = []
    by_aid: dict[str, dict[str, list[Observation]]] = defaultdict(lambda: defaultdict(list))
    for one in told:
        if not one.aside:
            by_aid[one.aid][f"{format_date(one.taken_at)}"].append(one)
    for aid, days in by_aid.items():
        attempts: dict[str, list[SkillTrial]] = {day: [one.attempt for one in held] for day, held in days.items()}
        for day, times in other_hands(attempts).items():
            found.append((f"{day}, {_NAMES.get(aid, aid).lower()}", times, days[day][-1].link))
    return tuple(found)


def _change(change: KitChange, told: Sequence[Observation]) -> ChangeRow:
    rows = []
    for aid in dict.fromkeys(one.aid for one in told):
        held = [one for one in told if one.aid == aid and not one.aside and one.source != "finder"]
        parts = [[one.attempt for one in held if (one.taken_at >= change.made_at) is since] for since in (False, True)]
        found = compared(*parts)
        if found:
            rows.append((_NAMES.get(aid, aid), found))
    return ChangeRow(change=change, words=CHANGE_WORDS.get(change.what, change.what), told=tuple(rows))


router = APIRouter()


@router.get("/practice/hand")
def hand(context: CurrentContext) -> Response:
    """Show the hand."""
    return _page(context, ChangeForm(), {})


@router.post("/practice/person")
def practise_as(context: CurrentContext, *, person: Annotated[str, Form()] = "") -> Response:
    """Say who is practising on this device from now on."""
    response = context.go("/practice/hand")
    remember(response, "person", person_of(person))
    return response


@router.post("/practice/sessions/{session}/person")
def give_session(context: CurrentContext, session: str, *, person: Annotated[str, Form()] = "") -> Response:
    """Say that all trials of a session were somebody else's, undoably."""
    name = person_of(person)
    with context.undoable_transaction(f"Gave a session to {name or 'me'}"):
        practice.give_to(context.uow, session[:60], name)
    return context.back_to("/practice/hand")


@router.post("/practice/changes")
def note_change(context: CurrentContext, *, back: Annotated[str, Form()] = "") -> Response:
    """Note a change of the kit, from which on it is watched."""
    form = ChangeForm.read(context.typed)
    change, errors = form.value(context.selected_setup().id, context.now())
    if change is None:
        return _page(context, form, errors, status=422)
    with context.undoable_transaction("Noted a change of the kit"):
        practice.add_change(context.uow, change)
    return context.back_to(local_path(back, otherwise="/practice/hand"))


@router.post("/practice/changes/{id}/delete")
def delete_change(context: CurrentContext, id: int) -> Response:
    """Forget a change, undoably."""
    with context.undoable_transaction("Deleted a change of the kit"):
        practice.delete_change(context.uow, id)
    return context.back_to("/practice/hand")


def _page(context: RequestContext, form: ChangeForm, errors: dict[str, str], *, status: int = 200) -> Response:
    stored, personal, preferences = context.selected_setup(), context.personal(), context.preferences

    def compute() -> HandPage:
        shots = test_shots.shots_of_setup(context.uow, stored.id)
        return hand_page(
            stored, personal, context.observations(), practice.changes_of(context.uow, stored.id),
            practice.persons(context.uow), preferences.person, preferences.unit, form, errors,
            [one for one in shots if one.person == preferences.person],
        )  # fmt: skip

    what = ("hand page", context.selection.key, context.now().date(), preferences, personal.average)
    # What was typed wrong is of one request only.
    return context.page(
        "practice/hand/page.html", compute() if errors else context.cached(what, compute), status=status
    )
