"""Which set-up is selected in a tab, and at which focal length, as its address says: ``?setup=3&zoom=35``."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from urllib.parse import parse_qsl, urlencode

from welotrope.core.errors import WelotropeError
from welotrope.core.units.text import number

NAMES = ("setup", "zoom")


@dataclass(frozen=True)
class SelectedSetup:
    """The key of a set-up and a marked focal length, mm; None where the address says nothing."""

    setup: int | None = None
    zoom_mm: float | None = None

    @classmethod
    def read(cls, query: Mapping[str, object]) -> SelectedSetup:
        """Read an address; what is no number counts as not said."""
        key = str(query.get("setup", ""))
        setup = int(key) if key.isascii() and key.isdigit() and len(key) < 19 else None
        try:
            zoom = number(str(query["zoom"]), "zoom", unit="mm") if setup is not None and "zoom" in query else None
        except WelotropeError:
            zoom = None
        return cls(setup, zoom)

    @property
    def pairs(self) -> list[tuple[str, str]]:
        """What it says, as pairs of an address."""
        said = [("setup", None if self.setup is None else str(self.setup))]
        said.append(("zoom", None if self.zoom_mm is None else f"{self.zoom_mm:g}"))
        return [(name, value) for name, value in said if value is not None]

    def put_into(self, path: str) -> str:
        """Return a path that says it, in place of what the path said."""
        where, question, rest = path.partition("?")
        rest, hash, place = rest.partition("#")
        others = [pair for pair in parse_qsl(rest, keep_blank_values=True) if pair[0] not in NAMES]
        query = urlencode([*others, *self.pairs])
        return where + (f"?{query}" if query else "") + hash + place if question or self.pairs else path
