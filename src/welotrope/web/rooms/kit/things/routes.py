"""Bodies, lenses, mounts, adapters and attachments."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError
from welotrope.core.kit.body import with_screen
from welotrope.store.queries import kit, mounts
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.kit.things.crud import Thing, crud_routes
from welotrope.web.rooms.kit.things.forms import (
    AdapterForm,
    AttachmentForm,
    BodyForm,
    LensForm,
    MountForm,
    adapter_between,
    with_usual_aids,
)

router = APIRouter()


def first_lens(context: RequestContext) -> RecordForm:
    """Return an empty lens of the mount of the body at hand: a lens of one's own for it, until another is chosen."""
    stored = context.find_selected_setup()
    bodies = [stored.setup.body] if stored else [body for _, body in kit.list_bodies(context.uow)]
    mount = next((body.mount.name for body in bodies if body.mount), "")
    return LensForm.model_validate({"mount": mount})


def first_adapter(context: RequestContext) -> RecordForm:
    """Return an empty adapter between the two mounts at hand."""
    stored = context.find_selected_setup()
    return adapter_between(stored.setup.lens, stored.setup.body) if stored else AdapterForm()


BODY = Thing(
    noun="body", plural="bodies", template="kit/things/body.html", form=BodyForm, first=lambda _desk: BodyForm(),
    get=kit.get_body, save=kit.save_body, delete=kit.delete_body, completed=with_usual_aids,
)  # fmt: skip
LENS = Thing(
    noun="lens", plural="lenses", template="kit/things/lens.html", form=LensForm, first=first_lens,
    get=kit.get_lens, save=kit.save_lens, delete=kit.delete_lens,
)  # fmt: skip
MOUNT = Thing(
    noun="mount", plural="mounts", template="kit/things/mount.html", form=MountForm, first=lambda _desk: MountForm(),
    get=mounts.get_mount, save=mounts.save_mount, delete=mounts.delete_mount,
)  # fmt: skip
ADAPTER = Thing(
    noun="adapter", plural="adapters", template="kit/things/adapter.html", form=AdapterForm, first=first_adapter,
    get=mounts.get_adapter, save=mounts.save_adapter, delete=mounts.delete_adapter,
    chosen_by=lambda _adapter, id: str(id),
)  # fmt: skip
ATTACHMENT = Thing(
    noun="attachment", plural="attachments", template="kit/things/attachment.html", form=AttachmentForm,
    first=lambda _desk: AttachmentForm(), get=mounts.get_attachment, save=mounts.save_attachment,
    delete=mounts.delete_attachment,
)  # fmt: skip


@router.post("/kit/bodies/{id}/screen")
def fit_screen(context: CurrentContext, id: int, name: Annotated[str, Form()]) -> Response:
    """Put one of a body's screens in, undoably: its brightness and split image become those of the aids."""
    body = kit.get_body(context.uow, id)
    screen = next((screen for screen in body.traits.screens if screen.name == name), None)
    if screen is None:
        raise UnreadableError("screen", name, "the body has no such screen", "Choose one of those entered with it")
    with context.undoable_transaction(f"Fitted the screen “{name}” in {body.name}"):
        kit.save_body(context.uow, with_screen(body, screen), id=id)
    return context.back_to(f"/kit/bodies/{id}")


_SAME_FIVE = (crud_routes(ATTACHMENT), crud_routes(BODY), crud_routes(LENS), crud_routes(MOUNT), crud_routes(ADAPTER))
router.routes.extend(route for one in _SAME_FIVE for route in one.routes)
