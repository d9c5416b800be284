"""Archives and backups made by somebody who means ill, or that are broken: refused in words, nothing stored or touched."""

import datetime as dt
import json
import sqlite3
import zipfile

import pytest

from welotrope.store import backups, outside
from welotrope.store.archive import ArchiveError, read_archive, write_archive
from welotrope.store.files import hash_of, path_of
from welotrope.store.queries import pictures
from welotrope.store.session import DATABASE_NAME, Database, DatabaseUnusableError

NOW = dt.datetime(2026, 3, 14, 12, 0)
SHA = hash_of(b"jpeg")


@pytest.fixture
def archive(demo_folder, tmp_path):
    """An archive with a picture and its kept file; returns it and a function that makes one with rows changed."""
    whole = tmp_path / "whole.zip"
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        connection.execute(
            "INSERT INTO file VALUES (?, ?, 'image/jpeg', 4, '2026-03-14 12:00:00.000000')",
            (SHA, path_of(SHA, "image/jpeg")),
        )
        connection.execute(
            "INSERT INTO picture (id, sha256, name, folder, media_type, bytes, width_px, height_px, clock_s, exif, batch,"
            " thumb_sha) VALUES (1, ?, 'a.jpg', ?, 'image/jpeg', 4, 60, 40, 0, '{}', 'b', ?)",
            (SHA, str(tmp_path), SHA),
        )
    connection.close()
    kept = demo_folder / path_of(SHA, "image/jpeg")
    kept.parent.mkdir(parents=True)
    kept.write_bytes(b"jpeg")
    database = Database(demo_folder)
    write_archive(database, whole, NOW)
    database.close()

    def changed(table, change, manifest=None):
        made = tmp_path / "changed.zip"
        with zipfile.ZipFile(whole) as source, zipfile.ZipFile(made, "w") as out:
            for name in source.namelist():
                data = source.read(name)
                if name == f"tables/{table}.jsonl":
                    rows = [json.loads(line) for line in data.decode().splitlines()]
                    change(rows)
                    data = "".join(json.dumps(row) + "\n" for row in rows).encode()
                if name == "manifest.json":
                    says = json.loads(data)
                    if table in says["counts"]:
                        says["counts"][table] = len(rows_of(source, table, change))
                    says.update(manifest or {})
                    data = json.dumps(says).encode()
                out.writestr(name, data)
        return made

    return whole, changed


def rows_of(source, table, change):
    rows = [json.loads(line) for line in source.read(f"tables/{table}.jsonl").decode().splitlines()]
    change(rows)
    return rows


def first(**values):
    return lambda rows: rows[0].update(values)


def test_pictures_of_an_archive_point_to_no_folder_until_it_is_named(archive, tmp_path):
    whole, _ = archive
    read_archive(whole, tmp_path / "new")
    database = Database(tmp_path / "new")
    with database.session() as uow:
        assert pictures.get_picture(uow, 1).folder == ""
    database.close()
    assert not outside.may_look_into(tmp_path / "new", str(tmp_path))


@pytest.mark.parametrize("path", ["/etc/passwd", "../../secret", "files/../../x"])
def test_a_file_lies_where_its_hash_says_whatever_its_record_does(archive, tmp_path, path):
    _, changed = archive
    read_archive(changed("file", first(path=path)), tmp_path / "new")
    with sqlite3.connect(tmp_path / "new" / DATABASE_NAME) as connection:
        assert connection.execute("SELECT path FROM file").fetchall() == [(path_of(SHA, "image/jpeg"),)]
    connection.close()


BAD = [
    ("file", {"sha256": "../../etc/passwd"}, "picture, record 1"), ("file", {"media_type": "text/x-evil"}, "media_type"),
    ("file", {"bytes": -1}, "bytes"), ("picture", {"name": "../../../etc/passwd"}, "name"),
    ("picture", {"name": "/etc/passwd"}, "name"), ("picture", {"width_px": 0}, "width_px"),
    ("picture", {"taken_at": "yesterday"}, "taken_at"), ("picture", {"exif": "{"}, "exif"),
    ("picture", {"exif": "[]"}, "picture, record 1"), ("picture", {"clock_s": 1e300}, "clock_s"),
    ("lens", {"data": "no JSON"}, "data"), ("lens", {"data": "[]"}, "lens, record"), ("lens", {"name": "x" * 500}, "name"),
    ("body", {"data": "{}"}, "body, record"), ("frame", {"taken_at": "2026-99-01 00:00:00"}, "taken_at"),
    ("frame", {"tags": '{"a": 1}'}, "tags"), ("frame", {"stop": -2}, "stop"), ("frame", {"stop": "wide"}, "stop"),
    ("frame", {"spot": "[2, 3]"}, "spot"), ("frame", {"distance_mm": 0}, "distance_mm"),
    ("outing", {"day": "someday"}, "day"), ("preset", {"subjects": "[1]"}, "subjects"),
    ("preset", {"distance_mm": -5}, "distance_mm"), ("measurement", {"kind": "nonsense"}, "measurement, record"),
    ("setting", {"value": None}, "setting"), ("frame", {"id": 2**70}, "frame, line 1"),
    ("frame", {"stop": {"real": None}}, "frame, line 1"),
]  # fmt: skip


