"""Planning for the subjects of a scene."""

from __future__ import annotations

import dataclasses
import math
from dataclasses import dataclass, field
from typing import TypeVar

from fastapi import APIRouter
from starlette.datastructures import QueryParams
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.optics.blur import diffraction_limited_stop
from welotrope.core.optics.thin_lens import Datum
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.framing import FieldOfView, field_of_view
from welotrope.core.plan.scene_plan import FocusSchool, ScenePlan, StopSchool, plan_scene
from welotrope.core.plan.setting import (
    MAX_SUBJECTS,
    Subject,
    check_count,
    indicator_words,
    parse_subject_token,
    preset_words,
    subject_token,
)
from welotrope.core.plan.zone_set import lens_at
from welotrope.core.plan.zones import frame_stack
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.turn import turn_text
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ground import GroundView, ground_view
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.state.aim import Aim
from welotrope.web.state.ring_state import RingState

School = TypeVar("School", FocusSchool, StopSchool)
_MOST_FRAMES = 12


@dataclass(frozen=True)
class SubjectRow:
    """One row of the form as typed, with its error and how it was understood."""

    name: str
    distance: str
    error: str = ""
    understood: float | None = None


@dataclass(frozen=True, kw_only=True)
class Refused:
    """A preset that was not kept: what was sent, why, and whether the name is another's."""

    name: str
    problem: str
    at: str
    stop: str
    taken: bool
    tokens: tuple[str, ...]
    back: str


@dataclass(frozen=True, kw_only=True)
class PlanForm:
    """The form: rows as typed, the subjects that could be read, and the schools."""

    rows: tuple[SubjectRow, ...]
    subjects: tuple[Subject, ...]
    focus: FocusSchool
    stop_rule: StopSchool
    own_stop: str = ""
    refused: Refused | None = None
    errors: dict[str, str] = field(default_factory=dict)

    def own_stop_of(self, stops: tuple[float, ...]) -> float:
        """Return the stop one has, among those marked; the widest where none of them is said."""
        return next((stop for stop in stops if f"{stop:g}" == self.own_stop), min(stops))


def read_plan(query: QueryParams, bare: Unit, *, usual: tuple[Subject, ...] = ()) -> PlanForm:
    """Read ``name``/``distance`` pairs, or else ``subject`` tokens as the other rooms pass them, or else ``usual``.

    A distance without a unit is in ``bare``.
    """
    typed = list(zip(query.getlist("name"), query.getlist("distance"), strict=False))
    if "distance" not in query:
        tokens = query.getlist("subject") or [subject_token(subject) for subject in usual]
        typed = [_typed(token) for token in tokens]
    rows, subjects = [], []
    for number, (name, distance) in enumerate(typed[:MAX_SUBJECTS], start=1):
        name, distance = name.strip()[:40], distance.strip()
        if not name and not distance:
            continue
        label = name or f"subject {number}"
        try:
            mm = parse_distance(distance, field=f"distance of {label}", bare=bare)
        except WelotropeError as error:
            rows.append(SubjectRow(name, distance[:200], error.sentence))
            continue
        rows.append(SubjectRow(name, distance, "", mm))
        subjects.append(Subject(name, mm))
    errors = {}
    try:
        check_count(len(typed))
    except WelotropeError as error:
        errors["subjects"] = error.sentence
    return PlanForm(
        rows=tuple(rows),
        subjects=tuple(subjects),
        focus=_school(FocusSchool, query.get("focus")),
        stop_rule=_school(StopSchool, query.get("stop_rule")),
        own_stop=query.get("own_stop", "")[:10],
        errors=errors,
    )


def _typed(token: str) -> tuple[str, str]:
    try:
        subject = parse_subject_token(token)
    except WelotropeError:
        return token[:40], ""
    return subject.name, write_distance(subject.distance_mm)


def _school(kind: type[School], text: str | None) -> School:
    return kind(text) if text in set(kind) else next(iter(kind))


