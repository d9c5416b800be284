"""What the page of a set-up shows."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.fit import check_fit, checked_parts, verdict
from welotrope.core.kit.joint import Route, adapters_between, converters_between, joint_of, route_of
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.rules import Severity
from welotrope.store.queries import kit, mounts
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms.text_form import key_of
from welotrope.web.request.context import RequestContext
from welotrope.web.rooms.kit.edit_page import EditPage
from welotrope.web.rooms.kit.setup.form import SetupForm


def first_setup(context: RequestContext) -> SetupForm:
    """Return a set-up of the body at hand with the newest lens that is in none yet, else the lens at hand."""
    stored = context.find_selected_setup()
    used = {setup.lens_id for setup in kit.list_setups(context.uow)}
    fresh = [id for id, _ in kit.list_lenses(context.uow) if id not in used]
    lens = max(fresh, default=stored.lens_id if stored else 0)
    return SetupForm(body_id=str(stored.body_id) if stored else "", lens_id=str(lens or ""))


def chosen_of(context: RequestContext, form: SetupForm) -> Setup | None:
    """Return what the form has chosen, the first of a list where nothing is yet; None when something is missing."""
    bodies, lenses = dict(kit.list_bodies(context.uow)), dict(kit.list_lenses(context.uow))
    if not bodies or not lenses:
        return None
    body = bodies.get(key_of(form.body_id) or 0) or next(iter(bodies.values()))
    lens = lenses.get(key_of(form.lens_id) or 0) or next(iter(lenses.values()))
    pieces, joint = dict(mounts.list_adapters(context.uow)), form.joint
    _, _, standard, errors = form.values()
    return Setup(
        body=body, lens=lens, adapter=pieces.get(joint.adapter or 0), converter=pieces.get(joint.converter or 0),
        made_for_body=joint.made_for_body, standard=SharpnessStandard() if errors else standard,
    )  # fmt: skip


def joined(context: RequestContext, form: SetupForm) -> SetupForm:
    """Choose the best adapter for a lens and a body that are new to each other and do not join by themselves."""
    chosen = chosen_of(context, form)
    if chosen is None or form.chosen_for == form.pair:
        return form
    lens, body = chosen.lens.mount, chosen.body.mount
    fitting = adapters_between(mounts.list_adapters(context.uow), lens, body)
    best = str(fitting[0][0]) if fitting and lens and body and lens != body and not chosen.made_for_body else ""
    kept = form.adapter_id if form.joint.adapter in dict(fitting) else best
    return form.model_copy(update={"adapter_id": kept, "chosen_for": form.pair})


def setup_page(
    context: RequestContext, form: SetupForm, id: int | None, errors: dict[str, str], *, step: str = ""
) -> EditPage[SetupForm]:
    """Compute the page of a set-up: its form, and how what is chosen goes together."""
    chosen = chosen_of(context, form)
    stored = None if id is None else kit.get_setup(context.uow, id)
    return EditPage(
        form=form, action="/kit/setups" if id is None else f"/kit/setups/{id}",
        title=f"Change {stored.setup.name}" if stored else "A set-up", id=id, errors=errors,
        bodies=kit.list_bodies(context.uow), lenses=kit.list_lenses(context.uow),
        adapters=_between(context, form, chosen, adapters_between), chosen=chosen,
        converters=_between(context, form, chosen, converters_between), findings=check_fit(chosen) if chosen else None,
        checked=checked_parts(chosen) if chosen else [], step=step, detour="/kit/setups/detour",
        routes=routes_to(context.uow, stored) if stored else [], joint=joint_of(stored.setup) if stored else None,
    )  # fmt: skip


def _between(
    context: RequestContext, form: SetupForm, chosen: Setup | None, between: Callable[..., list[tuple[int, Adapter]]]
) -> list[tuple[int, Adapter]]:
    """Return the pieces that join what is chosen, best first, and last the one chosen where it does not."""
    pieces = mounts.list_adapters(context.uow)
    if chosen is None:
        return pieces
    fitting = between(pieces, chosen.lens.mount, chosen.body.mount)
    taken = form.joint.adapter if between is adapters_between else form.joint.converter
    return [*fitting, *(piece for piece in pieces if piece[0] == taken and piece not in fitting)]


def routes_to(uow: UnitOfWork, stored: kit.StoredSetup) -> list[Route]:
    """Return the routes from lenses of like focal length to the set-up's body, shortest first, its own among them."""
    own = stored.setup
    adapters = [None, *(adapter for _, adapter in mounts.list_adapters(uow))]
    candidates = [
        replace(own, lens=lens, adapter=adapter, converter=None, made_for_body=False, zoom_mm=None)
        for _, lens in kit.list_lenses(uow)
        if 0.8 <= lens.focal_mm / own.lens.focal_mm <= 1.25
        for adapter in adapters
    ]
    routes = [route_of(setup) for setup in candidates if verdict(check_fit(setup)) is not Severity.BLOCKER]
    return sorted({route_of(own), *routes}, key=lambda route: (route.length_mm is None, route.length_mm or 0))