@pytest.mark.parametrize(("table", "values", "words"), BAD, ids=lambda one: str(one)[:30])
def test_a_record_that_makes_no_sense_is_named_and_nothing_is_stored(archive, tmp_path, table, values, words):
    _, changed = archive
    with pytest.raises(ArchiveError, match="Nothing was stored") as refused:
        read_archive(changed(table, first(**values)), tmp_path / "new")
    assert table in str(refused.value)
    assert words in str(refused.value)
    assert "make it again" in str(refused.value)
    assert not (tmp_path / "new" / DATABASE_NAME).exists()
    assert not (tmp_path / "new" / "files").exists()


MANIFESTS = [
    {"version": float("inf")}, {"version": "two"}, {"schema": "0000"}, {"schema": "9999"}, {"schema": "00001"},
    {"counts": {"frame": "many"}}, {"counts": {"frame": -1}}, {"counts": [1, 2]}, {"counts": {"frame": 1e400}},
    {"missing": 7}, {"format": "other"},
]  # fmt: skip


@pytest.mark.parametrize("manifest", MANIFESTS, ids=str)
def test_a_manifest_that_makes_no_sense_is_refused_in_words(archive, tmp_path, manifest):
    _, changed = archive
    with pytest.raises(ArchiveError, match=r"archive|manifest|newer"):
        read_archive(changed("frame", lambda rows: None, manifest), tmp_path / "new")


def test_a_file_that_is_recorded_must_be_there_or_be_said_to_be_missing(archive, tmp_path):
    whole, _ = archive
    for name, missing in (("bad", []), ("good", [SHA])):
        made = tmp_path / f"{name}.zip"
        with zipfile.ZipFile(whole) as source, zipfile.ZipFile(made, "w") as out:
            for entry in source.namelist():
                data = source.read(entry)
                if entry == "manifest.json":
                    data = json.dumps({**json.loads(data), "missing": missing}).encode()
                if not entry.startswith("files/"):
                    out.writestr(entry, data)
    with pytest.raises(ArchiveError, match="file, record .* the archive lacks that file"):
        read_archive(tmp_path / "bad.zip", tmp_path / "new")
    read_archive(tmp_path / "good.zip", tmp_path / "new")


def broken(folder, *statements):
    """A backup with statements run on it."""
    database = Database(folder)
    backup = database.backup(folder / "given.sqlite3")
    database.close()
    with sqlite3.connect(backup) as connection:
        for statement in statements:
            connection.execute(statement)
    connection.close()
    return backup


@pytest.mark.parametrize(
    ("statement", "words"),
    [
        ("DROP TABLE frame_count", "it has no table frame_count"),
        ("CREATE TRIGGER evil AFTER INSERT ON frame BEGIN DELETE FROM lens; END", "strange trigger evil"),
        ("CREATE VIEW looks AS SELECT * FROM lens", "strange view looks"),
        ("ALTER TABLE lens ADD COLUMN more TEXT", "table lens is another"),
        ("UPDATE alembic_version SET version_num = 'abc'", "newer Welotrope"),
        ("UPDATE alembic_version SET version_num = 7", "newer Welotrope"),
        ("UPDATE frame SET taken_at = 'never'", "taken_at"), ("UPDATE lens SET data = 'no JSON'", "lens, record 1, data"),
    ],
)  # fmt: skip
def test_a_backup_that_is_no_database_of_ours_changes_nothing(demo_folder, statement, words):
    backup = broken(demo_folder, statement)
    before = (demo_folder / DATABASE_NAME).read_bytes()
    with pytest.raises(DatabaseUnusableError) as refused:
        backups.restore(backup, demo_folder, NOW)
    assert words in str(refused.value)
    assert (demo_folder / DATABASE_NAME).read_bytes() == before
    assert list(demo_folder.glob(".restore-*")) == []


def test_an_empty_file_and_a_table_with_the_right_revision_are_no_backups(demo_folder):
    empty, bare = demo_folder / "empty.sqlite3", demo_folder / "bare.sqlite3"
    empty.touch()
    with sqlite3.connect(bare) as connection:
        connection.execute("CREATE TABLE alembic_version (version_num VARCHAR)")
        connection.execute("INSERT INTO alembic_version VALUES ('0011')")
    connection.close()
    for backup in (empty, bare):
        with pytest.raises(DatabaseUnusableError, match="Name another"):
            backups.restore(backup, demo_folder, NOW)


def test_a_restored_backup_brings_no_device_and_no_folder_along(demo_folder, tmp_path):
    backup = broken(
        demo_folder,
        "INSERT INTO device (name, secret_hash, paired, seen) VALUES ('mine', 'x', '2026-01-01 00:00:00.000000',"
        " '2026-01-01 00:00:00.000000')",
    )
    new = tmp_path / "elsewhere"
    backups.restore(backup, new, NOW)
    with sqlite3.connect(new / DATABASE_NAME) as connection:
        assert connection.execute("SELECT count(*) FROM device").fetchone() == (0,)
    connection.close()
    assert not outside.may_look_into(new, str(tmp_path))


def test_a_backup_with_kit_that_cannot_be_read_is_restored_as_the_kit_room_shows_it(demo_folder):
    backup = broken(demo_folder, "UPDATE lens SET data = '{}' WHERE id = 1")
    backups.restore(backup, demo_folder, NOW)
    Database(demo_folder).close()
