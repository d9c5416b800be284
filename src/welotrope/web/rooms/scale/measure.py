"""/scale/measure: take readings of the ring, see what they give, keep them."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import OutOfRangeError, WelotropeError
from welotrope.core.inputs import FormInput, Input, Reader, Text, attributes_of, inputs_of, shown_at, take_all, texts_of
from welotrope.core.kit.known_ring import calibrate_lens
from welotrope.core.ring.calibration import Calibration, Model
from welotrope.core.ring.survey import MAX_POINTS, READ_BY, Point, ReadingUnit, Survey, SurveyKind, asked_by
from welotrope.core.ring.true_infinity import thickness_error
from welotrope.core.units.distance import Unit, format_distance
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import RecordKind, StoredRecord, forget_record, get_record, save_record
from welotrope.web.components.plot import ResidualPlot, residual_plot
from welotrope.web.forms import RecordForm, asks_for
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.scale.rows import Row, RowsForm, columns_of, padded, read_rows

_PAIR = re.compile(r"^\s*([^:;\t]+?)\s*[:;\t]\s*(.+?)\s*$")
_EXTRA_ROWS = 4


@asks_for(Survey)
class MeasureForm(RecordForm, RowsForm):
    """Fields as typed; ``position``, ``distance`` and ``use`` are columns of the table."""

    # Of the survey, as typed.
    way: str = ""
    kind: str = ""
    diameter: str = ""
    paste: str = ""
    intent: str = ""
    position: list[str] = []
    distance: list[str] = []
    use: list[str] = []

    @classmethod
    def of_survey(cls, survey: Survey) -> MeasureForm:
        """Fill the form from a survey."""
        texts: dict[str, Text | list[Text]] = {**texts_of(survey), **columns_of(Point, survey.points)}
        return cls.model_validate(texts)

    @property
    def read_by(self) -> ReadingUnit:
        """How the ring is read."""
        found: ReadingUnit = READ_BY.read(self.way, self._as_typed)
        return found

    @property
    def asked(self) -> dict[str, Input]:
        """What is asked for besides the readings, by name, as it is asked for when the ring is read this way."""
        return {one.name: asked_by(one, self.read_by) for one in inputs_of(Survey)}

    @property
    def columns(self) -> tuple[Input, ...]:
        """What is asked for in a row."""
        return tuple(asked_by(one, self.read_by) for one in inputs_of(Point))

    @property
    def rows(self) -> list[Row]:
        """The table's rows, blank ones after them."""
        return padded(self._rows(), self.columns, more=_EXTRA_ROWS if self.intent == "rows" else 0)

    def survey(self, typed: FormInput) -> tuple[Survey | None, dict[str, str], list[str]]:
        """Return the survey, or None with an error per field and a sentence per row."""
        reader = Reader()
        values = take_all(Survey, reader, replace(typed, texts=self.model_dump()))
        if len(self._rows()) > MAX_POINTS:
            return None, reader.errors, [_too_many(len(self._rows()))]
        points, problems = read_rows(Point, self._rows(), "Reading", typed)
        if reader.errors or problems:
            return None, reader.errors, problems
        if values["way"] is ReadingUnit.STEPS:
            values["kind"] = SurveyKind.MEASURED
        try:
            return Survey(points=tuple(points), **values), {}, []
        except WelotropeError as error:
            known = {key for _, one in attributes_of(Survey) for key in (one.field.key, *one.also)}
            if error.key in known:
                return None, {shown_at(Survey, error): error.sentence}, []
            return None, {}, [error.sentence]

    @property
    def _as_typed(self) -> FormInput:
        return FormInput(texts=self.model_dump())

    def _rows(self) -> list[Row]:
        pasted = [_split(line) for line in self.paste.splitlines() if line.strip()]
        return [*self.rows_of(Point), *pasted]


def _too_many(count: int) -> str:
    return OutOfRangeError(
        "readings", f"{count} readings", "that is more than a ring needs", f"Give at most {MAX_POINTS}"
    ).sentence


def _split(line: str) -> Row:
    match = _PAIR.match(line)
    return (match[1], match[2], "") if match else (line.strip(), "", "")


@dataclass(frozen=True, kw_only=True)
class Answer:
    """What the readings give, in words and figures; scatter and throw in the unit they were read in."""

    headline: str
    calibration: Calibration
    plot: ResidualPlot
    outliers: tuple[str, ...]
    assumes: str
    adapter: str
    planes: str
    undecided: str
    steps: tuple[StepRow, ...]
    scatter: float
    throw: float
    symbol: str


@dataclass(frozen=True)
class StepRow:
    """A step of the indicator: distance in focus and the spread of its readings in mm, None for one reading."""

    step: str
    distance_mm: float
    spread_mm: float | None
    count: int


@dataclass(frozen=True, kw_only=True)
class MeasurePage:
    """The page: the form as typed, its troubles, and the answer when there is one."""

    stored: StoredSetup
    form: MeasureForm
    errors: dict[str, str]
    problems: list[str]
    answer: Answer | None
    saved: StoredRecord | None
    unit: Unit


