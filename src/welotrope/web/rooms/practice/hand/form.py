"""Person practising, and what was changed on the kit, as sent."""

from __future__ import annotations

import datetime as dt

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.hand.cures import CHANGE_WORDS
from welotrope.core.review.roll import read_time
from welotrope.core.units.text import check_text
from welotrope.store.queries.practice import KitChange
from welotrope.web.forms.text_form import TextForm
from welotrope.web.request.preferences import MOST_NAME

_NOTE_LIMIT = 120


class ChangeForm(TextForm):
    """A change of the kit."""

    what: str = "screen"
    note: str = ""
    made_at: str = ""

    def value(self, setup_id: int, now: dt.datetime) -> tuple[KitChange | None, dict[str, str]]:
        """Return the change, or None with an error sentence per field; without a day it is now."""
        errors: dict[str, str] = {}
        made = now
        try:
            if self.what not in CHANGE_WORDS:
                raise UnreadableError("what", self.what, "there is none of that name", "Choose one of the list")
            check_text(self.note, "note", _NOTE_LIMIT) if self.note else ""
        except WelotropeError as error:
            errors["what" if error.key == "what" else "note"] = error.sentence
        try:
            made = read_time(self.made_at, "day") if self.made_at else now
        except WelotropeError as error:
            errors["made_at"] = error.sentence
        if made > now:
            errors["made_at"] = f"Day: read “{self.made_at}”; it has not come yet. Write a day up to today."
        if errors:
            return None, errors
        return KitChange(setup_id=setup_id, what=self.what, note=self.note, made_at=made), {}


def person_of(text: str) -> str:
    """Return the name of who is practising, empty for the owner; raises WelotropeError for what cannot be shown."""
    return check_text(text.strip(), "name", MOST_NAME) if text.strip() else ""
