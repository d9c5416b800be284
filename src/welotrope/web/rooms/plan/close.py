"""/plan/close: close-ups and stacks."""

from __future__ import annotations

from dataclasses import dataclass, field
from urllib.parse import urlencode

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, WelotropeError
from welotrope.core.inputs import Group, Input, check_limits, field_spec, number_input
from welotrope.core.kit.attachment import Attachment
from welotrope.core.plan.close_plan import CloseSearch, CloseUp, ReachRow, reach_rows, search
from welotrope.core.plan.close_stack import CloseStack, close_stack
from welotrope.core.plan.setting import RingSetting
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit, parse_distance, write_distance
from welotrope.core.units.exposure import snap_stop
from welotrope.core.units.turn import TurnUnit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.mounts import list_attachments
from welotrope.web.components.ring import RingView, ring_view
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import overlap_asked, stop_asked


def _index(text: str) -> int:
    return int(text) if text.isascii() and text.isdigit() and len(text) < 4 else 0


@dataclass(frozen=True, kw_only=True)
class CloseAsked:
    """A thing to fill the picture (mm), the room wanted (mm), the stop, and a depth to stack (mm)."""

    subject_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "subject",
                Field("subject", "size of the thing"),
                "Subject length",
                usual="6 cm",
                half_empty="Write a length, such as 6 cm",
                hint="fills the long side of the picture",
            )
        )
    )
    room_mm: float = field(
        metadata=field_spec(
            Input(
                name="room",
                field=Field("room", "room"),
                label="Least working distance",
                optional=True,
                empty=0.0,
                usual="10 cm",
                hint="e.g. for light, or for animals",
                read=lambda text, typed: 0.0 if text == "0" else parse_distance(text, field="room", bare=typed.bare),
                write=write_distance,
            )
        )
    )
    stop: float = field(metadata=field_spec(stop_asked(8.0, usual="f/8")))
    chosen: int = field(
        metadata=field_spec(
            Input(
                name="chosen",
                field=Field("chosen", "choice"),
                label="Choice",
                optional=True,
                empty=0,
                group=Group.CHOSEN,
                read=lambda text, _typed: _index(text),
                write=str,
            )
        )
    )
    depth_mm: float | None = field(
        metadata=field_spec(
            number_input(
                "depth",
                Field("depth", "depth"),
                "Focus stack depth",
                unit="mm",
                low=0.1,
                high=1000,
                hint="total sharp depth from several frames",
            )
        )
    )
    overlap: float = field(
        metadata=field_spec(overlap_asked(0.2, usual="20"))
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_limits(self)


CloseForm = record_form(CloseAsked)


@dataclass(frozen=True, kw_only=True)
class ClosePage:
    """A close-up: what of the kit does it, the one chosen, and a stack of it."""

    form: RecordForm
    errors: dict[str, str]
    asked: CloseAsked | None
    found: CloseSearch | None
    chosen: CloseUp | None
    index: int
    stop: float
    setting: RingSetting | None
    ring: RingView | None
    stack: CloseStack | None
    attachments: int
    reaches: tuple[ReachRow, ...]
    background_mm: float
    background_share: float
    turn_in: TurnUnit | None
    query: str
    unit: Unit


def close_page(
    stored: StoredSetup, attachments: list[Attachment], form: RecordForm, asked: CloseAsked | None,
    errors: dict[str, str], query: str, unit: Unit,
) -> ClosePage:  # fmt: skip
    """Compute the page."""
    setup = stored.setup
    stop = snap_stop(asked.stop if asked else 8.0, setup.lens.stops)
    found = chosen = stack = None
    index = 0
    if asked is not None:
        found = search(setup, attachments, asked.subject_mm, asked.room_mm, stop)
        index = min(asked.chosen, max(len(found.found) - 1, 0))
        chosen = found.found[index] if found.found else found.nearest
    if asked is not None and chosen is not None and asked.depth_mm is not None:
        try:
            stack = close_stack(setup, chosen, stop, asked.depth_mm, asked.overlap)
        except WelotropeError as error:
            errors = {"depth": error.sentence}
    background = setup.lens.focal_mm / stop * chosen.setting.magnification if chosen else 0.0
    return ClosePage(
        form=form, errors=errors, asked=asked, found=found, chosen=chosen, index=index, stop=stop,
        setting=chosen.ring if chosen else None,
        ring=ring_view(setup, chosen.ring.angle_deg, stop, [], unit) if chosen else None, stack=stack,
        attachments=len(attachments), reaches=reach_rows(setup, attachments, stop),
        background_mm=background, background_share=background / setup.body.image.width_mm,
        turn_in=setup.turn_in, query=query, unit=unit,
    )  # fmt: skip


router = APIRouter()


@router.get("/plan/close")
def close(context: CurrentContext) -> Response:
    """Plan a close-up."""
    form, asked, errors = read_asked(CloseForm, context, {})
    attachments = [one for _, one in list_attachments(context.uow)]
    query = urlencode([pair for pair in form.model_dump().items() if pair[0] != "chosen"])
    page = close_page(context.selected_setup(), attachments, form, asked, errors, query, context.preferences.unit)
    return context.page("plan/close/page.html", page, status=422 if page.errors else 200)