def measure_page(
    stored: StoredSetup, form: MeasureForm, unit: Unit, typed: FormInput, saved: StoredRecord | None, *, work: bool
) -> tuple[MeasurePage, Survey | None]:
    """Compute the page; with ``work`` the form's readings are fitted. Returns it with the survey if it is usable.

    A form that was only turned over, with no button pressed, is asked for nothing it does not hold yet.
    """
    if not work:
        return MeasurePage(stored=stored, form=form, errors={}, problems=[], answer=None, saved=saved, unit=unit), None
    survey, errors, problems = form.survey(typed)
    answer = None
    if survey is not None:
        try:
            answer = _answer(stored, survey, unit)
        except WelotropeError as error:
            problems = [error.sentence]
            survey = None
    if not form.intent:
        errors, problems = {}, []
    return MeasurePage(
        stored=stored, form=form, errors=errors, problems=problems, answer=answer, saved=saved, unit=unit
    ), survey


def _answer(stored: StoredSetup, survey: Survey, unit: Unit) -> Answer:
    lens = stored.setup.lens
    calibration = calibrate_lens(lens, survey)
    return Answer(
        headline=_headline(calibration, survey, unit), calibration=calibration,
        plot=residual_plot(calibration, survey, unit),
        outliers=tuple(_outlier(survey, r.index, r.off_deg, r.used, unit) for r in calibration.outliers),
        assumes=_assumption(survey, lens.focal_mm), adapter=_adapter_words(stored, survey, calibration),
        planes=_planes_words(calibration), undecided=_undecided_words(calibration, survey, unit),
        steps=_step_rows(survey, calibration, lens.focal_mm) if survey.way is ReadingUnit.STEPS else (),
        scatter=calibration.rms_deg / survey.deg_per_unit, throw=calibration.ring.throw_deg / survey.deg_per_unit,
        symbol=survey.way.symbol,
    )  # fmt: skip


def _headline(calibration: Calibration, survey: Survey, unit: Unit) -> str:
    if survey.way is ReadingUnit.STEPS:
        ring = calibration.ring
        last = f"{ring.throw_deg / survey.deg_per_unit:.0f}"
        ends = (format_distance(mm, unit) for mm in (ring.farthest_mm, ring.closest_mm))
        return f"{last} steps from {' to '.join(ends)}, placed by {calibration.used} readings"
    model = {
        Model.HELICOID: "A plain helicoid",
        Model.CURVED: "Not a plain helicoid",
        Model.UNDECIDED: "helicoid or gentle curve, not to be told yet",
    }[calibration.model]
    figures = (
        f"{calibration.lead_mm:.2f} mm a turn{_interval(calibration)}, "
        f"infinity at {calibration.infinity_deg:.1f}° ± {calibration.infinity_half_deg:.1f}°"
    )
    return f"{figures}; {model}" if calibration.model is Model.UNDECIDED else f"{model}: {figures}"


def _planes_words(calibration: Calibration) -> str:
    h, half = calibration.h_mm, calibration.h_half_mm
    if h is None or half is None or abs(h) <= half:
        return ""
    return f"The readings fit best with the principal planes {h:.0f} mm apart (± {half:.0f})."


def _undecided_words(calibration: Calibration, survey: Survey, unit: Unit) -> str:
    """Say what would tell a helicoid from a curve, and that the readings hold either way."""
    if calibration.model is not Model.UNDECIDED or survey.way is ReadingUnit.STEPS:
        return ""
    asked = " and ".join(format_distance(mm, unit) for mm in calibration.to_read_mm)
    more = f" Read {asked} to tell." if asked else ""
    return (
        "These readings cannot tell a plain helicoid with its principal planes apart from a gently curved ring."
        f"{more} Between the readings both say the same within the interval given."
    )


def _interval(calibration: Calibration) -> str:
    if math.isinf(calibration.lead_high_mm):
        return " (too few readings to say how sure)"
    return f" ({calibration.lead_low_mm:.2f} to {calibration.lead_high_mm:.2f})"


def _outlier(survey: Survey, index: int, off_deg: float, used: bool, unit: Unit) -> str:
    amount = abs(off_deg) / survey.deg_per_unit
    shown = f"{amount:.1f}{survey.way.symbol}"
    side = "too near" if off_deg > 0 else "too far"
    left = "It still counts" if used else "It was left out"
    return f"The {survey.name(index, unit=unit)} point is off by {shown}, {side} on the ring: read again? {left}."


def _assumption(survey: Survey, focal_mm: float) -> str:
    if survey.kind is SurveyKind.ENGRAVED:
        return (
            f"From engraved distances alone this assumes that the engraving is right and that {focal_mm:g} mm is the "
            "true focal length: it gives the throw, and checks the spacing, not the distances."
        )
    return f"Assumes that {focal_mm:g} mm is the true focal length; the distances are yours."


