"""The whole data out and in, backups and restoring: equal after the way there and back, nothing half stored."""

import datetime as dt
import hashlib
import json
import os
import sqlite3
import zipfile

import pytest

from tests.store.released_databases import REVISIONS, released
from welotrope.store import backups
from welotrope.store.archive import ArchiveError, check_archive, read_archive, write_archive
from welotrope.store.queries import kit, log
from welotrope.store.queries.devices import add_device
from welotrope.store.queries.files import keep_file
from welotrope.store.session import DATABASE_NAME, Database, DatabaseUnusableError

NOW = dt.datetime(2026, 3, 14, 12, 0)


def contents(folder):
    """Every row of every table that an archive carries, compared by value."""
    with sqlite3.connect(folder / DATABASE_NAME) as connection:
        names = [
            name
            for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")
            if name not in ("journal", "job") and not name.startswith("sqlite_")
        ]
        return {name: sorted(map(repr, connection.execute(f"SELECT * FROM {name}"))) for name in names}


@pytest.fixture
def written(demo_folder, tmp_path):
    database = Database(demo_folder)
    with database.session() as uow:
        sha = keep_file(uow, b"%PDF-1.4 made up", "application/pdf", NOW)
        assert sha
        uow.commit()
    target = tmp_path / "all.zip"
    steps = []
    write_archive(database, target, NOW, step=lambda *step: steps.append(step))
    database.close()
    assert steps
    return demo_folder, target


def test_an_empty_folder_filled_from_an_archive_holds_the_same(written, tmp_path):
    source, archive = written
    manifest = read_archive(archive, tmp_path / "new")
    assert contents(tmp_path / "new") == contents(source)
    assert manifest.counts["frame"] > 10
    assert sorted(p.name for p in (tmp_path / "new/files").rglob("*.pdf")) == sorted(
        p.name for p in (source / "files").rglob("*.pdf")
    )
    assert list((tmp_path / "new").glob(".import-*")) == []
    again = tmp_path / "again.zip"
    database = Database(tmp_path / "new")
    write_archive(database, again, NOW)
    database.close()
    with zipfile.ZipFile(archive) as one, zipfile.ZipFile(again) as other:
        assert {n: one.read(n) for n in one.namelist()} == {n: other.read(n) for n in other.namelist()}


def test_an_archive_holds_no_secret_of_a_paired_device(demo_folder, tmp_path):
    secret = hashlib.sha256(b"what the cookie of the phone says").hexdigest()
    database = Database(demo_folder)
    with database.session() as uow:
        add_device(uow, "Tide-table phone", secret, NOW)
        uow.commit()
    target = tmp_path / "a.zip"
    write_archive(database, target, NOW)
    database.close()
    with zipfile.ZipFile(target) as archive:
        held = {name: archive.read(name) for name in archive.namelist()}
    assert [name for name, data in held.items() if secret.encode() in data or b"Tide-table phone" in data] == []


