"""The cards of an outing, and the page that orders them."""

from __future__ import annotations

from dataclasses import dataclass
from urllib.parse import urlencode

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.body import shutter_of
from welotrope.core.kit.sheet import SheetCase, find_slot, sheet_lines, slot_card
from welotrope.core.plan import outing_cards
from welotrope.core.plan.close_plan import reach_rows
from welotrope.core.plan.field_settings import field_settings
from welotrope.core.plan.moving import plan_moving, usual_moving
from welotrope.core.plan.night_plan import night_steps, plan_night
from welotrope.core.plan.outing_cards import Card
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.ring.strip import Wrap, distance_marks
from welotrope.core.units.distance import Unit
from welotrope.interchange.print.drawing import Page
from welotrope.interchange.print.outing import outing_pages
from welotrope.interchange.print.sheet import Strip, lay_out
from welotrope.store.queries import mounts, sheets
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.request.context import RequestContext
from welotrope.web.rooms.field.cards.form import CardsAsked

_PAPER_MM = 0.1


@dataclass(frozen=True, kw_only=True)
class CardsPage:
    """The page that orders cards: the form, what was left out and why, and the query its files are had by."""

    form: RecordForm
    errors: dict[str, str]
    pages: int
    left_out: tuple[str, ...]
    query: str
    no_strip: bool


@dataclass(frozen=True)
class Made:
    """Pages ready to write, and a sentence for each card that could not be made."""

    pages: list[Page]
    left_out: tuple[str, ...]


def cards_page(
    context: RequestContext, form: RecordForm, asked: CardsAsked | None, errors: dict[str, str]
) -> CardsPage:
    """Compute the page."""
    made = make_cards(context, asked) if asked else Made([], ())
    lens = context.selected_setup().setup
    return CardsPage(
        form=form, errors=errors, pages=len(made.pages), left_out=made.left_out,
        query=urlencode(form.model_dump(), doseq=True),
        no_strip=asked is not None and "strip" in asked.parts and lens.mm_per_degree is None,
    )  # fmt: skip


def make_cards(context: RequestContext, asked: CardsAsked) -> Made:
    """Make the cards of the set-up in hand; one that cannot be made is left out and named."""
    cards: list[Card] = []
    left_out: list[str] = []
    for part in ("settings", "light", "moving", "close", "stack", "night", "sheet", "log"):
        if part in asked.parts:
            try:
                cards.append(_card(context, part, asked))
            except WelotropeError as error:
                left_out.append(error.sentence)
    pages = outing_pages(cards, asked.paper, large=asked.large)
    if "strip" in asked.parts:
        pages += _strip(context, asked)
    return Made(pages, tuple(left_out))


def _card(context: RequestContext, part: str, asked: CardsAsked) -> Card:
    stored, unit = context.selected_setup(), context.preferences.unit
    setup, eye = stored.setup, context.personal().eye
    match part:
        case "settings":
            settings = field_settings(setup, context.presets())
            return outing_cards.settings_card(setup, settings, OwnMeasures.of(eye), unit)
        case "light":
            return outing_cards.light_card(setup, asked.iso)
        case "moving":
            plan = plan_moving(setup, usual_moving(setup, eye, asked.trap_mm, asked.stop, asked.moves.speed))
            return outing_cards.moving_card(plan, asked.moves.name, shutter_of(setup.body), unit)
        case "close":
            own = [attachment for _, attachment in mounts.list_attachments(context.uow)]
            return outing_cards.close_card(reach_rows(setup, own, asked.stop), unit)
        case "stack":
            near, far = asked.near_mm or 0.0, asked.far_mm or 0.0
            return outing_cards.stack_card(setup, near, far, asked.stop, asked.overlap / 100, unit)
        case "night":
            plan_ = plan_night(setup, setup.lens.widest)
            return outing_cards.night_card(night_steps(plan_, setup.blur_mm, film=setup.body.is_film))
        case "sheet":
            slot = find_slot(slot_card(sheets.slots_of(context.uow, stored.body_id)), stored.lens_id)
            case_ = SheetCase(setup, asked.school, slot)
            return outing_cards.sheet_card(sheet_lines(case_, changes=sheets.changes_for(context.uow, stored.body_id)))
    return outing_cards.log_card(asked.lines, first=asked.first)


def _strip(context: RequestContext, asked: CardsAsked) -> list[Page]:
    """Return the settings on a strip round the ring, where its diameter is known."""
    setup, unit = context.selected_setup().setup, context.preferences.unit
    diameter = setup.lens.ring_diameter_mm
    if diameter is None or setup.mm_per_degree is None:
        return []
    wrap = Wrap(diameter, _PAPER_MM, setup.lens.direction)
    named = [(one.name, one.setting.angle_deg) for one in field_settings(setup, context.presets())]
    try:
        marks = distance_marks(setup.ring(), wrap, (unit, Unit(unit).other), distances_mm=(), presets=named)
    except WelotropeError:  # turns too far for a strip
        return []
    foot = f"Ring {diameter:g} mm with {_PAPER_MM:g} mm of paper. Ring at its infinity stop: arrow on the index."
    return lay_out([Strip(f"{setup.name}: settings", wrap, tuple(marks), foot)], asked.paper)
