"""What the page of close-ups shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.attachment import Attachment
from welotrope.core.plan.close_plan import CloseSearch, CloseUp, ReachRow, reach_rows, search
from welotrope.core.plan.close_stack import CloseStack, close_stack
from welotrope.core.plan.setting import RingSetting
from welotrope.core.units.distance import Unit
from welotrope.core.units.stops import snap_stop
from welotrope.core.units.turn import TurnUnit
from welotrope.store.queries.kit import StoredSetup
from welotrope.web.components.ring.view import RingView, ring_view
from welotrope.web.forms.record_form import RecordForm
from welotrope.web.rooms.plan.close.form import CloseAsked


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
