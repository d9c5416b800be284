"""Set-ups: what goes together, and what counts as sharp."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.inputs import FormInput, Input, Reader, inputs_of, texts_of
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.fit import check_fit, checked_parts, verdict
from welotrope.core.kit.joint import Route, adapters_between, converters_between, joint_of, route_of
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.rules import Severity
from welotrope.store.queries import kit, mounts
from welotrope.store.queries.kit import JointKeys, StoredSetup
from welotrope.web.forms import RecordForm, TextForm, asks_for, key_of
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.kit.edit_page import EditPage, detour, form_from
from welotrope.web.rooms.kit.things import AdapterForm, adapter_between

FIELD_OF = {"viewing_standard": "print_width"}


class _Choices(TextForm):
    """What goes together, by the keys of the rows."""

    body_id: str = ""
    lens_id: str = ""
    adapter_id: str = ""
    converter_id: str = ""
    made_for_body: str = ""
    chosen_for: str = ""  # lens and body that the adapter was chosen for

    @property
    def pair(self) -> str:
        """Lens and body as chosen now."""
        return f"{self.lens_id} on {self.body_id}"


@asks_for(SharpnessStandard)
class SetupForm(RecordForm, _Choices):
    """Fields of a set-up as typed: what goes together, and the standard."""

    @classmethod
    def of_stored(cls, stored: StoredSetup) -> SetupForm:
        """Fill the form from a set-up."""
        return cls(
            **texts_of(stored.setup.standard), body_id=str(stored.body_id), lens_id=str(stored.lens_id),
            adapter_id=_text(stored.adapter_id), converter_id=_text(stored.converter_id),
            made_for_body="yes" if stored.setup.made_for_body else "",
            chosen_for=f"{stored.lens_id} on {stored.body_id}",
        )  # fmt: skip

    def values(self) -> tuple[int, int, SharpnessStandard, dict[str, str]]:
        """Return body key, lens key, standard, and an error sentence per field."""
        reader = Reader()
        body_id = reader.take("body_id", lambda: chosen_key(self.body_id, "body"), 0)
        lens_id = reader.take("lens_id", lambda: chosen_key(self.lens_id, "lens"), 0)
        standard = SharpnessStandard.take(reader, FormInput(texts=self.model_dump()))
        return body_id, lens_id, standard, reader.errors

    @property
    def joint(self) -> JointKeys:
        """What stands between lens and body, and whether the lens was made for it."""
        return JointKeys(key_of(self.adapter_id), key_of(self.converter_id), bool(self.made_for_body))

    @property
    def standards(self) -> tuple[Standard, ...]:
        """The schools to choose from."""
        return tuple(Standard)

    @property
    def figures(self) -> list[Input]:
        """What the schools ask for."""
        return [one for one in inputs_of(SharpnessStandard) if one.group in set(Standard)]


def chosen_key(text: str, kind: str) -> int:
    """Return the key of what was chosen of a kind; raises UnreadableError when nothing was."""
    key = key_of(text)
    if key is None:
        raise UnreadableError(
            kind, text, "none is chosen", f"Choose {'an' if kind[0] in 'aeiou' else 'a'} {kind}, or add one first"
        )
    return key


def _text(key: int | None) -> str:
    return "" if key is None else str(key)


@dataclass(frozen=True, kw_only=True)
class SetupParts:
    """What a set-up can be made of, each with its key; and those there are, the one in hand among them."""

    bodies: list[tuple[int, Body]]
    lenses: list[tuple[int, Lens]]
    adapters: list[tuple[int, Adapter]]
    setups: list[StoredSetup]
    in_hand: StoredSetup | None

    def called(self, id: int | None) -> StoredSetup | None:
        """Return the set-up of a key, None without one."""
        return next((stored for stored in self.setups if stored.id == id), None)


def load_parts(context: RequestContext) -> SetupParts:
    """Read bodies, lenses, adapters and set-ups."""
    uow = context.uow
    return SetupParts(
        bodies=kit.list_bodies(uow), lenses=kit.list_lenses(uow), adapters=mounts.list_adapters(uow),
        setups=kit.list_setups(uow), in_hand=context.find_selected_setup(),
    )  # fmt: skip


def first_setup(parts: SetupParts) -> SetupForm:
    """Return a set-up of the body at hand with the newest lens that is in none yet, else the lens at hand."""
    stored = parts.in_hand
    used = {setup.lens_id for setup in parts.setups}
    fresh = [id for id, _ in parts.lenses if id not in used]
    lens = max(fresh, default=stored.lens_id if stored else 0)
    return SetupForm(body_id=str(stored.body_id) if stored else "", lens_id=str(lens or ""))


def chosen_of(parts: SetupParts, form: SetupForm) -> Setup | None:
    """Return what the form has chosen, the first of a list where nothing is yet; None when something is missing."""
    bodies, lenses = dict(parts.bodies), dict(parts.lenses)
    if not bodies or not lenses:
        return None
    body = bodies.get(key_of(form.body_id) or 0) or next(iter(bodies.values()))
    lens = lenses.get(key_of(form.lens_id) or 0) or next(iter(lenses.values()))
    pieces, joint = dict(parts.adapters), form.joint
    _, _, standard, errors = form.values()
    return Setup(
        body=body, lens=lens, adapter=pieces.get(joint.adapter or 0), converter=pieces.get(joint.converter or 0),
        made_for_body=joint.made_for_body, standard=SharpnessStandard() if errors else standard,
    )  # fmt: skip


def joined(parts: SetupParts, form: SetupForm) -> SetupForm:
    """Choose the best adapter for a lens and a body that are new to each other and do not join by themselves."""
    chosen = chosen_of(parts, form)
    if chosen is None or form.chosen_for == form.pair:
        return form
    lens, body = chosen.lens.mount, chosen.body.mount
    fitting = adapters_between(parts.adapters, lens, body)
    best = str(fitting[0][0]) if fitting and lens and body and lens != body and not chosen.made_for_body else ""
    kept = form.adapter_id if form.joint.adapter in dict(fitting) else best
    return form.model_copy(update={"adapter_id": kept, "chosen_for": form.pair})


def setup_page(
    parts: SetupParts, form: SetupForm, id: int | None, errors: dict[str, str], *, step: str = ""
) -> EditPage[SetupForm]:
    """Compute the page of a set-up: its form, and how what is chosen goes together."""
    chosen, stored = chosen_of(parts, form), parts.called(id)
    return EditPage(
        form=form, action="/kit/setups" if id is None else f"/kit/setups/{id}",
        title=f"Change {stored.setup.name}" if stored else "A set-up", id=id, errors=errors,
        bodies=parts.bodies, lenses=parts.lenses, chosen=chosen,
        adapters=_between(parts, form, chosen, adapters_between),
        converters=_between(parts, form, chosen, converters_between), findings=check_fit(chosen) if chosen else None,
        checked=checked_parts(chosen) if chosen else [], step=step, detour="/kit/setups/detour",
        routes=routes_to(parts, stored) if stored else [], joint=joint_of(stored.setup) if stored else None,
    )  # fmt: skip


def _between(
    parts: SetupParts, form: SetupForm, chosen: Setup | None, between: Callable[..., list[tuple[int, Adapter]]]
) -> list[tuple[int, Adapter]]:
    """Return the pieces that join what is chosen, best first, and last the one chosen where it does not."""
    pieces = parts.adapters
    if chosen is None:
        return pieces
    fitting = between(pieces, chosen.lens.mount, chosen.body.mount)
    taken = form.joint.adapter if between is adapters_between else form.joint.converter
    return [*fitting, *(piece for piece in pieces if piece[0] == taken and piece not in fitting)]


def routes_to(parts: SetupParts, stored: StoredSetup) -> list[Route]:
    """Return the routes from lenses of like focal length to the set-up's body, shortest first, its own among them."""
    own = stored.setup
    adapters = [None, *(adapter for _, adapter in parts.adapters)]
    candidates = [
        replace(own, lens=lens, adapter=adapter, converter=None, made_for_body=False, zoom_mm=None)
        for _, lens in parts.lenses
        if 0.8 <= lens.focal_mm / own.lens.focal_mm <= 1.25
        for adapter in adapters
    ]
    routes = [route_of(setup) for setup in candidates if verdict(check_fit(setup)) is not Severity.BLOCKER]
    return sorted({route_of(own), *routes}, key=lambda route: (route.length_mm is None, route.length_mm or 0))


