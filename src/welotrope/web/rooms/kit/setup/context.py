"""What the page of a set-up shows."""

from __future__ import annotations

from dataclasses import dataclass, replace

from welotrope.core.kit.fit import check_fit, checked_parts, verdict
from welotrope.core.kit.joint import Route, joint_of, route_of
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.rules import Finding, Severity
from welotrope.store.book import Book
from welotrope.store.queries import kit, mounts
from welotrope.web.forms.text_form import key_of
from welotrope.web.rooms.kit.edit_page import EditPage
from welotrope.web.rooms.kit.setup.form import SetupForm, adapter_key
from welotrope.web.shell.desk import Desk


@dataclass(frozen=True)
class FitView:
    """The fit check of a choice: what was found, and what is known and well."""

    findings: tuple[Finding, ...]
    checked: list[str]


def first_setup(desk: Desk) -> SetupForm:
    """Return a set-up of the body at hand with the newest lens that is in none yet, else the lens at hand."""
    stored = desk.held()
    used = {setup.lens_id for setup in kit.list_setups(desk.book)}
    fresh = [id for id, _ in kit.list_lenses(desk.book) if id not in used]
    lens = max(fresh, default=stored.lens_id if stored else 0)
    return SetupForm(body_id=str(stored.body_id) if stored else "", lens_id=str(lens or ""))


def chosen_of(desk: Desk, form: SetupForm) -> Setup | None:
    """Return what the form has chosen, the first of a list where nothing is yet; None when something is missing."""
    bodies, lenses = dict(kit.list_bodies(desk.book)), dict(kit.list_lenses(desk.book))
    if not bodies or not lenses:
        return None
    body = bodies.get(key_of(form.body_id) or 0) or next(iter(bodies.values()))
    lens = lenses.get(key_of(form.lens_id) or 0) or next(iter(lenses.values()))
    adapter = dict(mounts.list_adapters(desk.book)).get(adapter_key(form.adapter_id) or 0)
    _, _, standard, errors = form.values()
    return Setup(body=body, lens=lens, adapter=adapter, standard=SharpnessStandard() if errors else standard)


def setup_page(
    desk: Desk, form: SetupForm, id: int | None, errors: dict[str, str], step: str = ""
) -> EditPage[SetupForm]:
    """Compute the page of a set-up: its form, and how what is chosen goes together."""
    chosen = chosen_of(desk, form)
    stored = None if id is None else kit.get_setup(desk.book, id)
    return EditPage(
        form=form, action="/kit/setups" if id is None else f"/kit/setups/{id}",
        title=f"Change {stored.setup.name}" if stored else "A set-up", id=id, errors=errors,
        bodies=kit.list_bodies(desk.book), lenses=kit.list_lenses(desk.book),
        adapters=mounts.list_adapters(desk.book), findings=check_fit(chosen) if chosen else None,
        checked=checked_parts(chosen) if chosen else [], step=step, detour="/kit/setups/detour",
        routes=routes_to(desk.book, stored) if stored else [], joint=joint_of(stored.setup) if stored else None,
    )  # fmt: skip


def routes_to(book: Book, stored: kit.StoredSetup) -> list[Route]:
    """Return the routes from lenses of like focal length to the set-up's body, shortest first, its own among them."""
    own = stored.setup
    adapters = [None, *(adapter for _, adapter in mounts.list_adapters(book))]
    candidates = [
        replace(own, lens=lens, adapter=adapter, zoom_mm=None)
        for _, lens in kit.list_lenses(book)
        if 0.8 <= lens.focal_mm / own.lens.focal_mm <= 1.25
        for adapter in adapters
    ]
    routes = [route_of(setup) for setup in candidates if verdict(check_fit(setup)) is not Severity.STOP]
    return sorted({route_of(own), *routes}, key=lambda route: (route.length_mm is None, route.length_mm or 0))