@pytest.mark.parametrize("revision", REVISIONS)
def test_an_archive_of_an_older_schema_is_brought_up_to_date(tmp_path, revision):
    old = tmp_path / "old"
    old.mkdir()
    lenses, bodies, frames = released(revision, old)
    archive = tmp_path / "old.zip"
    with sqlite3.connect(old / DATABASE_NAME) as connection, zipfile.ZipFile(archive, "w") as out:
        counts = {}
        for (name,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall():
            if name in ("journal", "job", "alembic_version") or name.startswith(("sqlite_", "frame_words")):
                continue
            cursor = connection.execute(f"SELECT * FROM {name}")
            columns = [one[0] for one in cursor.description]
            rows = [
                {c: {"real": "inf"} if v == float("inf") else v for c, v in zip(columns, row, strict=True)}
                for row in cursor
            ]
            counts[name] = len(rows)
            out.writestr(f"tables/{name}.jsonl", "".join(json.dumps(row) + "\n" for row in rows))
        says = {"format": "welotrope-archive", "version": 1, "schema": revision, "made": "2026-01-01", "counts": counts}
        if "file" in counts:
            says["missing"] = [sha for (sha,) in connection.execute("SELECT sha256 FROM file")]
        out.writestr("manifest.json", json.dumps(says))
    read_archive(archive, tmp_path / "new")
    database = Database(tmp_path / "new")
    with database.session() as uow:
        assert len(kit.list_lenses(uow)) == lenses
        assert len(kit.list_bodies(uow)) == bodies
        assert len(list(log.every_frame(uow))) == frames
        assert kit.broken_kit(uow) == []
    database.close()


def rewritten(archive, target, change):
    """A copy of an archive with entries changed: name to bytes, None to leave it out."""
    with zipfile.ZipFile(archive) as old, zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as new:
        entries = {name: old.read(name) for name in old.namelist()}
        entries |= change(entries)
        for name, data in entries.items():
            if data is not None:
                new.writestr(name, data)
    return target


def manifest_with(**changes):
    return lambda entries: {"manifest.json": json.dumps(json.loads(entries["manifest.json"]) | changes).encode()}


BAD = {
    "a newer schema": (manifest_with(schema="9999"), "newer Welotrope"),
    "a newer archive": (manifest_with(version=7), "newer Welotrope"),
    "no schema": (manifest_with(schema="../../x"), "no archive of Welotrope"),
    "another format": (manifest_with(format="kit"), "no archive of Welotrope"),
    "no manifest": (lambda _: {"manifest.json": None}, "has no manifest"),
    "a broken manifest": (lambda _: {"manifest.json": b"{"}, "cannot be read"),
    "a way out": (lambda _: {"../evil.txt": b"x"}, "does not belong"),
    "an absolute path": (lambda _: {"/etc/evil": b"x"}, "does not belong"),
    "a strange table": (lambda _: {"tables/Frame.jsonl": b"x"}, "does not belong"),
    "one broken record": (lambda e: {"tables/lens.jsonl": e["tables/lens.jsonl"] + b"{not json\n"}, r"lens, line \d+"),
    "an unknown column": (lambda e: {"tables/lens.jsonl": e["tables/lens.jsonl"] + b'{"id": 99, "evil": 1}\n'}, "no column evil"),
    "a record too few": (lambda e: {"tables/frame.jsonl": e["tables/frame.jsonl"].split(b"\n", 1)[1]}, "are announced"),
    "a missing lens": (lambda e: {"tables/lens.jsonl": b"", **manifest_with()(e)}, "is not there|announced"),
    "a changed file": (
        lambda e: {name: b"other" for name in e if name.startswith("files/")}, "is not what it was",
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", BAD)
def test_a_bad_archive_is_refused_in_a_sentence_and_stores_nothing(written, tmp_path, name):
    change, words = BAD[name]
    bad = rewritten(written[1], tmp_path / "bad.zip", change)
    with pytest.raises(ArchiveError, match=words):
        read_archive(bad, tmp_path / "new")
    left = [path for path in (tmp_path / "new").rglob("*")] if (tmp_path / "new").exists() else []
    assert left == []


def test_what_is_no_zip_and_a_bomb_are_not_opened(tmp_path):
    (tmp_path / "text.zip").write_text("hello")
    with pytest.raises(ArchiveError, match="no archive"):
        check_archive(tmp_path / "text.zip")
    with pytest.raises(ArchiveError, match="cannot be read"):
        check_archive(tmp_path / "missing.zip")
    packed = tmp_path / "packed.zip"
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_LZMA) as out:
        out.writestr("manifest.json", "{}")
    with pytest.raises(ArchiveError, match="does not read"):
        check_archive(packed)
    bomb = tmp_path / "bomb.zip"
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as out:
        out.writestr("manifest.json", "{}")
        info = zipfile.ZipInfo("tables/frame.jsonl")
        out.writestr(info, b"0" * 1000)
        out.infolist()[-1].file_size = 9_000_000_000
    with pytest.raises(ArchiveError):
        check_archive(bomb)


TURNS = 12


def test_an_archive_damaged_on_the_way_is_refused_whatever_byte_it_is(written, tmp_path):
    """Bytes all over it turned round: refused in a sentence, or what they belong to does not matter; never a crash."""
    whole = written[1].read_bytes()
    refused = 0
    for turn in range(TURNS):
        place = len(whole) * turn // TURNS
        bad = tmp_path / f"bad{turn}.zip"
        bad.write_bytes(whole[:place] + bytes([whole[place] ^ 0xFF]) + whole[place + 1 :])
        try:
            read_archive(bad, tmp_path / f"new{turn}")
        except ArchiveError:
            refused += 1
            assert not (tmp_path / f"new{turn}" / DATABASE_NAME).exists()
    assert refused > TURNS * 0.8


def test_a_folder_with_data_is_left_alone(written):
    source, archive = written
    before = contents(source)
    with pytest.raises(ArchiveError, match="holds data already"):
        read_archive(archive, source)
    assert contents(source) == before


def change(database, number):
    with database.session() as uow:
        log.add_outing(uow, f"day {number}", dt.date(2026, 1, 1))
        uow.commit()


@pytest.mark.parametrize("name", ["welotrope-20991231-235959.sqlite3", "welotrope-20269999-777777.sqlite3"])
def test_a_backup_dated_ahead_or_impossibly_stops_none(demo_folder, name):
    """A clock that once stood in 2099, or a file somebody named."""
    database = Database(demo_folder)
    change(database, 0)
    first = backups.keep_due(database, NOW)
    first.rename(first.with_name(name))
    made = []
    for day in range(16):
        change(database, day + 1)
        made.append(backups.keep_due(database, NOW + dt.timedelta(days=day)))
    assert all(made)
    database.close()


def test_a_change_is_seen_though_the_clock_was_set_back(demo_folder):
    database = Database(demo_folder)
    assert backups.keep_due(database, NOW)
    change(database, 1)
    for path in demo_folder.glob(f"{DATABASE_NAME}*"):
        os.utime(path, (1e9, 1e9))
    assert backups.keep_due(database, NOW + dt.timedelta(days=1))
    database.close()


def test_a_backup_an_hour_when_something_changed_and_at_the_end_of_a_session(demo_folder):
    database, minute = Database(demo_folder), dt.timedelta(minutes=1)
    assert backups.keep_due(database, NOW)
    change(database, 1)
    assert backups.keep_due(database, NOW + 50 * minute) is None
    assert backups.keep_due(database, NOW + 61 * minute)
    change(database, 2)
    assert backups.keep_due(database, NOW + 62 * minute) is None
    closing = backups.keep_due(database, NOW + 62 * minute, closing=True)
    assert closing is not None
    for _ in range(2):  # looked at once, known to be the same the second time
        assert backups.keep_due(database, NOW + 300 * minute, closing=True) is None
        assert backups.keep_now(database, NOW + 300 * minute) is None
    change(database, 3)
    assert backups.keep_now(database, NOW + 301 * minute)
    assert dict(backups.list_backups(demo_folder)[0].holds)["lenses"] == 6
    database.close()


def test_backups_get_rarer_the_older_they_are(tmp_path):
    """Three years of one an hour: what stays is dense of late and reaches far back."""
    made = [NOW - dt.timedelta(hours=hour) for hour in range(3 * 365 * 24)]
    paths = [tmp_path / f"welotrope-{one:%Y%m%d-%H%M%S}.sqlite3" for one in made]
    gone = set(backups.thinned(paths, NOW))
    kept = [one for one, path in zip(made, paths, strict=True) if path not in gone]
    ages = [NOW - one for one in kept]
    assert sum(age <= dt.timedelta(days=1) for age in ages) in (24, 25)
    assert sum(dt.timedelta(days=1) < age <= dt.timedelta(days=14) for age in ages) in (13, 14, 15)
    assert sum(dt.timedelta(days=14) < age <= dt.timedelta(days=92) for age in ages) in (11, 12, 13)
    assert 20 <= sum(dt.timedelta(days=92) < age for age in ages) <= 24
    assert max(ages) > dt.timedelta(days=690)
    assert made[0] in kept


def test_restoring_keeps_what_was_there(demo_folder, tmp_path):
    database = Database(demo_folder)
    backup = database.backup(tmp_path / "kept.sqlite3")
    with database.session() as uow:
        kit.delete_lens(uow, 1)
        uow.commit()
    database.close()
    kept = backups.restore(backup, demo_folder, NOW)
    database = Database(demo_folder)
    with database.session() as uow:
        assert len(kit.list_lenses(uow)) == 6
    database.close()
    with sqlite3.connect(kept) as old:
        assert old.execute("SELECT count(*) FROM lens").fetchone()[0] == 5


def test_nothing_is_restored_from_what_is_no_backup_or_while_in_use(demo_folder, tmp_path):
    (tmp_path / "bad.sqlite3").write_text("no database at all, but long enough to be looked at" * 30)
    for name, words in (("bad.sqlite3", "not a database"), ("missing.sqlite3", "is not there")):
        with pytest.raises(DatabaseUnusableError, match=words):
            backups.restore(tmp_path / name, demo_folder, NOW)
    database = Database(demo_folder)
    backup = database.backup(tmp_path / "kept.sqlite3")
    with database.session() as uow:
        assert kit.list_lenses(uow)
        with pytest.raises(DatabaseUnusableError, match="in use"):
            backups.restore(backup, demo_folder, NOW)
    database.close()
