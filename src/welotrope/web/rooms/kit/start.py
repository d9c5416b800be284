"""The short way in: a first kit, another camera, another lens; and the long one, every field of it."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.inputs import FormInput, read_record, shown_at
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import CAMERA_KINDS, CameraKind, Viewing
from welotrope.core.kit.joint import adapters_between
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.units.distance import Unit, write_distance
from welotrope.store.queries import kit, mounts
from welotrope.web.forms import RecordForm, key_of
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.request.preferences import remember
from welotrope.web.rooms.kit.edit_page import EditPage, form_from
from welotrope.web.rooms.kit.setup import SetupForm, load_parts, setup_page
from welotrope.web.rooms.kit.start_form import (
    MADE_FOR,
    UNKNOWN,
    AddedCamera,
    AddedLens,
    AddedLensForm,
    CameraForm,
    FirstAsked,
    FirstForm,
    SceneAsked,
)
from welotrope.web.rooms.kit.things import BodyForm, LensForm, first_lens


def add_lens_page(
    data: AddLensData, asked: int | None, typed: FormData, *, errors: dict[str, str] | None = None
) -> AddLensPage | None:
    """Return the page for the body asked for, else the one at hand, else the first; None without any body."""
    bodies = data.bodies
    if not bodies:
        return None
    wanted = next((id for id in (asked, data.body_in_hand) if id in dict(bodies)), bodies[0][0])
    body = dict(bodies)[wanted]
    fitting = adapters_between(data.adapters, None, body.mount) if body.kind.has_mount else []
    own = body.kind.viewing is not Viewing.SENSOR or not body.kind.has_mount
    usual = MADE_FOR if own else str(fitting[0][0]) if fitting else UNKNOWN
    form = AddedLensForm.read(typed) if typed else AddedLensForm.model_validate({"joined": usual})
    return AddLensPage(
        form=form, bodies=bodies, body_id=wanted, body=body, adapters=fitting, errors=errors or {}
    )  # fmt: skip


@dataclass(frozen=True)
class AddLensData:
    """Bodies and adapters, each with its key, and the key of the body in hand."""

    bodies: list[tuple[int, Body]]
    adapters: list[tuple[int, Adapter]]
    body_in_hand: int | None


def load_add_lens(context: RequestContext) -> AddLensData:
    """Read what a further lens may go on, and by what."""
    held = context.find_selected_setup()
    return AddLensData(kit.list_bodies(context.uow), mounts.list_adapters(context.uow), held.body_id if held else None)


def read_added_lens(context: RequestContext) -> tuple[AddedLens | None, dict[str, str]]:
    """Return the lens that was typed, or None with an error sentence per field."""
    form = AddedLensForm.read(context.typed)
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


@dataclass(frozen=True, kw_only=True)
class StartPage:
    """The form of a newcomer, or of another camera."""

    form: RecordForm
    errors: dict[str, str] = field(default_factory=dict)
    kinds: tuple[CameraKind, ...] = CAMERA_KINDS


@dataclass(frozen=True, kw_only=True)
class AddLensPage:
    """The form of another lens: the cameras it may be for, the one chosen, and what may join the two."""

    form: RecordForm
    bodies: list[tuple[int, Body]]
    body_id: int
    body: Body
    adapters: list[tuple[int, Adapter]]
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def ways(self) -> list[tuple[str, str]]:
        """How it may go on, as pairs of value and words."""
        by = [(str(key), f"by {adapter.name}, for {adapter.lens_side.name} lenses") for key, adapter in self.adapters]
        made, unknown = next(one.options for one in self.form.inputs("joint"))
        return [made, *by, unknown]


router = APIRouter()


@router.get("/start")
def start(context: CurrentContext) -> Response:
    """Ask a newcomer for the least; once something is entered, for the step that is still missing."""
    if kit.list_bodies(context.uow) or kit.list_lenses(context.uow):
        return start_by_fields(context)
    return context.page("kit/start/page.html", StartPage(form=FirstForm()))


@router.post("/start")
def take_first(context: CurrentContext) -> Response:
    """Make the first kit with typical values, take it in hand and answer the first question."""
    form = FirstForm.read(context.typed)
    asked, errors = read_record(FirstAsked, FormInput(texts=form.model_dump(), bare=context.numbers_in))
    if asked is None:
        return context.page("kit/start/page.html", StartPage(form=form, errors=errors), status=422)
    try:
        with context.undoable_transaction("Started with a first kit"):
            body = kit.save_body(context.uow, asked.camera.body())
            lens = kit.save_lens(context.uow, asked.lens.lens(asked.camera.kind))
            context.select_setup(kit.save_setup(context.uow, body, lens, SharpnessStandard()))
    except WelotropeError as error:
        page = StartPage(form=form, errors={shown_at(FirstAsked, error): error.sentence})
        return context.page("kit/start/page.html", page, status=422)
    answer = context.back_to(f"/plan?{urlencode(_subjects(asked.scene))}")
    if asked.lens.units == (Unit.FEET,):
        remember(answer, "unit", Unit.FEET.value)  # who has only feet to set reads feet first
    return answer


def _subjects(scene: SceneAsked) -> list[tuple[str, str]]:
    near, far = write_distance(scene.near_mm), write_distance(scene.far_mm)
    if scene.near_mm == scene.far_mm:
        return [("name", "subject"), ("distance", near)]
    return [("name", "nearest"), ("distance", near), ("name", "farthest"), ("distance", far)]


@router.get("/kit/add/camera")
def ask_camera(context: CurrentContext) -> Response:
    """Ask for another camera in short."""
    return context.page("kit/start/camera.html", StartPage(form=CameraForm()))


@router.post("/kit/add/camera")
def add_camera(context: CurrentContext) -> Response:
    """Add a camera with the typical values of its kind, and go on to a lens for it."""
    form = CameraForm.read(context.typed)
    asked, errors = read_record(AddedCamera, FormInput(texts=form.model_dump(), bare=context.numbers_in))
    if asked is None:
        return context.page("kit/start/camera.html", StartPage(form=form, errors=errors), status=422)
    body = asked.camera.body(name=asked.name)
    with context.undoable_transaction(f"Added body {body.name}"):
        key = kit.save_body(context.uow, body)
    return context.back_to(f"/kit/add/lens?body={key}")


@router.get("/kit/add/lens")
def ask_lens(context: CurrentContext) -> Response:
    """Ask for another lens in short, for the body at hand or the one asked for; without any body, for that first."""
    page = _lens_page(context)
    return context.go("/kit/add/camera") if page is None else context.page("kit/start/lens.html", page)


@router.post("/kit/add/lens")
def add_lens(context: CurrentContext) -> Response:
    """Add a lens, join it to its body, and take the set-up in hand."""
    asked, errors = read_added_lens(context)
    page = _lens_page(context, errors=errors)
    if page is None:
        return context.go("/kit/add/camera")
    if asked is None:
        return context.page("kit/start/lens.html", page, status=422)
    try:
        with context.undoable_transaction("Added a lens and a set-up"):
            save_lens_for(context, page.body_id, page.body, asked)
    except WelotropeError as error:
        page = _lens_page(context, errors={shown_at(type(asked), error): error.sentence})
        return context.page("kit/start/lens.html", page, status=422)
    return context.back_to("/scale")


def _lens_page(context: RequestContext, *, errors: dict[str, str] | None = None) -> AddLensPage | None:
    asked = key_of(str(context.typed.get("body") or context.request.query_params.get("body", "")))
    return add_lens_page(load_add_lens(context), asked, context.typed, errors=errors)


@router.get("/start/fields")
def start_by_fields(context: CurrentContext) -> Response:
    """Show the first step that is still missing, every field of it; with a set-up, go to its ring."""
    query = context.request.query_params
    bodies, lenses = kit.list_bodies(context.uow), kit.list_lenses(context.uow)
    if context.find_selected_setup() is not None:
        return context.go("/scale")
    names = [mount.name for _, mount, _ in mounts.list_mounts(context.uow)]
    if not bodies:
        body = form_from(BodyForm, query, BodyForm())
        body_page = EditPage(
            form=body, action="/kit/bodies", title="Your camera", step="1", mounts=names, detour="/kit/bodies/detour"
        )
        return context.page("kit/things/body.html", body_page)
    if not lenses:
        lens = form_from(LensForm, query, first_lens(context))
        lens_page = EditPage(
            form=lens, action="/kit/lenses", title="Your lens", step="2", mounts=names, detour="/kit/lenses/detour"
        )
        return context.page("kit/things/lens.html", lens_page)
    form = form_from(SetupForm, query, SetupForm(body_id=str(bodies[0][0]), lens_id=str(lenses[0][0])))
    return context.page("kit/setup/page.html", setup_page(load_parts(context), form, None, {}, step="3"))