router = APIRouter()


@router.get("/kit/setups/new")
def new_setup(context: CurrentContext) -> Response:
    """Offer an empty set-up form, or the one a detour left."""
    parts = load_parts(context)
    form = form_from(SetupForm, context.request.query_params, first_setup(parts))
    return context.page("kit/setup/page.html", setup_page(parts, joined(parts, form), None, {}))


@router.post("/kit/setups/detour")
def leave_setup(context: CurrentContext) -> Response:
    """Go and make an adapter for the lens and body chosen; the form is there again afterwards.

    What is made is for these two: a form left before it was drawn anew must not choose another on coming back.
    """
    parts = load_parts(context)
    form, id = joined(parts, SetupForm.read(context.typed)), key_of(str(context.typed.get("id", "")))
    own = "/start" if context.typed.get("step") else f"/kit/setups/{'new' if id is None else id}"
    chosen = chosen_of(parts, form)
    sides = (adapter_between(chosen.lens, chosen.body) if chosen else AdapterForm()).model_dump()
    prefill = {name: sides[name] for name in ("lens_side", "body_side")}
    return context.go(detour(own, form, context.typed, prefill))


@router.get("/kit/setups/{id}")
def edit_setup(context: CurrentContext, id: int) -> Response:
    """Offer a set-up for change."""
    form = form_from(SetupForm, context.request.query_params, SetupForm.of_stored(kit.get_setup(context.uow, id)))
    parts = load_parts(context)
    return context.page("kit/setup/page.html", setup_page(parts, joined(parts, form), id, {}))


