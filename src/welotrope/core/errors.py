"""Named errors whose sentence says the field, what was read and what would work."""

from __future__ import annotations

import re


class Field(str):
    """The name of an input in the photographer's words, with the key that forms and files know it by.

    The words may change; the key stays.
    """

    key: str

    def __new__(cls, key: str, words: str) -> Field:
        """Make the name ``words`` with its ``key``."""
        made = super().__new__(cls, words)
        made.key = key
        return made


class WelotropeError(ValueError):
    """A value the user can mend.

    Parameters
    ----------
    field
        Name of the input in the photographer's words, e.g. ``"focus distance"``; a :class:`Field` has a stable key.
    read
        What was read, as text; shortened to 40 characters in the message.
    problem
        Why it cannot be used, as a clause without a full stop.
    works
        What would work, as a clause without a full stop.
    """

    def __init__(self, field: str, read: object, problem: str, works: str) -> None:
        self.field = field
        self.read = _shorten(str(read))
        self.problem = problem
        self.works = works
        super().__init__(self.sentence)

    @property
    def key(self) -> str:
        """Stable key of the input; made from its words where none was given."""
        if isinstance(self.field, Field):
            return self.field.key
        return re.sub(r"[^a-z0-9]+", "_", str(self.field).lower()).strip("_")[:60]

    @property
    def sentence(self) -> str:
        """The message as shown to a person."""
        shown = f"“{self.read}”" if self.read else "nothing"
        return f"{self.field[:1].upper()}{self.field[1:]}: read {shown}; {self.problem}. {self.works}."


class UnreadableError(WelotropeError):
    """Text that does not parse as the quantity asked for."""


class OutOfRangeError(WelotropeError):
    """A number outside the range in which the model or the kit holds."""


class TooCloseError(OutOfRangeError):
    """A distance no thin lens of this focal length, or not this ring, can be focused to."""


class ConflictError(WelotropeError):
    """Two values that contradict each other, such as near beyond far."""


def _shorten(text: str, *, limit: int = 40) -> str:
    text = " ".join(text.split())
    return text if len(text) <= limit else text[: limit - 1] + "…"
