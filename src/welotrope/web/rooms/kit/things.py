"""Bodies, lenses, mounts, adapters and attachments: making, changing and deleting, by the same routes for each kind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Annotated, Generic, Protocol, TypeVar

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.aids.registry import BODY_KINDS, kind_of
from welotrope.core.kit.attachment import Attachment, AttachmentKind
from welotrope.core.kit.body import Body, aid_texts, kind_typed, not_asked, with_screen
from welotrope.core.kit.camera_kind import FILM, UNKNOWN_KIND, CameraKind, usual_aids
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.lens_inputs import OF_A_JOINT, OF_A_RING
from welotrope.core.kit.mount import Mount
from welotrope.store.queries import kit, mounts
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import RecordForm, key_of, record_form
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.limits import local_path
from welotrope.web.rooms.kit.edit_page import EditPage, FormLimits, detour, form_from, way_back

BodyForm = record_form(Body)
LensForm = record_form(Lens)
MountForm = record_form(Mount)
AdapterForm = record_form(Adapter)
AttachmentForm = record_form(Attachment)


def with_usual_aids(form: RecordForm) -> RecordForm:
    """Return a body's form with the aids that its kind usually has, marked typical, unless some were typed."""
    texts = form.model_dump()
    camera = kind_typed(texts)
    usual = aid_texts(usual_aids(camera))
    if camera is UNKNOWN_KIND or any(texts[name] for name in usual):
        return form
    return form.model_copy(update={**usual, "typical": [kind_of(aid).tag for aid in camera.usual]})


def adapter_between(lens: Lens, body: Body) -> RecordForm:
    """Return an empty adapter from a lens's mount to a body's."""
    sides = lens.mount.name if lens.mount else "", body.mount.name if body.mount else ""
    return AdapterForm.model_validate({"lens_side": sides[0], "body_side": sides[1] if sides[0] != sides[1] else ""})


class Named(Protocol):
    """Anything the photographer has named."""

    @property
    def name(self) -> str:
        """What it is called."""


ValueT = TypeVar("ValueT", bound=Named)


@dataclass(frozen=True, kw_only=True)
class Thing(Generic[ValueT]):
    """A kind of thing: its words, page, form, and how it is read and stored.

    ``form`` is made from its record; ``first`` is the form to begin with, ``completed`` fills in what a choice in it
    usually brings, ``chosen_by`` is what a choice among such things sends.
    """

    noun: str
    plural: str
    template: str
    form: type[RecordForm]
    get: Callable[[UnitOfWork, int], ValueT]
    save: Callable[[UnitOfWork, ValueT, int | None], int]
    delete: Callable[[UnitOfWork, int], None]
    first: Callable[[RequestContext], RecordForm]
    completed: Callable[[RecordForm], RecordForm] = lambda form: form
    chosen_by: Callable[[ValueT, int], str] = lambda value, _id: value.name

    @property
    def title(self) -> str:
        """What a page of a new one is called."""
        return f"{'An' if self.noun[0] in 'aeiou' else 'A'} {self.noun}"

    def path(self, *, id: int | None = None) -> str:
        """Return the path of the whole kind, or of one."""
        return f"/kit/{self.plural}" + (f"/{id}" if id is not None else "")


def crud_routes(thing: Thing[ValueT]) -> APIRouter:
    """Return the routes of a kind of thing."""
    router = APIRouter()

    @router.get(thing.path() + "/new")
    def new(context: CurrentContext) -> Response:
        form = thing.completed(form_from(thing.form, context.request.query_params, thing.first(context)))
        return context.page(thing.template, _page(thing, context, form, None, thing.title))

    @router.get(thing.path() + "/{id}")
    def edit(context: CurrentContext, id: int) -> Response:
        value = thing.get(context.uow, id)
        form = form_from(thing.form, context.request.query_params, thing.form.of(value))
        return context.page(thing.template, _page(thing, context, form, id, value.name))

    @router.post(thing.path() + "/detour")
    def leave(context: CurrentContext) -> Response:
        id = key_of(str(context.typed.get("id", "")))
        own = "/start" if context.typed.get("step") else thing.path(id=id) if id is not None else f"{thing.path()}/new"
        return context.go(detour(own, thing.form.read(context.typed), context.typed, {}))

    @router.post(thing.path())
    def create(context: CurrentContext) -> Response:
        return _save(thing, context, None)

    @router.post(thing.path() + "/{id}")
    def update(context: CurrentContext, id: int) -> Response:
        return _save(thing, context, id)

    @router.post(thing.path() + "/{id}/delete")
    def delete(context: CurrentContext, id: int) -> Response:
        with context.undoable_transaction(f"Deleted {thing.noun} {thing.get(context.uow, id).name}"):
            thing.delete(context.uow, id)
        return context.back_to("/kit")

    return router


