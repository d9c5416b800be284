"""/plan/compare: the same zone by other kit."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import Field, WelotropeError
from welotrope.core.inputs import field_spec
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import SharpnessStandard, Standard
from welotrope.core.plan.compare import CompareRow, FramedRow, compare, compare_framed
from welotrope.core.plan.framing import BeginWith, begin_with
from welotrope.core.ring.survey import distance_cell
from welotrope.core.units.distance import Unit, check_ends
from welotrope.store.queries import kit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.forms import RecordForm, record_form
from welotrope.web.request.context import CurrentContext
from welotrope.web.request.query_form import read_asked
from welotrope.web.rooms.plan.inputs import stop_asked


@dataclass(frozen=True, kw_only=True)
class CompareAsked:
    """A zone (mm), and a stop to compare at."""

    near_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "near", Field("near", "near"), "Sharp from", usual="2 m", half_empty="Write a distance, such as 2 m"
            )
        )
    )  # fmt: skip
    far_mm: float = field(
        metadata=field_spec(
            distance_cell(
                "far", Field("far", "far"), "to", optional=True, empty=math.inf, usual="6 m", hint="if empty: ∞"
            )
        )
    )  # fmt: skip
    stop: float = field(
        metadata=field_spec(stop_asked(8.0, label="Compare at", usual="f/8"))
    )  # fmt: skip
    width_mm: float | None = field(
        metadata=field_spec(
            distance_cell(
                "width", Field("width", "width"), "Field width", optional=True, example="1.5 m",
                example_ft="5 ft",
                hint="at the focus distance; if empty: the field of the selected set-up",
            )
        )
    )  # fmt: skip

    def __post_init__(self) -> None:
        check_ends(self.near_mm, self.far_mm)


CompareForm = record_form(CompareAsked)


_STANDARDS = (Standard.PRINT, Standard.FILM, Standard.PIXEL)


@dataclass(frozen=True, kw_only=True)
class ComparePage:
    """The same zone: by every set-up of the kit, and by other standards on the one in hand."""

    form: RecordForm
    errors: dict[str, str]
    asked: CompareAsked | None
    rows: tuple[tuple[int, CompareRow], ...]
    standards: tuple[tuple[str, float, CompareRow], ...]
    width_mm: float | None
    framed: tuple[tuple[int, FramedRow], ...]
    begin: BeginWith | None
    in_hand: int
    best: CompareRow | None
    unit: Unit


def compare_page(
    stored: StoredSetup, setups: list[StoredSetup], form: RecordForm, asked: CompareAsked | None,
    errors: dict[str, str], unit: Unit,
) -> ComparePage:  # fmt: skip
    """Compute the page."""
    rows: tuple[tuple[int, CompareRow], ...] = ()
    standards: tuple[tuple[str, float, CompareRow], ...] = ()
    if asked is not None:
        made = compare([one.setup for one in setups], asked.near_mm, asked.far_mm, asked.stop)
        rows = tuple(zip((one.id for one in setups), made, strict=True))
        others = [(kind, _with(stored.setup, kind)) for kind in _STANDARDS]
        usable = [(kind.value, setup) for kind, setup in others if setup is not None]
        answers = compare([setup for _, setup in usable], asked.near_mm, asked.far_mm, asked.stop)
        standards = tuple((name, setup.blur_mm, row) for (name, setup), row in zip(usable, answers, strict=True))
    own = next((row for id, row in rows if id == stored.id and not row.problem), None)
    width = asked.width_mm if asked and asked.width_mm else own.width_mm if own else None
    framed: tuple[tuple[int, FramedRow], ...] = ()
    begin = None
    if asked is not None and width is not None and math.isfinite(width):
        ids = [one.id for one in setups]
        framed = tuple(zip(ids, compare_framed([one.setup for one in setups], width, asked.stop), strict=True))
        try:
            begin = _begin(stored.setup, asked, width)
        except WelotropeError as error:
            errors = {**errors, "width": error.sentence} if asked.width_mm else errors
    held = [row for _, row in rows if row.stop_marked is not None]
    return ComparePage(
        form=form, errors=errors, asked=asked, rows=rows, standards=standards, in_hand=stored.id,
        width_mm=width, framed=framed, begin=begin,
        best=min(held, key=lambda row: row.stop_exact, default=None), unit=unit,
    )  # fmt: skip


def _begin(setup: Setup, asked: CompareAsked, width_mm: float) -> BeginWith:
    """Return what to begin with on the camera in hand, framed so wide where both ends are equally soft, about."""
    middle = 2 * asked.near_mm if math.isinf(asked.far_mm) else 2 / (1 / asked.near_mm + 1 / asked.far_mm)
    return begin_with(setup.body.image, asked.near_mm, asked.far_mm, middle, width_mm, setup.blur_mm)


def _with(setup: Setup, kind: Standard) -> Setup | None:
    """Return the set-up judged by another standard; None for pixels on film."""
    if kind is Standard.PIXEL and setup.body.is_film:
        return None
    return replace(setup, standard=SharpnessStandard(kind=kind))


router = APIRouter()


@router.get("/plan/compare")
def show(context: CurrentContext) -> Response:
    """Compare what holds a zone."""
    form, asked, errors = read_asked(CompareForm, context, {})
    page = compare_page(
        context.selected_setup(), kit.list_setups(context.uow), form, asked, errors, context.preferences.unit
    )
    return context.page("plan/compare/page.html", page, status=422 if page.errors else 200)
