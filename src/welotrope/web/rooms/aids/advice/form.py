"""Where a focus indicator was seen to go on and off."""

from __future__ import annotations

from welotrope.core.errors import OutOfRangeError
from welotrope.core.units.text import number
from welotrope.web.forms.text_form import TextForm

_LEAST_DEG, _MOST_DEG = 0.1, 180.0


class LampForm(TextForm):
    """Ring positions as read, degrees."""

    on: str = ""
    off: str = ""

    def half_deg(self) -> float:
        """Return half the dead band, degrees.

        Raises
        ------
        WelotropeError
            When a position cannot be read, or the two lie impossibly near or far apart.
        """
        on, off = (number(text, f"lamp goes {way}") for way, text in (("on", self.on), ("off", self.off)))
        apart = abs(off - on)
        if not _LEAST_DEG <= apart <= _MOST_DEG:
            raise OutOfRangeError(
                "lamp goes off", self.off, f"that is {apart:g}° from where it goes on",
                f"Turn slowly from one side and read both places, {_LEAST_DEG:g} to {_MOST_DEG:g}° apart",
            )  # fmt: skip
        return apart / 2