@dataclass(frozen=True, kw_only=True)
class PlanPage:
    """The Plan room; ``plan`` and the drawings are None until the form holds subjects that can be planned for."""

    stored: StoredSetup
    form: PlanForm
    plan: ScenePlan | None
    problem: str
    ring: RingView | None
    ground: GroundView | None
    state: RingState | None
    presets: list[tuple[Preset, str]]
    indicator: str
    airy_stop: float
    unit: Unit
    focus_schools: tuple[FocusSchool, ...] = tuple(FocusSchool)
    stop_schools: tuple[StopSchool, ...] = tuple(StopSchool)

    @property
    def bracket(self) -> tuple[float, ...]:
        """Distances, mm, of frames that hold all of it together, where one does not; empty where one does."""
        if self.plan is None or self.plan.slack_deg is not None or len(self.form.subjects) < 2:
            return ()
        near, far = (end(one.distance_mm for one in self.form.subjects) for end in (min, max))
        stack = frame_stack(lens_at(self.stored.setup, self.plan.setting.stop), near, far)
        return tuple(frame.focus_mm for frame in stack.frames)[:_MOST_FRAMES]

    @property
    def frame_of(self) -> FieldOfView | None:
        """What the picture holds where it is focused."""
        if self.plan is None or math.isinf(self.plan.setting.focus_mm):
            return None
        setup, ring = self.stored.setup, self.stored.setup.ring()
        return field_of_view(
            setup.body.image, self.plan.setting.focus_mm, ring.focal_mm, Datum.FILM, h=ring.h_mm, beyond=ring.beyond
        )

    @property
    def rows(self) -> tuple[SubjectRow, ...]:
        """The rows as typed, with empty ones to fill in."""
        spare = 1 if len(self.form.rows) >= 2 else 3 - len(self.form.rows)
        return (*self.form.rows, *[SubjectRow("", "")] * spare)

    @property
    def any_stop(self) -> bool:
        """Whether the widest stop holds the scene with nearly all of it to spare: one distance, or almost."""
        return self.plan is not None and self.plan.zone.stop_exact < self.stored.setup.lens.widest / 4

    @property
    def slack(self) -> str:
        """How far the ring may be off before an end of the zone is soft: the smaller of the two ways."""
        if self.plan is None or self.plan.slack_deg is None:
            return "nothing"
        return f"±{turn_text(min(self.plan.slack_deg), self.stored.setup.turn_in)}"

    @property
    def slack_words(self) -> str:
        """Both ways of it, in words."""
        if self.plan is None or self.plan.slack_deg is None:
            return "part of the zone is outside already"
        step = self.stored.setup.turn_in
        farther, nearer = (turn_text(one, step) for one in self.plan.slack_deg)
        return f"{farther} towards ∞, {nearer} towards the close end, before a subject is no longer sharp"

    @property
    def tokens(self) -> list[str]:
        """The subjects as URL tokens."""
        return [subject_token(subject) for subject in self.form.subjects]


def plan_page(stored: StoredSetup, form: PlanForm, presets: list[Preset], aim: Aim, unit: Unit) -> PlanPage:
    """Compute the Plan room."""
    setup = stored.setup
    plan, problem = None, ""
    if form.subjects:
        try:
            plan = plan_scene(
                setup,
                form.subjects,
                focus=form.focus,
                stop_rule=form.stop_rule,
                own_stop=form.own_stop_of(setup.lens.stops),
            )
        except WelotropeError as error:
            problem = error.sentence
    ring = ground = state = None
    if plan is not None:
        at = plan.setting
        ring = ring_view(setup, at.angle_deg, at.stop, presets, unit)
        ground = ground_view(setup.lens.closest_mm, at.focus_mm, at.near_mm, at.far_mm, list(plan.placements), unit)
        state = RingState(
            distance_mm=at.focus_mm, angle_deg=at.angle_deg, stop=at.stop, subjects=form.subjects, aim=aim
        )
    airy_stop = diffraction_limited_stop(setup.blur_mm)
    named = [(preset, preset_words(setup, preset.distance_mm, preset.stop)) for preset in presets]
    indicator = indicator_words(setup, plan.setting.angle_deg, plan.setting.stop) if plan else ""
    return PlanPage(
        stored=stored, form=form, plan=plan, problem=problem, ring=ring, ground=ground, state=state, presets=named,
        indicator=indicator, airy_stop=airy_stop, unit=unit,
    )  # fmt: skip


router = APIRouter()


def show(context: RequestContext, query: QueryParams, *, status: int = 200, refused: Refused | None = None) -> Response:
    """Show the scene a query describes, with a preset that was refused."""
    stored = context.selected_setup()
    saved = context.presets()
    usual = next((preset.subjects for preset in reversed(saved) if preset.subjects), ())
    form = read_plan(query, context.numbers_in, usual=usual)
    if refused:
        form = dataclasses.replace(form, refused=refused)
    page = plan_page(stored, form, saved, context.aim(), context.preferences.unit)
    return context.page("plan/scene/page.html", page, query=page.state.query if page.state else "", status=status)


@router.get("/plan")
def plan(context: CurrentContext) -> Response:
    """Plan the scene the URL describes, or offer an empty form."""
    return show(context, context.request.query_params)
