"""/scale/measure: take readings of the ring, see what they give, keep them."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.ring.survey import ReadingUnit, SurveyKind
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.ring_records import RecordKind, forget_record, get_record, save_record
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.scale.measure.context import measure_page
from welotrope.web.rooms.scale.measure.form import MeasureForm

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