def _adapter_words(stored: StoredSetup, survey: Survey, calibration: Calibration) -> str:
    setup = stored.setup
    if survey.kind is SurveyKind.ENGRAVED or survey.way is ReadingUnit.STEPS or calibration.model is Model.CURVED:
        return ""
    shim = thickness_error(calibration.infinity_deg, calibration.ring)
    if abs(calibration.infinity_deg) <= calibration.infinity_half_deg:
        return "Infinity is at the stop, as near as these readings tell."
    way = "too thick" if shim > 0 else "too thin"
    if not setup.pieces:
        return f"As if the lens sat {abs(shim):.2f} mm too {'far out' if shim > 0 else 'deep'}."
    words = f"As if the adapter were {abs(shim):.2f} mm {way}"
    if setup.joint_error_mm is not None:
        return f"{words}; by its thickness it is off by {setup.joint_error_mm:+.2f} mm."
    return f"{words}."


def _step_rows(survey: Survey, calibration: Calibration, focal_mm: float) -> tuple[StepRow, ...]:
    film = survey.film_distances(focal_mm)
    rows = []
    for position in sorted({point.position for point in survey.points}):
        own = [float(film[i]) for i, point in enumerate(survey.points) if point.position == position]
        distance = float(calibration.ring.distance_at_angle(position * survey.deg_per_unit))
        spread = max(own) - min(own) if len(own) > 1 and math.isfinite(max(own)) else None
        rows.append(StepRow(f"{position:g}", distance, spread, len(own)))
    return tuple(rows)


router = APIRouter()


@router.get("/scale/measure")
def measure(context: CurrentContext) -> Response:
    """Show the readings kept, or an empty table set up for this lens."""
    stored = context.setup_as_read()
    kind = _asked_kind(context, stored)
    saved = get_record(context.uow, kind, stored.lens_id, stored.id)
    form = MeasureForm.of_survey(saved.record) if saved else _empty(stored, kind)
    page, _ = measure_page(stored, form, context.preferences.unit, context.form_input(), saved, work=saved is not None)
    return context.page("scale/measure/page.html", page)


@router.post("/scale/measure")
def work_out(context: CurrentContext) -> Response:
    """Work the readings out; keep them when asked to."""
    data = context.typed
    form = MeasureForm.read(data)
    return _work(context, form)


def _work(context: RequestContext, form: MeasureForm) -> Response:
    stored = context.setup_as_read()
    kind = (
        RecordKind.SCALE if form.kind == SurveyKind.ENGRAVED and form.way != ReadingUnit.STEPS else RecordKind.MEASURED
    )
    saved = get_record(context.uow, kind, stored.lens_id, stored.id)
    page, survey = measure_page(
        stored, form, context.preferences.unit, context.form_input(), saved, work=form.intent != "rows"
    )
    if survey is None or form.intent != "keep":
        troubled = bool(page.errors or page.problems)
        return context.page("scale/measure/page.html", page, status=422 if troubled else 200)
    with context.undoable_transaction(f"Saved {len(survey.points)} readings of {stored.setup.lens.name}"):
        save_record(context.uow, kind, stored.lens_id, stored.id, survey, context.now().date())
        if survey.diameter_mm is not None and stored.setup.lens.ring_diameter_mm is None:
            kit.remember_diameter(context.uow, stored.lens_id, survey.diameter_mm)
    return context.back_to(f"/scale/measure?record={kind.value}")


@router.post("/scale/measure/forget")
def forget(context: CurrentContext) -> Response:
    """Forget the readings kept, undoably."""
    stored = context.setup_as_read()
    data = context.typed
    kind = RecordKind.SCALE if data.get("record") == RecordKind.SCALE else RecordKind.MEASURED
    with context.undoable_transaction(f"Forgot the readings of {stored.setup.lens.name}"):
        forget_record(context.uow, kind, stored.lens_id, stored.id)
    return context.back_to("/scale/measure")


def _asked_kind(context: RequestContext, stored: StoredSetup) -> RecordKind:
    asked = context.request.query_params.get("record")
    if asked in (RecordKind.SCALE.value, RecordKind.MEASURED.value):
        return RecordKind(asked)
    return RecordKind.MEASURED if stored.setup.records.measured else RecordKind.SCALE


def _empty(stored: StoredSetup, kind: RecordKind) -> MeasureForm:
    """Return a blank form that suits the lens: engraved distances when it has a scale, else measured ones."""
    lens = stored.setup.lens
    scale = bool(lens.engraved_units) and kind is RecordKind.SCALE
    diameter = "" if lens.ring_diameter_mm is None else f"{lens.ring_diameter_mm:g}"
    if not stored.setup.body.kind.turns:
        return MeasureForm(kind=SurveyKind.MEASURED.value, way=ReadingUnit.STEPS.value)
    return MeasureForm(kind=(SurveyKind.ENGRAVED if scale else SurveyKind.MEASURED).value, diameter=diameter)
