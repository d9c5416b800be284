"""Undo: every change made inside ``recorded`` is kept as rows before and after, and can be taken back.

An entry is taken back only where nothing later is lost by it: every row it touched must still be as it left it, and
nothing outside the entry may depend on what would go.
"""

from __future__ import annotations

import datetime as dt
import json
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace

from sqlalchemy import (
    ColumnElement,
    Connection,
    Date,
    DateTime,
    Table,
    delete,
    event,
    insert,
    inspect,
    literal_column,
    select,
    text,
    update,
)
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session, UOWTransaction

from welotrope.core.errors import ConflictError
from welotrope.core.json_values import JsonObject
from welotrope.store.models import (
    Base,
    FileRow,
    JobRow,
    JournalRow,
    PictureImportRow,
    PictureMapRow,
    SettingRow,
    SidecarRow,
)

KEEP = 200
_AT_ONCE = 500
_CHANGES = "changes of the entry being recorded"
# What is made again, kept by hash, or undone in its own way.
_NOT_UNDONE = (JournalRow, SettingRow, JobRow, FileRow, PictureImportRow, PictureMapRow, SidecarRow)
Row = JsonObject
# What things are called in the sentences of a refusal.
_NOUNS = {
    "mount": "mount", "adapter": "adapter", "body": "body", "lens": "lens", "setup": "set-up", "measurement": "record",
    "preset": "preset", "outing": "outing", "frame": "frame", "slot": "slot", "sheet_line": "line of a sheet",
    "sheet_tick": "tick", "attachment": "attachment", "trial": "round", "drill": "trial",
    "kit_change": "change of the kit", "eye_constant": "constant",
    "picture": "picture", "roll": "roll", "test_shot": "test shot",
}  # fmt: skip


@dataclass(frozen=True)
class _Change:
    """A row's way through an entry: None before for one that was added, None after for one that was deleted."""

    table: Table
    key: object
    before: Row | None
    after: Row | None

    @property
    def noun(self) -> str:
        return _NOUNS.get(self.table.name, "record")


@contextmanager
def recorded(session: Session, label: str, at: dt.datetime) -> Iterator[JournalRow]:
    """Record all changes flushed inside the block as one undoable entry named ``label``; does not commit."""
    changes: list[JsonObject] = []
    session.info[_CHANGES] = changes

    def before_flush(session: Session, _context: UOWTransaction, _instances: object) -> None:
        for row in session.deleted:
            changes.append(_entry(row, before=_row(row, committed=True), after=None))
        for row in session.dirty:
            if session.is_modified(row) and _undoable(row):
                changes.append(_entry(row, before=_row(row, committed=True), after=_row(row)))

    def after_flush(session: Session, _context: UOWTransaction) -> None:
        for row in session.new:
            if _undoable(row):
                changes.append(_entry(row, before=None, after=_row(row)))

    session.flush()
    event.listen(session, "before_flush", before_flush)
    event.listen(session, "after_flush", after_flush)
    entry = JournalRow(label=label, at=at, changes=[], undone=False)
    try:
        yield entry
        session.flush()
    finally:
        event.remove(session, "before_flush", before_flush)
        event.remove(session, "after_flush", after_flush)
        session.info.pop(_CHANGES, None)
    entry.changes = changes
    session.add(entry)
    session.flush()
    session.execute(delete(JournalRow).where(JournalRow.id <= entry.id - KEEP))


def delete_rows(session: Session, table: Table, which: ColumnElement[bool]) -> None:
    """Delete many rows at once, inside ``recorded`` as part of its entry; what depends on them is not told."""
    changes = session.info.get(_CHANGES)
    if changes is not None:
        for row in session.execute(select(table).where(which)).mappings():
            before = {name: _plain(value) for name, value in row.items()}
            changes.append({"table": table.name, "before": before, "after": None})
    session.execute(delete(table).where(which))
    session.expire_all()


