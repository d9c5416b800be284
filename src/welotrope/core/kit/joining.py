"""Which adapters and converters join a lens and a body, best first."""

from __future__ import annotations

import math
from collections.abc import Iterable

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.mount import Mount

Keyed = tuple[int, Adapter]


def adapters_between(adapters: Iterable[Keyed], lens: Mount | None, body: Mount | None) -> list[Keyed]:
    """Return the adapters, with their keys, that go from a lens's mount to a body's; where one is not known, any.

    Plain ones come before such with glass, those nearer to the thickness wanted first, unmeasured ones last.
    """
    found = [
        (key, adapter)
        for key, adapter in adapters
        if not adapter.is_converter and _fits(adapter.lens_side, lens) and _fits(adapter.body_side, body)
    ]
    return sorted(found, key=lambda keyed: _rank(keyed[1]))


def converters_between(adapters: Iterable[Keyed], lens: Mount | None, body: Mount | None) -> list[Keyed]:
    """Return the converters, with their keys, that stand before or behind an adapter between two mounts."""
    return [
        (key, adapter)
        for key, adapter in adapters
        if adapter.is_converter and any(_fits(adapter.lens_side, side) for side in (lens, body))
    ]


def _fits(side: Mount, wanted: Mount | None) -> bool:
    return wanted is None or side == wanted


def _rank(adapter: Adapter) -> tuple[bool, float, str]:
    error = adapter.error_mm
    return adapter.optics, math.inf if error is None else abs(error), adapter.name
