"""Set-ups with all that belongs to them in two statements, without the mapper: every page begins with one.

What is read has the attributes of the mapped rows, and is turned into values by the same functions.
"""

from __future__ import annotations

from collections import defaultdict
from types import SimpleNamespace
from typing import Any

from sqlalchemy import ColumnElement, select

from welotrope.store.models import AdapterRow, BodyRow, LensRow, MeasurementRow, MountRow, SetupRow
from welotrope.store.unit_of_work import UnitOfWork

_SETUP, _BODY, _LENS = (kind.__table__ for kind in (SetupRow, BodyRow, LensRow))
_ADAPTER, _CONVERTER = (AdapterRow.__table__.alias(name) for name in ("adapter_1", "adapter_2"))
_BODY_MOUNT, _LENS_MOUNT, _LENS_SIDE, _BODY_SIDE, _FRONT_SIDE, _BACK_SIDE = (
    MountRow.__table__.alias(f"mount_{k}") for k in range(6)
)
_RECORD = MeasurementRow.__table__
_PARTS = (
    _SETUP, _BODY, _LENS, _ADAPTER, _CONVERTER, _BODY_MOUNT, _LENS_MOUNT, _LENS_SIDE, _BODY_SIDE, _FRONT_SIDE,
    _BACK_SIDE,
)  # fmt: skip
_ENDS = [sum(len(part.c) for part in _PARTS[: k + 1]) for k in range(len(_PARTS))]
_JOINED = select(*[column for part in _PARTS for column in part.c]).select_from(
    _SETUP.join(_BODY, _SETUP.c.body_id == _BODY.c.id)
    .join(_LENS, _SETUP.c.lens_id == _LENS.c.id)
    .outerjoin(_ADAPTER, _SETUP.c.adapter_id == _ADAPTER.c.id)
    .outerjoin(_BODY_MOUNT, _BODY.c.mount_id == _BODY_MOUNT.c.id)
    .outerjoin(_LENS_MOUNT, _LENS.c.mount_id == _LENS_MOUNT.c.id)
    .outerjoin(_LENS_SIDE, _ADAPTER.c.lens_mount_id == _LENS_SIDE.c.id)
    .outerjoin(_BODY_SIDE, _ADAPTER.c.body_mount_id == _BODY_SIDE.c.id)
    .outerjoin(_CONVERTER, _SETUP.c.converter_id == _CONVERTER.c.id)
    .outerjoin(_FRONT_SIDE, _CONVERTER.c.lens_mount_id == _FRONT_SIDE.c.id)
    .outerjoin(_BACK_SIDE, _CONVERTER.c.body_mount_id == _BACK_SIDE.c.id)
)


def joined_setups(uow: UnitOfWork, *where: ColumnElement[bool]) -> list[Any]:
    """Return set-up rows with body, lens, adapter, mounts and records, in the order they were made."""
    rows = [_apart(tuple(row)) for row in uow.sql.execute(_JOINED.where(*where).order_by(_SETUP.c.id))]
    records = defaultdict(list)
    for record in uow.sql.execute(select(_RECORD).where(_RECORD.c.lens_id.in_({row.lens_id for row in rows}))):
        records[record.lens_id].append(record)
    for row in rows:
        row.lens.measurements = records[row.lens_id]
    return rows


def _apart(values: tuple[object, ...]) -> Any:
    starts = [0, *_ENDS[:-1]]
    parts = [_part(part, values[start:end]) for part, start, end in zip(_PARTS, starts, _ENDS, strict=True)]
    setup, body, lens, adapter, converter, body.mount, lens.mount, *sides = parts
    for piece, (lens_side, body_side) in ((adapter, sides[:2]), (converter, sides[2:])):
        if piece is not None:
            piece.lens_side, piece.body_side = lens_side, body_side
    setup.body, setup.lens, setup.adapter, setup.converter = body, lens, adapter, converter
    return setup


def _part(table: Any, values: tuple[object, ...]) -> Any:
    """Return a part's values by name, None for one that is not there."""
    return None if values[0] is None else SimpleNamespace(**dict(zip(table.c.keys(), values, strict=True)))
