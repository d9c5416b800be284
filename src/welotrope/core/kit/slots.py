"""Numbered slots in which a body keeps a lens's focal length and widest stop."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.lens import Lens


@dataclass(frozen=True, kw_only=True)
class SlotEntry:
    """A lens in a slot: what to enter there, and whether it shares the slot with others."""

    number: int
    lens_id: int
    lens_name: str
    focal_mm: float
    widest: float
    shared_with: tuple[str, ...]


def slot_card(assigned: Sequence[tuple[int, int, Lens]]) -> list[SlotEntry]:
    """Return the card of a body in slot order from (number, lens key, lens), naming the lenses that share one."""
    by_number: dict[int, list[tuple[int, Lens]]] = defaultdict(list)
    for number, lens_id, lens in assigned:
        by_number[number].append((lens_id, lens))
    return [
        SlotEntry(
            number=number, lens_id=lens_id, lens_name=lens.name, focal_mm=lens.focal_mm, widest=lens.widest,
            shared_with=tuple(other.name for other_id, other in lenses if other_id != lens_id),
        )
        for number, lenses in sorted(by_number.items())
        for lens_id, lens in lenses
    ]  # fmt: skip


def check_slot(number: int, slots: int) -> int:
    """Return ``number`` when the body has that slot, else raise OutOfRangeError."""
    if not 1 <= number <= slots:
        raise OutOfRangeError(
            "slot", number, "the body has no such slot" if slots else "this body keeps no lens data",
            f"Choose 1 to {slots}" if slots else "Enter its number of slots with the body first",
        )  # fmt: skip
    return number