def undo(session: Session, entry: JournalRow, at: dt.datetime) -> JournalRow:
    """Take an entry back and return the entry that would undo the undoing; does not commit.

    Raises
    ------
    ConflictError
        When it was taken back already, is too old for the tables, or something later would be lost.
    """
    if entry.undone:
        raise ConflictError("undo", entry.label, "that was undone already", "Nothing was changed")
    if entry.retired:
        raise ConflictError(
            "undo", entry.label, "it was made before an update of Welotrope", "Nothing was changed; change it by hand"
        )
    net = _of_today(session, _net(entry.changes))
    _check_rows(session, entry, net)
    _check_dependents(session, entry, net)
    reverse = [_Change(c.table, c.key, c.after, c.before) for c in net]
    session.execute(text("PRAGMA defer_foreign_keys = ON"))
    try:
        _apply(session, reverse)
        _check_references(session)
    except IntegrityError as error:
        session.rollback()
        raise ConflictError(
            "undo", entry.label, "later changes stand in the way", "Undo those first; nothing was changed"
        ) from error
    entry.undone = True
    kept = [{"table": c.table.name, "before": c.before, "after": c.after} for c in reverse]
    back = JournalRow(label=f"Undid: {entry.label}", at=at, changes=kept, undone=False)
    session.add(back)
    session.flush()
    session.expire_all()
    return back


def _net(changes: Sequence[JsonObject]) -> list[_Change]:
    """Join the changes of each row: as it was first, and as it was left; a row that came and went is left out."""
    joined: dict[tuple[str, object], _Change] = {}
    for change in changes:
        table = Base.metadata.tables[change["table"]]
        key = (change["after"] or change["before"])[_key(table)]
        first = joined.get((table.name, key))
        before = change["before"] if first is None else first.before
        joined[table.name, key] = _Change(table, key, before, change["after"])
    return [change for change in joined.values() if change.before is not None or change.after is not None]


def renamed_in_entries(connection: Connection, table: str, columns: Mapping[str, str]) -> None:
    """Rename columns of a table in every entry, old name to new: what a migration does beside renaming them."""
    for id, changes in connection.execute(text("SELECT id, changes FROM journal")).all():
        held = json.loads(changes)
        for change in held:
            for row in (change["before"], change["after"]) if change["table"] == table else ():
                if row is not None:
                    row |= {new: row.pop(old) for old, new in columns.items() if old in row}
        connection.execute(
            text("UPDATE journal SET changes = :changes WHERE id = :id"), {"changes": json.dumps(held), "id": id}
        )


def _of_today(session: Session, net: list[_Change]) -> list[_Change]:
    """Return changes with the columns that their tables have got since: as they were filled when they came."""
    came: dict[Table, Row] = {}
    found = []
    for change in net:
        before, after, table = change.before, change.after, change.table
        if not set(table.columns.keys()) <= set(before or after or {}):
            filled = came.get(table) or came.setdefault(table, _defaults(session, table))
            before, after = (row and filled | row for row in (before, after))
        found.append(replace(change, before=before, after=after))
    return found


def _defaults(session: Session, table: Table) -> Row:
    """Return what the columns of a table hold where nothing is said of them."""
    columns = session.execute(text(f"PRAGMA table_info({table.name})")).mappings().all()
    said = [literal_column(one["dflt_value"] or "NULL", table.c[one["name"]].type) for one in columns]
    values = session.execute(select(*said)).one()
    return {one["name"]: _plain(value) for one, value in zip(columns, values, strict=True)}


def _check_rows(session: Session, entry: JournalRow, net: list[_Change]) -> None:
    current = _current(session, net)
    for change in net:
        if _same(current.get((change.table.name, change.key)), change.after):
            continue
        later = _later(session, entry, change)
        why = f"“{later}” changed the same {change.noun} later" if later else f"the {change.noun} was changed later"
        works = "Undo that first; nothing was changed" if later else "Nothing was changed; change it by hand"
        raise ConflictError("undo", entry.label, why, works)


def _check_dependents(session: Session, entry: JournalRow, net: list[_Change]) -> None:
    """Refuse when rows outside the entry refer to what would go."""
    going = {(change.table.name, change.key) for change in net if change.before is None}
    found: dict[str, int] = {}
    for table in Base.metadata.tables.values():
        for foreign in table.foreign_keys:
            keys = [key for name, key in going if name == foreign.column.table.name]
            for start in range(0, len(keys), _AT_ONCE):
                query = select(table.c[_key(table)]).where(foreign.parent.in_(keys[start : start + _AT_ONCE]))
                outside = [key for key in session.scalars(query) if (table.name, key) not in going]
                # A row that the entry points elsewhere again lets go of it.
                freed = {change.key for change in net if change.table is table and change.before is not None}
                count = len([key for key in outside if key not in freed])
                found[table.name] = found.get(table.name, 0) + count
    found = {name: count for name, count in found.items() if count}
    if found:
        counted = " and ".join(_counted(count, _NOUNS.get(name, "record")) for name, count in found.items())
        one = sum(found.values()) == 1
        raise ConflictError(
            "undo", entry.label, f"{counted} that came later would go with it",
            f"Undo or delete {'it' if one else 'those'} first; nothing was changed",
        )  # fmt: skip


