"""Keeping settings as presets of the lens."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.datastructures import QueryParams
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.plan.setting import parse_subject_token
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.exposure import parse_stop
from welotrope.store.queries import ring_records
from welotrope.web.forms import required_name
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.limits import local_path
from welotrope.web.rooms.plan.scene import Refused, show
from welotrope.web.state.ring_state import RingState

router = APIRouter()


@router.post("/presets")
def keep_preset(
    context: CurrentContext,
    *,
    name: Annotated[str, Form()] = "",
    at: Annotated[str, Form()] = "",
    stop: Annotated[str, Form()] = "",
    subject: Annotated[list[str] | None, Form()] = None,
    back: Annotated[str, Form()] = "plan",
    replace: Annotated[str, Form()] = "",
) -> Response:
    """Keep a setting as a named preset of the lens in hand."""
    stored = context.selected_setup()
    tokens = subject or []
    try:
        label = required_name(name.strip(), "preset name", limit=40)
        ring = stored.setup.ring()
        distance = ring.check_reach(parse_distance(at, field="focus distance"), field="focus distance", read=at)
        number = parse_stop(stop)
        subjects = tuple(parse_subject_token(token) for token in tokens[:12])
        with context.undoable_transaction(f"Saved preset “{label}”"):
            ring_records.add_preset(
                context.uow, stored.lens_id, label, distance, number, subjects, replace=bool(replace)
            )
    except WelotropeError as error:
        typed = QueryParams([("subject", token) for token in tokens])
        taken = ring_records.preset_named(context.uow, stored.lens_id, name.strip()) is not None
        return show(
            context,
            typed,
            status=422,
            refused=Refused(
                name=name, problem=error.sentence, at=at, stop=stop, taken=taken, tokens=tuple(tokens), back=back
            ),
        )
    if back.startswith("/plan/"):
        return context.back_to(local_path(back, otherwise="/plan"))
    room = "scale" if back == "scale" else "plan"
    angle = ring.angle_at_distance(distance)
    state = RingState(distance_mm=distance, angle_deg=angle, stop=number, subjects=subjects, aim=context.aim())
    return context.back_to(f"/{room}?{state.query}")


@router.post("/presets/{id}/delete")
def delete_preset(context: CurrentContext, id: int) -> Response:
    """Delete a preset, undoably."""
    preset = ring_records.get_preset(context.uow, id)
    with context.undoable_transaction(f"Deleted preset “{preset.name}”"):
        ring_records.delete_preset(context.uow, id)
    return context.back_to("/kit")


@router.post("/presets/{id}/rename")
def rename_preset(context: CurrentContext, id: int, *, name: Annotated[str, Form()] = "") -> Response:
    """Rename a preset, undoably."""
    old = ring_records.get_preset(context.uow, id)
    label = required_name(name.strip(), "preset name", limit=40)
    with context.undoable_transaction(f"Renamed preset “{old.name}” to “{label}”"):
        ring_records.rename_preset(context.uow, id, label)
    return context.back_to("/kit")
