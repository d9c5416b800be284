"""A drill: its page, a session of it, and one trial after the other."""

from __future__ import annotations

import secrets

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.responses import Response

from welotrope.core.errors import OutOfRangeError
from welotrope.core.practice.drills import Drill
from welotrope.core.units.distance import write_distance
from welotrope.store.queries import practice
from welotrope.store.queries.practice import NewDrill
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.practice.drill.context import aids_on, drill_page
from welotrope.web.rooms.practice.drill.form import TrialForm

router = APIRouter()
MOST_TRIALS = 500
_USUAL_FOCALS = 40  # how far off a tape drill is done unless told otherwise, in focal lengths


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
