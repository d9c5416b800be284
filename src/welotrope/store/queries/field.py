"""What the field page takes along, in a handful of statements; and what was taken over from it."""

from __future__ import annotations

import datetime as dt
from collections import defaultdict
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import TypeVar

from sqlalchemy import func, select

from welotrope.core.kit.lens import Lens
from welotrope.core.kit.sheet import SheetChange, SlotEntry, slot_card
from welotrope.core.plan.field_settings import Preset
from welotrope.store.errors import readable
from welotrope.store.models import LensRow, PresetRow, ReceivedRow, SheetLineRow, SheetTickRow, SlotRow
from welotrope.store.queries.kit import StoredSetup, lens_of, list_setups
from welotrope.store.queries.ring_records import preset_of
from welotrope.store.unit_of_work import UnitOfWork

UNDONE = "undone"


def became(uow: UnitOfWork, keys: Iterable[str]) -> dict[str, str]:
    """Return what entries became that were taken over already."""
    rows = uow.sql.execute(select(ReceivedRow.key, ReceivedRow.became).where(ReceivedRow.key.in_(set(keys))))
    return {key: what for key, what in rows}


def remember(uow: UnitOfWork, key: str, at: dt.datetime, what: str) -> None:
    """Remember that an entry was taken over, and what it became."""
    uow.sql.add(ReceivedRow(key=key, at=at, became=what))
    uow.sql.flush()


def forget_frame(uow: UnitOfWork, key: str) -> None:
    """Remember that the frame an entry became was taken back."""
    row = uow.sql.get(ReceivedRow, key)
    if row is not None:
        row.became = UNDONE
        uow.sql.flush()


def latest(uow: UnitOfWork, whats: Iterable[str]) -> dict[str, dt.datetime]:
    """Return the time of the latest entry that became each of these, for those there are."""
    query = select(ReceivedRow.became, func.max(ReceivedRow.at)).where(ReceivedRow.became.in_(set(whats)))
    return {what: at for what, at in uow.sql.execute(query.group_by(ReceivedRow.became))}


RowT = TypeVar("RowT")


@dataclass(frozen=True, kw_only=True)
class FieldKit:
    """Set-ups with what belongs to them: presets by lens, sheet changes and slot cards by body, ticks by set-up."""

    setups: list[StoredSetup]
    presets: dict[int, list[Preset]]
    changes: dict[int, list[SheetChange]]
    slots: dict[int, list[SlotEntry]]
    ticked: dict[int, set[str]]


def field_kit(uow: UnitOfWork, outing_id: int) -> FieldKit:
    """Read it all; ticks are those of an outing (0 without one)."""
    presets = readable(uow.sql.scalars(select(PresetRow).order_by(PresetRow.id)), preset_of)
    lines = uow.sql.scalars(select(SheetLineRow).order_by(SheetLineRow.id))
    slots = uow.sql.execute(
        select(SlotRow.body_id, SlotRow.number, LensRow)
        .join(LensRow, LensRow.id == SlotRow.lens_id)
        .order_by(SlotRow.number, LensRow.name)
    )
    ticks = uow.sql.scalars(select(SheetTickRow).where(SheetTickRow.outing_id == outing_id))
    assigned: dict[int, list[tuple[int, int, Lens]]] = defaultdict(list)
    for body_id, number, row in slots:
        assigned[body_id] += [(number, row.id, lens) for lens in readable([row], lens_of)]
    return FieldKit(
        setups=list_setups(uow), presets=_by(presets, lambda one: one.lens_id),
        changes={
            body: [SheetChange(row.line, row.text, row.reason, row.dropped) for row in rows]
            for body, rows in _by(lines, lambda row: row.body_id).items()
        },
        slots={body: slot_card(held) for body, held in assigned.items()},
        ticked={setup: {row.line for row in rows} for setup, rows in _by(ticks, lambda row: row.setup_id).items()},
    )  # fmt: skip


def _by(rows: Iterable[RowT], key: Callable[[RowT], int]) -> dict[int, list[RowT]]:
    found: dict[int, list[RowT]] = defaultdict(list)
    for row in rows:
        found[key(row)].append(row)
    return found