def _counted(count: int, noun: str) -> str:
    return f"1 {noun}" if count == 1 else f"{count} {noun[:-1] + 'ies' if noun.endswith('y') else noun + 's'}"


def _later(session: Session, entry: JournalRow, change: _Change) -> str:
    """Label of the newest entry after this one that touched a row and stands; empty when there is none."""
    query = (
        select(JournalRow).where(JournalRow.id > entry.id, JournalRow.undone.is_(False)).order_by(JournalRow.id.desc())
    )
    for other in session.scalars(query):
        for touched in other.changes:
            row = touched["after"] or touched["before"]
            if touched["table"] == change.table.name and row[_key(change.table)] == change.key:
                return other.label
    return ""


def _current(session: Session, net: list[_Change]) -> dict[tuple[str, object], Row]:
    """Return the rows that changes are of as they are now, by table and key."""
    found: dict[tuple[str, object], Row] = {}
    for table, keys in _by_table(net).items():
        for start in range(0, len(keys), _AT_ONCE):
            query = select(table).where(table.c[_key(table)].in_(keys[start : start + _AT_ONCE]))
            for row in session.execute(query).mappings():
                found[table.name, row[_key(table)]] = {name: _plain(value) for name, value in row.items()}
    return found


def _by_table(changes: Sequence[_Change]) -> dict[Table, list[object]]:
    keys: dict[Table, list[object]] = {}
    for change in changes:
        keys.setdefault(change.table, []).append(change.key)
    return keys


def _same(row: Row | None, other: Row | None) -> bool:
    """Whether two rows hold the same, whole numbers and decimals alike."""
    return row == other or bool(json.loads(json.dumps(row)) == json.loads(json.dumps(other)))


def _apply(session: Session, changes: list[_Change]) -> None:
    """Write rows as they were: updates, then deletions from the leaves, then insertions from the roots."""
    order = {table.name: index for index, table in enumerate(Base.metadata.sorted_tables)}
    by_root = sorted(changes, key=lambda change: order[change.table.name])
    for change in by_root:
        if change.before is not None and change.after is not None:
            where = change.table.c[_key(change.table)] == change.key
            session.execute(update(change.table).where(where).values(_from_json(change.table, change.after)))
    for table, keys in _by_table([change for change in reversed(by_root) if change.after is None]).items():
        for start in range(0, len(keys), _AT_ONCE):
            session.execute(delete(table).where(table.c[_key(table)].in_(keys[start : start + _AT_ONCE])))
    coming: dict[Table, list[Row]] = {}
    for change in by_root:
        if change.before is None and change.after is not None:
            coming.setdefault(change.table, []).append(_from_json(change.table, change.after))
    for table, rows in coming.items():
        for start in range(0, len(rows), _AT_ONCE):
            session.execute(insert(table), rows[start : start + _AT_ONCE])


def _check_references(session: Session) -> None:
    broken = session.execute(text("PRAGMA foreign_key_check")).first()
    if broken is not None:
        raise IntegrityError("foreign_key_check", None, ValueError(f"{broken[0]} refers to nothing"))


def _key(table: Table) -> str:
    return str(next(iter(table.primary_key.columns)).key)


def _undoable(row: object) -> bool:
    return not isinstance(row, _NOT_UNDONE)


def _entry(row: Base, before: Row | None, after: Row | None) -> JsonObject:
    return {"table": row.__tablename__, "before": before, "after": after}


def _row(row: Base, *, committed: bool = False) -> Row:
    values: Row = {}
    state = inspect(row)
    for column in row.__table__.columns:
        history = state.attrs[column.key].history
        values[column.key] = _plain(history.deleted[0] if committed and history.deleted else getattr(row, column.key))
    return values


def _plain(value: object) -> object:
    return value.isoformat() if isinstance(value, dt.date) else value


def _from_json(table: Table, values: Row) -> Row:
    restored = dict(values)
    for column in table.columns:
        value = restored.get(column.key)
        if isinstance(value, str) and isinstance(column.type, DateTime):
            restored[column.key] = dt.datetime.fromisoformat(value)
        elif isinstance(value, str) and isinstance(column.type, Date):
            restored[column.key] = dt.date.fromisoformat(value)
    return restored
