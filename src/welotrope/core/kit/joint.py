"""How the lens of a set-up meets its body: which adapters join them, how long the route is, where infinity lies."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.true_infinity import MAX_ERROR_MM, AdapterEffect, adapter_effect


@dataclass(frozen=True)
class Route:
    """A way to put a lens on a body, and how long it stands out from the body's flange (mm, None when not known)."""

    lens_name: str
    adapter_name: str
    adapter_mm: float
    length_mm: float | None


def route_of(setup: Setup) -> Route:
    """Return the set-up's route: adapter thickness plus the lens's own length.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    thickness = sum(piece.thickness_mm or 0.0 for piece in setup.pieces)
    own = setup.lens.fit.length_mm
    return Route(
        setup.lens.name,
        setup.joined_by,
        thickness,
        None if own is None else own + thickness,
    )


@dataclass(frozen=True)
class Joint:
    """How a set-up's lens and body meet; mm, None when not known or not applicable.

    ``room_mm`` is the thickness an adapter must have, ``error_mm`` how far this one is off (positive too
    thick), ``effect`` where infinity then lies, ``length_mm`` how far the lens stands out from the body.
    """

    room_mm: float | None
    thickness_mm: float | None
    error_mm: float | None
    effect: AdapterEffect | None
    length_mm: float | None


def joint_of(setup: Setup) -> Joint:
    """Return how the lens of a set-up meets its body.

    Parameters
    ----------
    setup
        The lens on its body, with what counts as sharp.
    """
    lens, body = setup.lens.mount, setup.body.mount
    room = None
    if lens and body and lens.register_mm is not None and body.register_mm is not None:
        room = lens.register_mm - body.register_mm
    error = setup.joint_error_mm
    effect = None
    if error is not None and abs(error) <= MAX_ERROR_MM:
        effect = adapter_effect(
            setup.lens.focal_mm, error, lead_mm=360 / setup.ring().degrees_per_mm(0.0),
            diameter_mm=setup.lens.ring_diameter_mm,
        )  # fmt: skip
    return Joint(room, setup.thickness_mm if setup.pieces else None, error, effect, route_of(setup).length_mm)


Keyed = tuple[int, Adapter]


def adapters_between(adapters: Iterable[Keyed], lens: Mount | None, body: Mount | None) -> list[Keyed]:
    """Return the adapters, with their keys, that go from a lens's mount to a body's; where one is not known, any.

    Plain ones come before such with glass, those nearer to the thickness wanted first, unmeasured ones last.

    Parameters
    ----------
    adapters
        Adapters and converters, each with its key.
    lens
        Mount of the lens, or None where it is not known.
    body
        Mount of the body, or None where it is not known.
    """
    found = [
        (key, adapter)
        for key, adapter in adapters
        if not adapter.is_converter and _fits(adapter.lens_side, lens) and _fits(adapter.body_side, body)
    ]
    return sorted(found, key=lambda keyed: _rank(keyed[1]))


def converters_between(adapters: Iterable[Keyed], lens: Mount | None, body: Mount | None) -> list[Keyed]:
    """Return the converters, with their keys, that stand before or behind an adapter between two mounts.

    Parameters
    ----------
    adapters
        Adapters and converters, each with its key.
    lens
        Mount of the lens, or None where it is not known.
    body
        Mount of the body, or None where it is not known.
    """
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
