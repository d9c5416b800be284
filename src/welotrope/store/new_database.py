"""A new database, made at once from the schema that all migrations lead to, which is kept as SQL beside them."""

from __future__ import annotations

import sqlite3
import tempfile
from collections.abc import Iterator
from pathlib import Path

SCHEMA_FILE = Path(__file__).parent / "migrations" / "schema.sql"
# What a full-text table makes for itself, and what SQLite does.
_MADE_BY_OTHERS = "name LIKE 'sqlite\\_%' ESCAPE '\\' OR type = 'table' AND name LIKE 'frame\\_words\\_%' ESCAPE '\\'"


def create_database(path: Path) -> None:
    """Fill a new file with the tables, in one transaction: cut off anywhere, it is empty.

    One that another start has filled meanwhile is left as it is.
    """
    connection = sqlite3.connect(path, isolation_level=None)
    try:
        connection.execute("BEGIN IMMEDIATE")
        if connection.execute("SELECT count(*) FROM sqlite_master").fetchone()[0] == 0:
            for statement in _statements(SCHEMA_FILE.read_text(encoding="utf-8")):
                connection.execute(statement)
        connection.execute("COMMIT")
    finally:
        connection.close()


def schema_of(path: Path) -> str:
    """Return the SQL that makes a new database like the one at ``path``, with the rows that come with it.

    Migrations that make a table anew put its constraints and indexes in an order that differs from run to run: here
    they stand in order of their names.
    """
    connection = sqlite3.connect(path)
    try:
        made = connection.execute(
            "SELECT type, name, sql FROM sqlite_master"
            f" WHERE sql IS NOT NULL AND NOT ({_MADE_BY_OTHERS}) ORDER BY rowid"
        ).fetchall()
        tables = [name for kind, name, sql in made if kind == "table" and "VIRTUAL" not in sql]
        rows = [f'INSERT INTO "{name}" VALUES({values});' for name in tables for values in _rows(connection, name)]
    finally:
        connection.close()
    # Triggers last: what comes with the tables is counted in already.
    first = [f"{_in_order(sql)};" for kind, _, sql in made if kind == "table"]
    first += sorted(f"{sql};" for kind, _, sql in made if kind == "index")
    last = [f"{sql};" for kind, _, sql in made if kind == "trigger"]
    return "\n".join([*first, *rows, *last]) + "\n"


def differs_from_new(path: Path) -> str:
    """Say in what the tables of a database differ from those of a new one; empty if in nothing.

    A trigger or a view that is none of ours would do what it likes with every change.
    """
    with tempfile.TemporaryDirectory() as folder:
        new = Path(folder) / path.name
        create_database(new)
        wanted, found = _shape(new), _shape(path)
    for name in sorted(set(wanted) | set(found)):
        if name not in found:
            return f"it has no {name}"
        if name not in wanted:
            return f"it has a strange {name}"
        if wanted[name] != found[name]:
            return f"its {name} is another"
    return ""


def _shape(path: Path) -> dict[str, object]:
    """Return the columns of each table, and the rest of what there is by its SQL."""
    connection = sqlite3.connect(path)
    try:
        made = connection.execute("SELECT type, name, sql FROM sqlite_master WHERE sql IS NOT NULL").fetchall()
        return {
            f"{kind} {name}": (
                {column[1] for column in connection.execute(f'PRAGMA table_info("{name}")')}
                if kind == "table"
                else " ".join(sql.split())
                if kind == "trigger"
                else ""
            )
            for kind, name, sql in made
        }
    finally:
        connection.close()


def _in_order(table: str) -> str:
    """Return the SQL of a table with its constraints in order of their names."""
    lines = table.split("\n")
    at = [index for index, line in enumerate(lines) if line.lstrip().startswith("CONSTRAINT ")]
    held = sorted(lines[index].rstrip().removesuffix(",") for index in at)
    for index, line in zip(at, held, strict=True):
        lines[index] = line + (", " if index != at[-1] else "")
    return "\n".join(lines)


def _statements(script: str) -> Iterator[str]:
    held = ""
    for line in script.splitlines():
        held += line + "\n"
        if sqlite3.complete_statement(held):
            yield held
            held = ""
    if held.strip():
        yield held


def _rows(connection: sqlite3.Connection, table: str) -> list[str]:
    columns = [name for _, name, *_ in connection.execute(f'PRAGMA table_info("{table}")')]
    quoted = " || ',' || ".join(f'quote("{name}")' for name in columns)
    return [values for (values,) in connection.execute(f'SELECT {quoted} FROM "{table}" ORDER BY rowid')]
