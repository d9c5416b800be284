"""A record again and again, each time with one field other than before: what is swapped or lost on a way then shows."""

import dataclasses
import datetime as dt
import enum
import types
import typing

from welotrope.core.errors import WelotropeError
from welotrope.core.review.frame import Spot

# What a field is set to, the first that it takes and that is not what it holds.
FIGURES = (3.0, 2.0, 1.3, 0.3, 0.5, 5.0, 8.0, 12.0, 30.0, 45.0, 60.0, 250.0, 1200.0, 0.02, -1.0)
COUNTS = (3, 2, 5, 7, 320, 1300)
WORDS = ("Vessel", "handheld", "matte", "shade", "flash", "tripod", "swing", "passed", "rangefinder", "print")


BY_KIND = {
    float: FIGURES, int: COUNTS, str: WORDS, Spot: (Spot(0.25, 0.75),), tuple[str, ...]: (("white", "red"),),
    bool: (True, False), dt.datetime: (dt.datetime(2026, 2, 3, 4, 5, 6),),
}  # fmt: skip


def candidates(kind):
    """Values a field of a kind may be set to; none for what is made of others."""
    if isinstance(kind, types.UnionType) or typing.get_origin(kind) is typing.Union:
        return [value for part in typing.get_args(kind) for value in candidates(part)]
    if isinstance(kind, type) and issubclass(kind, enum.Enum):
        return list(kind)
    return BY_KIND.get(kind, ())


def variants(record, skip=()):
    """Yield pairs of a field's name and the record with another value there; records within it one field at a time."""
    hints = typing.get_type_hints(type(record))
    for one in dataclasses.fields(record):
        held = getattr(record, one.name)
        if one.name in skip or not one.init:
            continue
        if dataclasses.is_dataclass(held) and not isinstance(held, Spot):
            for name, inner in variants(held, skip):
                changed = put(record, one.name, inner)
                if changed is not None:
                    yield f"{one.name}.{name}", changed
            continue
        for value in candidates(hints[one.name]):
            changed = put(record, one.name, value) if value != held else None
            if changed is not None:
                yield one.name, changed
                break


def put(record, name, value):
    """The record with another value, or None where it may not be."""
    try:
        return dataclasses.replace(record, **{name: value})
    except WelotropeError:
        return None
