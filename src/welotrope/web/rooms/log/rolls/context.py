"""What the pages of rolls show, and their forms."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.review.roll import Roll
from welotrope.core.units.distance import Unit
from welotrope.store.queries.rolls import StoredRoll
from welotrope.web.forms.record_form import RecordForm, asks_for
from welotrope.web.forms.text_form import TextForm
from welotrope.web.rooms.log.frame.context import FrameLine


@asks_for(Roll)
class RollForm(RecordForm):
    """Fields of a roll as typed."""


class DatesForm(TextForm):
    """When its first and last frame were taken."""

    first: str = ""
    last: str = ""


@dataclass(frozen=True, kw_only=True)
class RollsPage:
    """Every roll, and the form of a new one."""

    rolls: tuple[StoredRoll, ...]
    form: RollForm
    errors: dict[str, str]
    bodies: tuple[str, ...]


@dataclass(frozen=True, kw_only=True)
class RollPage:
    """A roll with its frames in the order of their numbers."""

    stored: StoredRoll
    form: RollForm
    dates: DatesForm
    errors: dict[str, str]
    bodies: tuple[str, ...]
    unit: Unit
    lines: tuple[FrameLine, ...]
    undated: int