@router.post("/kit/setups")
def create_setup(context: CurrentContext) -> Response:
    """Store a new set-up and take it in hand."""
    return _save_setup(context, None)


@router.post("/kit/setups/{id}")
def update_setup(context: CurrentContext, id: int) -> Response:
    """Store a changed set-up."""
    kit.get_setup(context.uow, id)  # refuses one that is gone
    return _save_setup(context, id)


def _save_setup(context: RequestContext, id: int | None) -> Response:
    form = SetupForm.read(context.typed)
    body_id, lens_id, standard, errors = form.values()
    if not errors:
        try:
            with context.undoable_transaction("Added a set-up" if id is None else "Changed a set-up"):
                saved = kit.save_setup(context.uow, body_id, lens_id, standard, id=id, joint=form.joint)
                context.select_setup(saved)
            findings = check_fit(kit.get_setup(context.uow, saved).setup)
            return context.back_to("/kit" if verdict(findings) is Severity.BLOCKER else "/scale")
        except WelotropeError as error:
            errors = {
                FIELD_OF.get(
                    error.key, error.key if error.key in SetupForm.model_fields else "standard"
                ): error.sentence
            }
    return context.page("kit/setup/page.html", setup_page(load_parts(context), form, id, errors), status=422)


@router.post("/kit/setups/{id}/delete")
def delete_setup(context: CurrentContext, id: int) -> Response:
    """Delete a set-up, undoably; its body and lens stay."""
    with context.undoable_transaction(f"Deleted set-up {kit.get_setup(context.uow, id).setup.name}"):
        kit.delete_setup(context.uow, id)
    return context.back_to("/kit")
