"""The sheet that is printed, and the page that orders it."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.known_ring import Basis, InfinityBasis
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.outing_cards import pocket_card
from welotrope.core.plan.setting import preset_words
from welotrope.core.ring.strip import check_one_turn, depth_marks, distance_marks, no_room, protractor_marks
from welotrope.core.units.distance import Unit
from welotrope.interchange.print.card import CardWords, card_side, preset_lines
from welotrope.interchange.print.drawing import Item, Page
from welotrope.interchange.print.sheet import Strip, lay_out
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.rooms.scale.printing.form import PrintForm
from welotrope.web.rooms.scale.printing.order import PARTS, PrintOrder


@dataclass(frozen=True)
class Sheet:
    """Pages ready to write, their title, and what found no room."""

    title: str
    pages: list[Page]
    crowded: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class PrintPage:
    """The page that orders a sheet."""

    form: PrintForm
    errors: dict[str, str]
    sheet: Sheet | None
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


def build_sheet(setup: Setup, order: PrintOrder, presets: list[Preset]) -> Sheet:
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
    return Sheet(title, lay_out(strips, order.paper, cards=_cards(setup, order, presets)), tuple(crowded))


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