def known_mounts(context: RequestContext) -> dict[str, Mount]:
    """Return every mount by its name."""
    return {mount.name: mount for _, mount, _ in mounts.list_mounts(context.uow)}


def _save(thing: Thing[ValueT], context: RequestContext, id: int | None) -> Response:
    data = context.typed
    form = thing.form.read(data)
    value, errors = form.value(known_mounts(context))
    if value is None:
        page = _page(
            thing, context, form, id, _title(thing, context, id), errors=errors, step=str(data.get("step", ""))
        )
        return context.page(thing.template, page, status=422)
    try:
        with context.undoable_transaction(f"{'Added' if id is None else 'Changed'} {thing.noun} {value.name}"):
            key = thing.save(context.uow, value, id)
    except WelotropeError as error:
        page = _page(thing, context, form, id, _title(thing, context, id), errors={"name": error.sentence})
        return context.page(thing.template, page, status=422)
    back = way_back(data, thing.chosen_by(value, key))
    return context.back_to(back or ("/start" if data.get("step") else "/kit"))


def _title(thing: Thing[ValueT], context: RequestContext, id: int | None) -> str:
    return thing.title if id is None else thing.get(context.uow, id).name


def _page(
    thing: Thing[ValueT],
    context: RequestContext,
    form: RecordForm,
    id: int | None,
    title: str,
    *,
    errors: dict[str, str] | None = None,
    step: str = "",
) -> EditPage[RecordForm]:
    names = [mount.name for _, mount, _ in mounts.list_mounts(context.uow)]
    stored = kit.get_body(context.uow, id) if id is not None and thing.noun == "body" else None
    limits = FormLimits()
    if thing.noun == "body":
        form, camera = _of_its_kind(form, stored)
        film = form.model_dump()["medium"] == FILM
        possible = [kind.tag for kind in BODY_KINDS if camera.can_have(kind.tag) and not (film and kind.live)]
        options = {"finder": camera.finders, "typical": tuple(possible)}
        limits = FormLimits(skipped=not_asked(camera, film=film), options=options)
    elif thing.noun == "lens":
        limits = FormLimits(skipped=_no_answer_on(_cameras_of(context, id)))
    elif thing.noun == "attachment" and id is None and "mount" in _no_answer_on(_cameras_of(context, None)):
        # Nothing goes behind a lens that stays on.
        limits = FormLimits(skipped=frozenset({"least", "most"}), options={"kind": (AttachmentKind.CLOSEUP.value,)})
    return EditPage(
        form=form, action=thing.path(id=id), title=title, id=id, errors=errors or {}, step=step, mounts=names,
        screens=stored.traits.screens if stored and "screens" not in limits.skipped else (), limits=limits,
        back=local_path(_said(context, "back"), otherwise=""), fills=_said(context, "fills"),
        detour=thing.path() + "/detour",
    )  # fmt: skip


def _cameras_of(context: RequestContext, id: int | None) -> list[CameraKind]:
    """Return the kinds of camera a lens is on; of a new one, the kind in hand."""
    held = context.find_selected_setup()
    if id is None:
        return [held.setup.body.kind] if held is not None else []
    return [stored.setup.body.kind for stored in kit.list_setups(context.uow) if stored.lens_id == id]


def _no_answer_on(cameras: list[CameraKind]) -> frozenset[str]:
    """Return the names of the inputs of a lens that none of the cameras it is on has an answer to."""
    joint = OF_A_JOINT if cameras and not any(camera.has_mount for camera in cameras) else frozenset()
    ring = OF_A_RING if cameras and not any(camera.turns for camera in cameras) else frozenset()
    return joint | ring


def _of_its_kind(form: RecordForm, stored: Body | None) -> tuple[RecordForm, CameraKind]:
    """Return a body's form with what its kind decides filled in, and the kind."""
    texts = form.model_dump()
    camera = kind_typed(texts)
    if camera is UNKNOWN_KIND and stored is not None:
        camera = stored.kind
    medium = camera.media[0] if len(camera.media) == 1 else str(texts["medium"])
    filled = form.model_copy(update={"kind": camera.id.value, "medium": medium})
    return filled, camera


def _said(context: RequestContext, name: str) -> str:
    return str(context.typed.get(name) or context.request.query_params.get(name, ""))


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
