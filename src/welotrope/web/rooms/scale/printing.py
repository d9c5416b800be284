"""/scale/print: strips, collars and cards as SVG and PDF at true size, and the scale as CSV."""

from __future__ import annotations

import re
from dataclasses import dataclass
from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.datastructures import FormData
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.known_ring import Basis, InfinityBasis
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.outing_cards import pocket_card
from welotrope.core.plan.setting import preset_words
from welotrope.core.ring.strip import check_one_turn, depth_marks, distance_marks, no_room, protractor_marks
from welotrope.core.units.distance import Unit
from welotrope.interchange.kit_csv import write_scale
from welotrope.interchange.print.card import CardWords, card_side, preset_lines
from welotrope.interchange.print.drawing import Item, Page
from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.sheet import Strip, lay_out
from welotrope.interchange.print.svg import write_svg
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.scale.print_order import PARTS, PrintForm, PrintOrder


@dataclass(frozen=True)
class PrintedPages:
    """Pages ready to write, their title, and what found no room."""

    title: str
    pages: list[Page]
    crowded: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class PrintPage:
    """The page that orders a sheet."""

    form: PrintForm
    errors: dict[str, str]
    sheet: PrintedPages | None
    query: str
    parts: tuple[tuple[str, str], ...]
    warnings: tuple[str, ...]
    unit: Unit
    asks_diameter: bool = False


def print_page(stored: StoredSetup, form: PrintForm, presets: list[Preset], unit: Unit, bare: Unit) -> PrintPage:
    """Compute the page; the sheet is there when the order can be met."""
    setup = stored.setup
    sheet = None
    order, errors = form.order(setup, unit, bare)
    if order is not None:
        try:
            sheet = build_sheet(setup, order, presets)
        except WelotropeError as error:
            errors = {_field(error): error.sentence}
    asks = bool(errors.get("diameter")) and not form.diameter
    if asks:  # not wrong, only not told yet
        del errors["diameter"]
    return PrintPage(
        form=form, errors=errors, sheet=sheet, query=order_query(form), parts=_parts(setup),
        warnings=_warnings(setup), unit=unit, asks_diameter=asks,
    )  # fmt: skip


def build_sheet(setup: Setup, order: PrintOrder, presets: list[Preset]) -> PrintedPages:
    """Lay the ordered parts out.

    Raises
    ------
    WelotropeError
        When a distance is out of reach or the ring turns too far for a strip.
    """
    title = setup.name
    strips: list[Strip] = []
    crowded: list[str] = []
    ring = setup.ring()
    own = [(p.name, setup.ring(p.stop).setting_for(p.distance_mm)) for p in presets] if order.presets else []
    if order.wrap and "strip" in order.parts:
        marks = distance_marks(ring, order.wrap, order.units, distances_mm=order.distances_mm, presets=own)
        crowded = no_room(marks, distances=bool(order.distances_mm))
        strips.append(Strip(f"{title}: distances", order.wrap, tuple(marks), _foot(setup, order)))
    if order.fixed and "marks" in order.parts:
        check_one_turn(ring)
        stops = order.stops or setup.lens.stops
        pairs = depth_marks(ring, order.fixed, stops, setup.blur_mm)
        foot = (
            f"Index on the lens’s own. Sharp means {setup.blur_mm:.3f} mm. Fixed side {order.fixed.diameter_mm:g} mm."
        )
        strips.append(Strip(f"{title}: depth marks", order.fixed, tuple(pairs), foot, whole_turn=False))
    if order.wrap and "collar" in order.parts:
        foot = f"Degrees for a ring of {order.wrap.diameter_mm:g} mm: 0 on the index at the infinity stop."
        strips.append(Strip("Protractor collar", order.wrap, tuple(protractor_marks(order.wrap)), foot))
    strips = [strip for strip in strips for _ in range(order.copies)]
    return PrintedPages(title, lay_out(strips, order.paper, cards=_cards(setup, order, presets)), tuple(crowded))


def _cards(setup: Setup, order: PrintOrder, presets: list[Preset]) -> list[list[Item]]:
    if "card" not in order.parts:
        return []
    sharp = f"Sharp means {setup.blur_mm:.3f} mm ({setup.standard.describe()})."
    under = f"Film-plane distances, {setup.known.basis.value}. {sharp}"
    own = [
        (p.name, p.distance_mm, p.stop, preset_words(setup, p.distance_mm, p.stop)) for p in presets if order.presets
    ]
    sides = [
        card_side(
            pocket_card(setup, unit, stops=order.stops, distances_mm=order.distances_mm),
            CardWords(setup.name, under, preset_lines(own, unit)),
            unit,
        )
        for unit in (order.units[0], order.units[0].other)
    ]
    return sides * order.copies


