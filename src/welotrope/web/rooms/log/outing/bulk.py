"""The same change to many frames."""

from __future__ import annotations

from dataclasses import replace

from welotrope.core.inputs import FormInput, Input, Reader, inputs_of
from welotrope.core.json_values import JsonObject
from welotrope.core.review.frame import (
    AID,
    INSTEAD,
    ISO,
    LIGHT,
    MISS,
    SUPPORT,
    TAGS,
    TECHNIQUE,
    Frame,
    FrameExtras,
    read_tags,
)
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import Unit
from welotrope.web.forms.text_form import TextForm, key_of

AS_IT_IS = ""
NONE_OF = "-"
_CHOICES = (AID, TECHNIQUE, SUPPORT, LIGHT)


class BulkForm(TextForm):
    """What is changed: every field left empty stays as it is; ``-`` takes a choice off."""

    frame: list[str] = []
    every: str = ""
    intent: str = ""
    aid: str = ""
    technique: str = ""
    support: str = ""
    light: str = ""
    iso: str = ""
    instead: str = ""
    miss: str = ""
    tags: str = ""
    untag: str = ""
    outcome: str = ""
    outing: str = ""
    roll: str = ""

    @property
    def ids(self) -> list[int]:
        """Return the keys of the chosen frames."""
        return [id for id in map(key_of, self.frame) if id is not None]

    def choices(self) -> tuple[Input, ...]:
        """Return the choices that can be set, each with a way to leave it and one to take it off."""
        return tuple(
            replace(one, options=((AS_IT_IS, "as it is"), (NONE_OF, "not noted"), *one.options[1:])) for one in _CHOICES
        )

    def asked(self, name: str) -> Input:
        """Return what a field asks for."""
        return next(one for one in inputs_of(FrameExtras) if one.name == name)

    def changes(
        self, *, bare: Unit = Unit.METRIC
    ) -> tuple[JsonObject, tuple[str, ...], tuple[str, ...], dict[str, str]]:
        """Return attributes to set, tags to put on and to take off, and an error sentence per field.

        ``bare`` is the unit of an amount that is written without one.
        """
        reader = Reader()
        said = {name: text for name, text in self.model_dump().items() if isinstance(text, str)}
        typed = FormInput(texts={name: "" if text == NONE_OF else text for name, text in said.items()}, bare=bare)
        set_to: JsonObject = {
            one.name: one.take(reader, typed) for one in (*_CHOICES, ISO, INSTEAD) if said[one.name] != AS_IT_IS
        }
        if self.miss:
            set_to["miss_mm"] = MISS.take(reader, typed)
        if self.outcome:
            set_to["outcome"] = Outcome(self.outcome) if self.outcome in set(Outcome) else None
        for name, text in (("outing_id", self.outing), ("roll_id", self.roll)):
            if text:
                set_to[name] = None if text == NONE_OF else key_of(text)
        none: tuple[str, ...] = ()
        tags = reader.take(TAGS.name, lambda: read_tags(self.tags), none)
        untag = reader.take("untag", lambda: read_tags(self.untag), none)
        return set_to, tags, untag, reader.errors


def changed(frame: Frame, set_to: JsonObject, tags: tuple[str, ...], untag: tuple[str, ...]) -> Frame:
    """Return a frame with the change made."""
    kept = [tag for tag in dict.fromkeys((*frame.tags, *tags)) if tag not in untag]
    return replace(frame, **set_to, tags=tuple(kept))
