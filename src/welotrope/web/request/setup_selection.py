"""The set-up a request works with: the one its address names, else the one selected last."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, replace
from typing import TypeVar
from urllib.parse import parse_qsl, urlencode

from welotrope.core.errors import WelotropeError
from welotrope.core.units.text import number
from welotrope.store.queries import kit
from welotrope.store.unit_of_work import UnitOfWork

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


Value = TypeVar("Value")
Cache = Callable[[Hashable, Callable[[], kit.StoredSetup | None]], kit.StoredSetup | None]


class SetupSelection:
    """Reads the selected set-up once a request, unless something changes, and selects another.

    ``address`` is what links of this tab must carry; ``gone`` says that the set-up of the address does not exist any
    more; ``changed`` that this request selected another one.
    """

    def __init__(self, uow: UnitOfWork, address: SelectedSetup, cached: Cache) -> None:
        self._uow, self.address, self._cached = uow, address, cached
        self.gone = self.changed = False
        self._selected: kit.StoredSetup | None = None

    def forget(self) -> None:
        """Read it anew when it is asked for next."""
        self._selected = None

    def find(self) -> kit.StoredSetup | None:
        """Return the selected set-up at the focal length of the address, or None when there is none at all."""
        if self._selected is None:
            wanted, zoom_mm = self.address.setup, self.address.zoom_mm
            found = self._cached(("set-up", wanted), lambda: kit.find_setup(self._uow, wanted or 0)) if wanted else None
            if found is None:
                found = self._cached("selected", lambda: kit.find_selected_setup(self._uow))
                self.gone = bool(wanted)
                self.address = SelectedSetup(found.id if found and self.gone else None)
            elif zoom_mm is not None:
                found = replace(found, setup=found.setup.at_focal(zoom_mm * found.setup.lens.factor))
            self._selected = found
        return self._selected

    @property
    def key(self) -> tuple[int | None, float | None]:
        """What tells the selected set-up from others: its key, and the focal length of the address, mm."""
        stored = self.find()
        return stored.id if stored else None, self.address.zoom_mm

    def select(self, id: int) -> None:
        """Select a set-up, in this tab and for the next one opened; raises NotFoundError."""
        kit.select_setup(self._uow, id)
        self.address, self._selected, self.changed = SelectedSetup(id if self.address.setup else None), None, True

    def zoom_to(self, stored: kit.StoredSetup, zoom_mm: float) -> None:
        """Zoom the selected set-up to a marked focal length, mm; errors as ``Lens.zoomed``."""
        kit.zoom_to(self._uow, stored.id, zoom_mm)
        self.address = replace(self.address, zoom_mm=zoom_mm if self.address.setup else None)
        self._selected, self.changed = None, True