def _foot(setup: Setup, order: PrintOrder) -> str:
    wrap = order.wrap
    size = f"Ring {wrap.diameter_mm:g} mm" if wrap else ""
    if wrap and wrap.paper_mm:
        size += f" with {wrap.paper_mm:g} mm of paper"
    adapter = setup.joint_error_mm
    joint = ""
    if setup.known.infinity_basis is InfinityBasis.ADAPTER and adapter:
        joint = f", adapter {adapter:+.2f} mm put in"
    elif setup.known.infinity_basis in (InfinityBasis.SIGHTED, InfinityBasis.MEASURED):
        joint = ", infinity as you found it"
    return f"{size}; {setup.known.basis.value}{joint}. Ring at its infinity stop: arrow on the index."


def _parts(setup: Setup) -> tuple[tuple[str, str], ...]:
    """Return what can be printed: strips and a collar only for a ring to wrap them round."""
    return tuple((key, label) for key, label in PARTS if key == "card" or setup.body.kind.turns)


def _warnings(setup: Setup) -> tuple[str, ...]:
    """Return what keeps a strip from being trusted."""
    found = []
    if setup.known.basis is Basis.ASSUMED and setup.body.kind.turns:
        found.append("The focus throw of this ring is assumed, so a strip would be inaccurate. Measure the ring first.")
    if setup.known.step_deg and setup.body.kind.turns:
        found.append(
            "This ring is read from a screen and has nothing to wrap a strip round; print the card or the table."
        )
    return tuple(found)


def _field(error: WelotropeError) -> str:
    return {"throw": "part", "ring_diameter": "diameter", "paper_thickness": "thickness"}.get(error.key, "distances")


def order_query(form: PrintForm) -> str:
    """Return the order as a query string, for the page itself and for its files."""
    return urlencode(form.model_dump(), doseq=True)


router = APIRouter()


@router.get("/scale/print")
def order(context: CurrentContext) -> Response:
    """Order a sheet and see it."""
    stored = context.selected_setup()
    page = print_page(stored, _form(context), context.presets(), context.preferences.unit, context.numbers_in)
    return context.page("scale/printing/page.html", page, status=422 if page.errors else 200)


@router.post("/scale/print")
def take_order(context: CurrentContext) -> Response:
    """Take an order and show its sheet; a diameter the lens had none of yet is remembered with it."""
    stored, form = context.selected_setup(), PrintForm.read(context.typed)
    path = f"/scale/print?{order_query(form)}"
    found, _ = form.order(stored.setup, context.preferences.unit, context.numbers_in)
    lens = stored.setup.lens
    if found is None or found.wrap is None or lens.ring_diameter_mm is not None:
        return context.go(path)
    with context.undoable_transaction(f"Remembered {found.wrap.diameter_mm:g} mm as the ring of {lens.name}"):
        kit.remember_diameter(context.uow, stored.lens_id, found.wrap.diameter_mm)
    return context.back_to(path)


@router.get("/scale/print.svg")
def as_svg(context: CurrentContext) -> Response:
    """Return the sheet as SVG."""
    sheet = _sheet(context)
    return _file(write_svg(sheet.pages, sheet.title), "image/svg+xml", sheet.title, "svg", context)


@router.get("/scale/print.pdf")
def as_pdf(context: CurrentContext) -> Response:
    """Return the sheet as PDF."""
    sheet = _sheet(context)
    return _file(write_pdf(sheet.pages, sheet.title), "application/pdf", sheet.title, "pdf", context)


@router.get("/scale/print.csv")
def as_csv(context: CurrentContext) -> Response:
    """Return the scale as a table."""
    setup = context.selected_setup().setup
    form = _form(context)
    found, errors = form.order(setup, context.preferences.unit, context.numbers_in)
    if found is None:
        raise HTTPException(422, next(iter(errors.values())))
    ring = setup.ring()
    usual = [mm for mm in setup.scale_distances(context.preferences.unit) if ring.closest_mm <= mm <= ring.farthest_mm]
    for mm in found.distances_mm:
        ring.check_reach(mm, field="distances")
    text = write_scale(setup, found.distances_mm or usual, found.stops or setup.lens.stops, found.wrap)
    return _file(text, "text/csv", setup.name, "csv", context)


def _form(context: RequestContext) -> PrintForm:
    query = context.request.query_params
    form: PrintForm = PrintForm.read(FormData([*query.multi_items()]))
    return form.first(context.selected_setup().setup)


def _sheet(context: RequestContext) -> PrintedPages:
    setup = context.selected_setup().setup
    found, errors = _form(context).order(setup, context.preferences.unit, context.numbers_in)
    if found is None:
        raise HTTPException(422, next(iter(errors.values())))
    return build_sheet(setup, found, context.presets())


def _file(content: str | bytes, kind: str, title: str, suffix: str, context: RequestContext) -> Response:
    name = re.sub(r"[^A-Za-z0-9]+", "-", title).strip("-").lower() or "scale"
    shown = "attachment" if context.request.query_params.get("download") else "inline"
    return Response(
        content, media_type=kind, headers={"content-disposition": f'{shown}; filename="{name}-scale.{suffix}"'}
    )
