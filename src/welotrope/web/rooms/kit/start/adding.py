"""A further lens: for which camera, how it goes on, and what is stored of it."""

from __future__ import annotations

from dataclasses import replace

from welotrope.core.inputs import FormInput, read_record
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import Viewing
from welotrope.core.kit.joint import adapters_between
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.store.queries import kit, mounts
from welotrope.web.forms.text_form import key_of
from welotrope.web.request.context import RequestContext
from welotrope.web.rooms.kit.start.context import AddLensPage
from welotrope.web.rooms.kit.start.form import MADE_FOR, UNKNOWN, AddedLens, LensForm


def add_lens_page(context: RequestContext, *, errors: dict[str, str] | None = None) -> AddLensPage | None:
    """Return the page for the body asked for, else the one at hand, else the first; None without any body."""
    bodies = kit.list_bodies(context.uow)
    if not bodies:
        return None
    asked = key_of(str(context.typed.get("body") or context.request.query_params.get("body", "")))
    held = context.find_selected_setup()
    wanted = next((id for id in (asked, held.body_id if held else None) if id in dict(bodies)), bodies[0][0])
    body = dict(bodies)[wanted]
    fitting = adapters_between(mounts.list_adapters(context.uow), None, body.mount) if body.kind.has_mount else []
    own = body.kind.viewing is not Viewing.SENSOR or not body.kind.has_mount
    usual = MADE_FOR if own else str(fitting[0][0]) if fitting else UNKNOWN
    form = LensForm.read(context.typed) if context.typed else LensForm.model_validate({"joined": usual})
    return AddLensPage(
        form=form, bodies=bodies, body_id=wanted, body=body, adapters=fitting, errors=errors or {}
    )  # fmt: skip


def read_added_lens(context: RequestContext) -> tuple[AddedLens | None, dict[str, str]]:
    """Return the lens that was typed, or None with an error sentence per field."""
    form = LensForm.read(context.typed)
    return read_record(AddedLens, FormInput(texts=form.model_dump(), bare=context.numbers_in))


def save_lens_for(context: RequestContext, body_id: int, body: Body, asked: AddedLens) -> None:
    """Store a lens and its set-up on a body, judged by the standard at hand, and take it in hand.

    Raises
    ------
    NotFoundError, WelotropeError
        When the adapter is gone, or the lens cannot be.
    """
    lens = asked.lens.lens(body.kind, name=asked.name)
    joint, held = kit.JointKeys(), context.find_selected_setup()
    if asked.joined == MADE_FOR and body.kind.has_mount:
        lens, joint = replace(lens, mount=body.mount), kit.JointKeys(made_for_body=True)
    elif (key := key_of(asked.joined)) is not None:
        lens, joint = replace(lens, mount=mounts.get_adapter(context.uow, key).lens_side), kit.JointKeys(key)
    standard = held.setup.standard if held and held.body_id == body_id else SharpnessStandard()
    lens_id = kit.save_lens(context.uow, lens)
    context.select_setup(kit.save_setup(context.uow, body_id, lens_id, standard, joint=joint))
