"""The Kit room: what is in hand, and making, changing and deleting bodies, lenses and set-ups."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.body import Body, with_screen
from welotrope.core.kit.fit import check_fit, checked_parts, verdict
from welotrope.core.kit.joint import joint_of
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.rules import Severity
from welotrope.store.queries import kit, mounts
from welotrope.web.desk import AtDesk, Desk
from welotrope.web.forms import key_of
from welotrope.web.record_form import RecordForm
from welotrope.web.rooms.kit.context import EditPage, FitView, kit_page, routes_to
from welotrope.web.rooms.kit.crud import Thing, crud_routes
from welotrope.web.rooms.kit.detour import detour, form_from
from welotrope.web.rooms.kit.kit_forms import AdapterForm, BodyForm, LensForm, MountForm
from welotrope.web.rooms.kit.setup_form import FIELD_OF, SetupForm, adapter_key

router = APIRouter()


@router.get("/kit")
def show_kit(desk: AtDesk) -> Response:
    """Open on the set-up in hand; an empty kit leads to the start page."""
    page = kit_page(desk.book, desk.preferences.unit)
    if not (page.bodies or page.lenses or page.changes):
        return desk.go("/start")
    return desk.page("kit.html", page, room="kit")


def first_lens(desk: Desk) -> RecordForm:
    """Return an empty lens of the mount of the body at hand: a lens of one's own for it, until another is chosen."""
    stored = kit.setup_in_hand(desk.book)
    bodies = [stored.setup.body] if stored else [body for _, body in kit.list_bodies(desk.book)]
    mount = next((body.mount.name for body in bodies if body.mount), "")
    return LensForm.model_validate({"mount": mount})


def first_setup(desk: Desk) -> SetupForm:
    """Return a set-up of the body at hand with the newest lens that is in none yet, else the lens at hand."""
    stored = kit.setup_in_hand(desk.book)
    used = {setup.lens_id for setup in kit.list_setups(desk.book)}
    fresh = [id for id, _ in kit.list_lenses(desk.book) if id not in used]
    lens = max(fresh, default=stored.lens_id if stored else 0)
    return SetupForm(body_id=str(stored.body_id) if stored else "", lens_id=str(lens or ""))


def first_adapter(desk: Desk) -> RecordForm:
    """Return an empty adapter between the two mounts at hand."""
    stored = kit.setup_in_hand(desk.book)
    return between(stored.setup.lens, stored.setup.body) if stored else AdapterForm()


def between(lens: Lens, body: Body) -> RecordForm:
    """Return an empty adapter from a lens's mount to a body's."""
    sides = lens.mount.name if lens.mount else "", body.mount.name if body.mount else ""
    return AdapterForm.model_validate({"lens_side": sides[0], "body_side": sides[1] if sides[0] != sides[1] else ""})


BODY = Thing(
    noun="body", plural="bodies", template="body.html", form=BodyForm, first=lambda _desk: BodyForm(),
    get=kit.get_body, save=kit.save_body, delete=kit.delete_body,
)  # fmt: skip
LENS = Thing(
    noun="lens", plural="lenses", template="lens.html", form=LensForm, first=first_lens,
    get=kit.get_lens, save=kit.save_lens, delete=kit.delete_lens,
)  # fmt: skip
MOUNT = Thing(
    noun="mount", plural="mounts", template="mount.html", form=MountForm, first=lambda _desk: MountForm(),
    get=mounts.get_mount, save=mounts.save_mount, delete=mounts.delete_mount,
)  # fmt: skip
ADAPTER = Thing(
    noun="adapter", plural="adapters", template="adapter.html", form=AdapterForm, first=first_adapter,
    get=mounts.get_adapter, save=mounts.save_adapter, delete=mounts.delete_adapter,
    chosen_by=lambda _adapter, id: str(id),
)  # fmt: skip
router.include_router(crud_routes(BODY))
router.include_router(crud_routes(LENS))
router.include_router(crud_routes(MOUNT))
router.include_router(crud_routes(ADAPTER))


@router.post("/kit/bodies/{id}/screen")
def fit_screen(desk: AtDesk, id: int, name: Annotated[str, Form()]) -> Response:
    """Put one of a body's screens in, undoably: its brightness and split image become those of the aids."""
    body = kit.get_body(desk.book, id)
    screen = next((screen for screen in body.traits.screens if screen.name == name), None)
    if screen is None:
        raise UnreadableError("screen", name, "the body has no such screen", "Choose one of those entered with it")
    with desk.change(f"Fitted the screen “{name}” in {body.name}"):
        kit.save_body(desk.book, with_screen(body, screen), id)
    return desk.back_to(f"/kit/bodies/{id}")


@router.post("/kit/broken/{table}/{id}/delete")
def delete_broken(desk: AtDesk, table: str, id: int) -> Response:
    """Delete a record that cannot be read, undoably."""
    with desk.change("Deleted a record that could not be read"):
        kit.delete_broken(desk.book, table, id)
    return desk.back_to("/kit")


