"""/field/cards: the cards of an outing as PDF and SVG."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import ConflictError, Field, WelotropeError
from welotrope.core.exposure.light import check_iso
from welotrope.core.exposure.motion import MOVER_BY_ID, MOVERS, Mover
from welotrope.core.inputs import (
    Ask,
    Group,
    Input,
    check_limits,
    choice_input,
    field_spec,
    number_input,
    tick_input,
    whole_input,
)
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import shutter_of
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.sheet import School, SheetCase, SheetChange, SlotEntry, find_slot, sheet_lines, slot_card
from welotrope.core.plan import outing_cards
from welotrope.core.plan.close_plan import reach_rows
from welotrope.core.plan.field_settings import Preset, field_settings
from welotrope.core.plan.moving import plan_moving, usual_moving
from welotrope.core.plan.night_plan import night_steps, plan_night
from welotrope.core.plan.outing_cards import Card
from welotrope.core.plan.own_measures import OwnMeasures
from welotrope.core.ring.strip import Wrap, distance_marks
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit, check_ends
from welotrope.core.units.exposure import format_stop, parse_stop, snap_stop
from welotrope.interchange.print.drawing import Page, Paper
from welotrope.interchange.print.outing import outing_pages
from welotrope.interchange.print.pdf import write_pdf
from welotrope.interchange.print.sheet import Strip, lay_out
from welotrope.interchange.print.svg import write_svg
from welotrope.store.queries import mounts, sheets
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext, RequestContext, heavy_context
from welotrope.web.request.query_form import read_asked

PARTS = (
    ("settings", "zones and presets"), ("strip", "settings on a strip at true size"),
    ("light", "exposure table"),
    ("moving", "stations for a moving subject"), ("close", "close-up table"), ("stack", "focus stack to tick off"),
    ("night", "steps of a night"), ("sheet", "set-up sheet to tick"), ("log", "blank log lines"),
)  # fmt: skip
USUAL_PARTS = ("settings", "strip", "light", "sheet", "log")
_MOVING = tuple(one for one in MOVERS if one.speed > 0.3)
_STACK = Field("stack_near", "stack from")
_PAPER_MM = 0.1
_TITLE = "Cards of the outing"


@dataclass(frozen=True, kw_only=True)
class CardsAsked:
    """Cards: which, on which paper, and what the planned ones are planned for; distances in mm from the film plane."""

    parts: frozenset[str] = field(
        metadata=field_spec(
            Input(
                name="part", field=Field("part", "what to print"), label="Cards", ask=Ask.MANY, options=PARTS,
                usual=list(USUAL_PARTS), read=lambda chosen, _typed: frozenset(chosen) & {key for key, _ in PARTS},
                write=sorted,
            )
        )
    )  # fmt: skip
    paper: Paper = field(
        metadata=field_spec(choice_input("paper", "Paper", Paper, Paper.A4, ask=Ask.PICK, group=Group.PAPER))
    )
    large: bool = field(metadata=field_spec(tick_input("large", "large print", group=Group.PAPER)))
    iso: float = field(
        metadata=field_spec(
            number_input("iso", Field("iso", "ISO"), "ISO", optional=False, usual="400", empty=400.0, group=Group.LIGHT,
                         valid=check_iso)
        )
    )  # fmt: skip
    stop: float = field(
        metadata=field_spec(
            Input(
                name="stop", field=Field("stop", "stop"), label="f-stop for stations and stack", usual="f/8", empty=8.0,
                read=lambda text, _typed: parse_stop(text), write=format_stop, group=Group.MOVING,
            )
        )
    )  # fmt: skip
    moves: Mover = field(
        metadata=field_spec(
            Input(
                name="moves", field=Field("moves", "what comes"), label="Subject", ask=Ask.CHOICE, usual="walking",
                options=tuple((one.id, one.name) for one in _MOVING), group=Group.MOVING, write=lambda one: one.id,
                read=lambda text, _typed: MOVER_BY_ID.get(text, MOVER_BY_ID["walking"]),
            )
        )
    )  # fmt: skip
    trap_mm: float = field(
        metadata=field_spec(
            distance_cell("trap", Field("trap", "first station"), "First station at", usual="6 m", group=Group.MOVING,
                          half_empty="Write a distance, such as 6 m")
        )
    )  # fmt: skip
    near_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "stack_near", _STACK, "Stack from", optional=True, group=Group.STACK, example="0.5 m", also=("near",)
            )
        )
    )
    far_mm: float | None = field(
        metadata=field_spec(
            distance_cell("stack_far", Field("stack_far", "stack to"), "to", optional=True, group=Group.STACK,
                          example="0.6 m")
        )
    )  # fmt: skip
    overlap: float = field(
        metadata=field_spec(
            number_input("overlap", Field("overlap", "overlap"), "Overlap", unit="%", low=0, high=90, usual="20",
                         empty=20.0, group=Group.STACK)
        )
    )  # fmt: skip
    school: School = field(
        metadata=field_spec(choice_input("school", "Sheet for", School, School.SET, ask=Ask.PICK, group=Group.SHEET))
    )
    lines: int = field(
        metadata=field_spec(whole_input("lines", Field("lines", "log lines"), "Log lines", 1, 200, usual="23", empty=23,
                                  group=Group.LOG))
    )  # fmt: skip
    first: int = field(
        metadata=field_spec(whole_input("first", Field("first", "first number"), "First number", 1, 9999, usual="1",
        empty=1,
                                  group=Group.LOG))
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)
        if "stack" in self.parts:
            if self.near_mm is None or self.far_mm is None:
                raise ConflictError(_STACK, "", "a stack goes from somewhere to somewhere", "Give both distances")
            check_ends(self.near_mm, self.far_mm)


CardsForm = record_form(CardsAsked)


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


@dataclass(frozen=True, kw_only=True)
class CardsData:
    """What cards of a set-up tell: it, its settings by name, the attachments there are, and its sheet."""

    setup: Setup
    presets: Sequence[Preset]
    attachments: Sequence[Attachment]
    slot: SlotEntry | None
    changes: Sequence[SheetChange]
    eye: Eye
    unit: Unit


def load_cards(context: RequestContext) -> CardsData:
    """Read what is kept of the set-up in hand, its body and its lens."""
    uow, stored = context.uow, context.selected_setup()
    return CardsData(
        setup=stored.setup, presets=context.presets(), eye=context.personal().eye, unit=context.preferences.unit,
        attachments=[attachment for _, attachment in mounts.list_attachments(uow)],
        slot=find_slot(slot_card(sheets.slots_of(uow, stored.body_id)), stored.lens_id),
        changes=sheets.changes_for(uow, stored.body_id),
    )  # fmt: skip


def cards_page(data: CardsData, form: RecordForm, asked: CardsAsked | None, errors: dict[str, str]) -> CardsPage:
    """Make the cards, and say which are left out."""
    made = make_cards(data, asked) if asked else Made([], ())
    return CardsPage(
        form=form, errors=errors, pages=len(made.pages), left_out=made.left_out,
        query=urlencode(form.model_dump(), doseq=True),
        no_strip=asked is not None and "strip" in asked.parts and data.setup.mm_per_degree is None,
    )  # fmt: skip


def make_cards(data: CardsData, asked: CardsAsked) -> Made:
    """Make the cards of a set-up; one that cannot be made is left out and named."""
    cards: list[Card] = []
    left_out: list[str] = []
    for part in ("settings", "light", "moving", "close", "stack", "night", "sheet", "log"):
        if part in asked.parts:
            try:
                cards.append(_card(data, part, asked))
            except WelotropeError as error:
                left_out.append(error.sentence)
    pages = outing_pages(cards, asked.paper, large=asked.large)
    if "strip" in asked.parts:
        pages += _strip(data, asked)
    return Made(pages, tuple(left_out))


def _card(data: CardsData, part: str, asked: CardsAsked) -> Card:
    setup, eye, unit = data.setup, data.eye, data.unit
    match part:
        case "settings":
            settings = field_settings(setup, data.presets)
            return outing_cards.settings_card(setup, settings, OwnMeasures.of(eye), unit)
        case "light":
            return outing_cards.light_card(setup, asked.iso)
        case "moving":
            plan = plan_moving(setup, usual_moving(setup, eye, asked.trap_mm, asked.stop, asked.moves.speed))
            return outing_cards.moving_card(plan, asked.moves.name, shutter_of(setup.body), unit)
        case "close":
            return outing_cards.close_card(reach_rows(setup, data.attachments, asked.stop), unit)
        case "stack":
            near, far = asked.near_mm or 0.0, asked.far_mm or 0.0
            return outing_cards.stack_card(setup, near, far, asked.stop, asked.overlap / 100, unit)
        case "night":
            plan_ = plan_night(setup, setup.lens.widest)
            return outing_cards.night_card(night_steps(plan_, setup.blur_mm, film=setup.body.is_film))
        case "sheet":
            case_ = SheetCase(setup, asked.school, data.slot)
            return outing_cards.sheet_card(sheet_lines(case_, changes=data.changes))
    return outing_cards.log_card(asked.lines, first=asked.first)


def _strip(data: CardsData, asked: CardsAsked) -> list[Page]:
    """Return the settings on a strip round the ring, where its diameter is known."""
    setup, unit = data.setup, data.unit
    diameter = setup.lens.ring_diameter_mm
    if diameter is None or setup.mm_per_degree is None:
        return []
    wrap = Wrap(diameter, _PAPER_MM, setup.lens.direction)
    named = [(one.name, one.setting.angle_deg) for one in field_settings(setup, data.presets)]
    try:
        marks = distance_marks(setup.ring(), wrap, (unit, Unit(unit).other), distances_mm=(), presets=named)
    except WelotropeError:  # turns too far for a strip
        return []
    foot = f"Ring {diameter:g} mm with {_PAPER_MM:g} mm of paper. Ring at its infinity stop: arrow on the index."
    return lay_out([Strip(f"{setup.name}: settings", wrap, tuple(marks), foot)], asked.paper)


router = APIRouter()


@router.get("/field/cards")
def order(context: CurrentContext) -> Response:
    """Order cards and see them."""
    page = cards_page(load_cards(context), *_asked(context))
    return context.page("field/cards/page.html", page, status=422 if page.errors else 200)


@router.get("/field/cards.pdf")
def as_pdf(request: Request) -> Response:
    """Return the cards as PDF."""
    with heavy_context(request) as context:
        data = write_pdf(_pages(context), _TITLE)
    headers = {"content-disposition": 'attachment; filename="welotrope-cards.pdf"'}
    return Response(data, media_type="application/pdf", headers=headers)


@router.get("/field/cards.svg")
def as_svg(request: Request) -> Response:
    """Return the cards as SVG."""
    with heavy_context(request) as context:
        text = write_svg(_pages(context), _TITLE)
    return Response(text, media_type="image/svg+xml")


def _asked(context: RequestContext) -> tuple[RecordForm, CardsAsked | None, dict[str, str]]:
    stop = snap_stop(8.0, context.selected_setup().setup.lens.stops)
    return read_asked(CardsForm, context, {"part": list(USUAL_PARTS), "stop": format_stop(stop)})


def _pages(context: RequestContext) -> list[Page]:
    _, asked, errors = _asked(context)
    if asked is None:
        raise HTTPException(422, next(iter(errors.values())))
    pages = make_cards(load_cards(context), asked).pages
    if not pages:
        raise HTTPException(422, "Nothing is chosen that could be printed. Tick a card.")
    return pages
