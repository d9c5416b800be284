"""The two sides of a pocket card, drawn from their top left corner; the size of a bank card."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.plan.outing_cards import PocketCard
from welotrope.core.units.distance import MM_PER_FOOT, Unit, format_distance, format_feet, format_span
from welotrope.core.units.exposure import format_stop
from welotrope.interchange.print.drawing import Box, Item, Line, Text
from welotrope.interchange.print.sheet import CARD_HEIGHT_MM, CARD_WIDTH_MM

MAX_PRESETS = 3
_LEFT, _TOP, _ROW = 4.0, 9.8, 4.3
_STEPS_KEPT = 2.5  # widths of the rounding between two ends, from which on a range may be written briefly
_ROOM_FOR = 11  # characters of a column at full size


@dataclass(frozen=True)
class CardWords:
    """What is written on a card besides its figures: heads, and the photographer's presets as lines."""

    title: str
    under: str
    presets: tuple[str, ...] = ()


def card_side(card: PocketCard, words: CardWords, unit: Unit) -> list[Item]:
    """Draw one side: near and far per distance and stop in one unit, the hyperfocal setting, presets."""
    room = (CARD_WIDTH_MM - _LEFT * 2 - 16) / len(card.stops)
    size = 2.2 if unit is Unit.METRIC else 1.9
    columns = [_LEFT + 16 + room * (i + 0.5) for i in range(len(card.stops))]
    items: list[Item] = [
        Box(x=0, y=0, width=CARD_WIDTH_MM, height=CARD_HEIGHT_MM),
        Text(x=_LEFT, y=4.6, text=words.title, size=2.7, anchor="start", bold=True),
        Text(x=_LEFT, y=7.3, text=words.under, size=1.8, anchor="start"),
        Text(x=CARD_WIDTH_MM - _LEFT, y=4.6, text="metres" if unit is Unit.METRIC else "feet", size=2.2, anchor="end"),
    ]
    y = _TOP + 1.6
    items += [
        Text(x=at, y=y, text=format_stop(stop), size=2.4, anchor="middle", bold=True)
        for at, stop in zip(columns, card.stops, strict=True)
    ]
    items.append(Line(x1=_LEFT, y1=y + 1, x2=CARD_WIDTH_MM - _LEFT, y2=y + 1, width=0.2))
    for row in card.rows:
        y += _ROW
        items.append(Text(x=_LEFT + 13, y=y, text=_short(row.distance_mm, unit), size=2.6, anchor="end", bold=True))
        items += [
            _fitted(at, y, _range(near, far, unit), size) for at, (near, far) in zip(columns, row.limits, strict=True)
        ]
    y += _ROW
    items.append(Line(x1=_LEFT, y1=y - 3.1, x2=CARD_WIDTH_MM - _LEFT, y2=y - 3.1))
    for head, distances in (
        ("far end: set", [_short(setting.focus_mm, unit) for setting in card.hyperfocal]),
        ("sharp", [_range(setting.near_mm, setting.far_mm, unit) for setting in card.hyperfocal]),
    ):
        items.append(Text(x=_LEFT + 13, y=y, text=head, size=2.0, anchor="end", bold=True))
        items += [_fitted(at, y, text, size) for at, text in zip(columns, distances, strict=True)]
        y += 3.2
    y -= 2.8
    for line in words.presets[:MAX_PRESETS]:
        y += 2.9
        items.append(Text(x=_LEFT, y=y, text=line, size=2.0, anchor="start"))
    return items


def preset_lines(presets: Sequence[tuple[str, float, float, str]], unit: Unit) -> tuple[str, ...]:
    """Return a line for each preset of (name, distance in mm, stop, where an indicator stands if there is one)."""
    return tuple(
        f"{name}: {format_distance(mm, unit)} at {format_stop(stop)}{', ' if words else ''}{words}"
        for name, mm, stop, words in presets
    )


def _range(near: float, far: float, unit: Unit) -> str:
    """Write a range, its ends finer where they would read alike or, in feet, lose their width to the rounding."""
    short = _short(near, unit), _short(far, unit)
    kept = unit is Unit.METRIC or far - near >= _STEPS_KEPT * _step_of_feet(far)
    if short[0] != short[1] and kept:
        return "–".join(short)
    span = format_span(near, far, unit)
    return f"{span.near}–{span.far}".replace(" m", "")


def _fitted(x: float, y: float, text: str, size: float) -> Text:
    """Return a text in its column, smaller when it is long."""
    return Text(x=x, y=y, text=text, size=size * min(1.0, _ROOM_FOR / len(text)))


def _step_of_feet(mm: float) -> float:
    """Return what a brief distance in feet is rounded to, mm."""
    return MM_PER_FOOT / 24 if mm < 3 * MM_PER_FOOT else MM_PER_FOOT / 12 if mm < 10 * MM_PER_FOOT else MM_PER_FOOT


def _short(mm: float, unit: Unit) -> str:
    """Write a distance as briefly as a card wants it: 1.92, 12.4 or 34; 6'4"."""
    if mm > 1e7:
        return "∞"
    if unit is Unit.FEET:
        return f"{mm / MM_PER_FOOT:.0f}'" if mm >= 10 * MM_PER_FOOT else format_feet(mm)
    metres = mm / 1000
    return f"{metres:.2f}" if metres < 10 else f"{metres:.1f}" if metres < 30 else f"{metres:.0f}"