@router.get("/kit/fit")
def check_before_saving(desk: AtDesk, body_id: int, lens_id: int, adapter_id: str = "") -> Response:
    """Show the fit check of a choice that is not stored yet, as a fragment."""
    key = adapter_key(adapter_id)
    adapter = None if key is None else mounts.get_adapter(desk.book, key)
    setup = Setup(kit.get_body(desk.book, body_id), kit.get_lens(desk.book, lens_id), adapter=adapter)
    return desk.fragment("fit_choice.html", FitView(check_fit(setup), checked_parts(setup)))


@router.get("/kit/setups/new")
def new_setup(desk: AtDesk) -> Response:
    """Offer an empty set-up form, or the one a detour left."""
    form = form_from(SetupForm, desk.request.query_params, first_setup(desk))
    return desk.page("setup.html", setup_page(desk, form, None, {}), room="kit")


@router.post("/kit/setups/detour")
def leave_setup(desk: AtDesk) -> Response:
    """Go and make an adapter for the lens and body chosen; the form is there again afterwards."""
    form, id = SetupForm.read(desk.typed), key_of(str(desk.typed.get("id", "")))
    own = "/start" if desk.typed.get("step") else f"/kit/setups/{'new' if id is None else id}"
    chosen = _chosen(desk, form)
    sides = (between(chosen.lens, chosen.body) if chosen else AdapterForm()).model_dump()
    prefill = {name: sides[name] for name in ("lens_side", "body_side")}
    return desk.go(detour(own, form, desk.typed, prefill))


@router.get("/kit/setups/{id}")
def edit_setup(desk: AtDesk, id: int) -> Response:
    """Offer a set-up for change."""
    form = form_from(SetupForm, desk.request.query_params, SetupForm.of(kit.get_setup(desk.book, id)))
    return desk.page("setup.html", setup_page(desk, form, id, {}), room="kit")


@router.post("/kit/setups")
def create_setup(desk: AtDesk) -> Response:
    """Store a new set-up and take it in hand."""
    return _save_setup(desk, None)


@router.post("/kit/setups/{id}")
def update_setup(desk: AtDesk, id: int) -> Response:
    """Store a changed set-up."""
    return _save_setup(desk, id)


def _save_setup(desk: Desk, id: int | None) -> Response:
    form = SetupForm.read(desk.typed)
    body_id, lens_id, standard, errors = form.values()
    if not errors:
        try:
            with desk.change("Added a set-up" if id is None else "Changed a set-up"):
                saved = kit.save_setup(desk.book, body_id, lens_id, standard, id, adapter_key(form.adapter_id))
                kit.take_in_hand(desk.book, saved)
            findings = check_fit(kit.get_setup(desk.book, saved).setup)
            return desk.back_to("/kit" if verdict(findings) is Severity.STOP else "/scale")
        except WelotropeError as error:
            errors = {
                FIELD_OF.get(
                    error.key, error.key if error.key in SetupForm.model_fields else "standard"
                ): error.sentence
            }
    return desk.page("setup.html", setup_page(desk, form, id, errors), room="kit", status=422)


@router.post("/kit/setups/{id}/delete")
def delete_setup(desk: AtDesk, id: int) -> Response:
    """Delete a set-up, undoably; its body and lens stay."""
    with desk.change(f"Deleted set-up {kit.get_setup(desk.book, id).setup.name}"):
        kit.delete_setup(desk.book, id)
    return desk.back_to("/kit")


def _chosen(desk: Desk, form: SetupForm) -> Setup | None:
    """Return what the form has chosen, the first of a list where nothing is yet; None when something is missing."""
    bodies, lenses = dict(kit.list_bodies(desk.book)), dict(kit.list_lenses(desk.book))
    if not bodies or not lenses:
        return None
    body = bodies.get(key_of(form.body_id) or 0) or next(iter(bodies.values()))
    lens = lenses.get(key_of(form.lens_id) or 0) or next(iter(lenses.values()))
    adapter = dict(mounts.list_adapters(desk.book)).get(adapter_key(form.adapter_id) or 0)
    return Setup(body, lens, adapter=adapter)


def setup_page(
    desk: Desk, form: SetupForm, id: int | None, errors: dict[str, str], step: str = ""
) -> EditPage[SetupForm]:
    """Compute the page of a set-up: its form, and how what is chosen goes together."""
    chosen = _chosen(desk, form)
    stored = None if id is None else kit.get_setup(desk.book, id)
    return EditPage(
        form=form, action="/kit/setups" if id is None else f"/kit/setups/{id}",
        title=f"Change {stored.setup.name}" if stored else "A set-up", id=id, errors=errors,
        bodies=kit.list_bodies(desk.book), lenses=kit.list_lenses(desk.book),
        adapters=mounts.list_adapters(desk.book), findings=check_fit(chosen) if chosen else None,
        checked=checked_parts(chosen) if chosen else [], step=step, detour="/kit/setups/detour",
        routes=routes_to(desk.book, stored) if stored else [], joint=joint_of(stored.setup) if stored else None,
    )  # fmt: skip
