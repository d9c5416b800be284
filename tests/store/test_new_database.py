"""A new database is what all the migrations from the first on make of an empty file."""

import sqlite3
from contextlib import closing

import pytest

from welotrope.store import new_database
from welotrope.store.new_database import SCHEMA_FILE, create_database, schema_of
from welotrope.store.session import HEAD_REVISION, Database, upgrade


def held(path):
    """Every table, index and trigger with its SQL, and every row."""
    with closing(sqlite3.connect(path)) as connection:
        made = connection.execute("SELECT type, name, tbl_name, sql FROM sqlite_master").fetchall()
        names = [
            name for kind, name, *_ in made if kind == "table" and not name.startswith(("sqlite_", "frame_words_"))
        ]
        # Migrations that make a table anew order its constraints as chance will have it.
        parts = {row[:3]: sorted(line.strip().rstrip(",") for line in (row[3] or "").splitlines()) for row in made}
        return parts, {
            name: connection.execute(f'SELECT * FROM "{name}"').fetchall() for name in names
        }, connection.execute("PRAGMA integrity_check").fetchall()  # fmt: skip


def test_made_at_once_it_is_as_made_step_by_step(tmp_path):
    upgrade(tmp_path / "steps", revision=HEAD_REVISION)
    create_database(tmp_path / "once")
    assert held(tmp_path / "once") == held(tmp_path / "steps")
    assert schema_of(tmp_path / "once") == SCHEMA_FILE.read_text()


def test_cut_off_it_is_empty_and_begun_anew(tmp_path, monkeypatch):
    half = tmp_path / "half.sql"
    half.write_text("\n".join(SCHEMA_FILE.read_text().splitlines()[:60]) + "\nnonsense;")
    monkeypatch.setattr(new_database, "SCHEMA_FILE", half)
    with pytest.raises(sqlite3.OperationalError):
        Database(tmp_path)
    monkeypatch.undo()
    database = Database(tmp_path)
    assert held(database.path)[1]["alembic_version"] == [(HEAD_REVISION,)]
    database.close()


def test_two_starts_at_once_make_one(tmp_path):
    """The second finds the file filled when its turn comes, and leaves it."""
    create_database(tmp_path / "new")
    before = held(tmp_path / "new")
    create_database(tmp_path / "new")
    assert held(tmp_path / "new") == before
