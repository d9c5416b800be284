"""Bytes by their hash: kept once, found again, gone when nothing wants them."""

import datetime as dt
import hashlib
import os
import stat

from sqlalchemy import text

from welotrope.store.backups import keep_now
from welotrope.store.queries import files, history
from welotrope.store.sweeping import sweep_daily

NOW = dt.datetime(2026, 3, 15, 10, 30)


def kept(uow):
    return list(uow.sql.scalars(text("SELECT sha256 FROM file")))


PICTURE = b"\xff\xd8 not really a picture"


def test_bytes_come_back_under_the_hash_that_any_program_gives_them(database):
    with database.session() as uow:
        sha = files.keep_file(uow, PICTURE, "image/jpeg", NOW)
        assert sha == hashlib.sha256(PICTURE).hexdigest()
        assert files.read_file(uow, sha) == (PICTURE, "image/jpeg")
        (path,) = (database.folder / "files").rglob("*.jpg")
        assert path.name == f"{sha}.jpg"
        assert stat.S_IMODE(path.stat().st_mode) & 0o077 == 0


def test_the_same_bytes_are_kept_once(database):
    with database.session() as uow:
        assert files.keep_file(uow, PICTURE, "image/jpeg", NOW) == files.keep_file(uow, PICTURE, "image/png", NOW)
        assert len(kept(uow)) == 1
        assert len([path for path in (database.folder / "files").rglob("*") if path.is_file()]) == 1


def test_a_damaged_or_missing_file_is_none_and_can_be_kept_again(database):
    with database.session() as uow:
        sha = files.keep_file(uow, PICTURE, "image/jpeg", NOW)
        (path,) = (database.folder / "files").rglob("*.jpg")
        path.write_bytes(b"something else")
        assert files.read_file(uow, sha) is None
        path.unlink()
        assert files.read_file(uow, sha) is None
        files.keep_file(uow, PICTURE, "image/jpeg", NOW)
        assert files.read_file(uow, sha) == (PICTURE, "image/jpeg")


def test_the_journal_holds_no_bytes_and_keeps_what_it_could_bring_back(database):
    with database.session() as uow:
        with history.recorded(uow, "Kept a picture", NOW):
            sha = files.keep_file(uow, PICTURE, "image/jpeg", NOW)
        held = uow.sql.execute(text("SELECT changes FROM journal ORDER BY id DESC LIMIT 1")).scalar_one()
        assert "not really" not in held
        uow.sql.execute(text("UPDATE journal SET changes = :changes"), {"changes": f'["{sha}"]'})
        assert files.sweep_files(uow) == []
        uow.sql.execute(text("UPDATE journal SET changes = '[]'"))
        assert files.sweep_files(uow, {sha}) == []
        (gone,) = files.sweep_files(uow)
        assert gone.name == f"{sha}.jpg"
        assert kept(uow) == []


def test_files_are_deleted_once_a_day_and_never_one_that_a_backup_refers_to(database):
    folder = database.folder / "files"
    with database.session() as uow:
        files.keep_file(uow, PICTURE, "image/jpeg", NOW)
        uow.commit()
    backup = keep_now(database, NOW)
    assert sweep_daily(database, NOW) == 0
    assert list(folder.rglob("*.jpg"))
    backup.write_bytes(b"no database at all")
    assert sweep_daily(database, NOW + dt.timedelta(days=1)) == 0
    backup.unlink()
    assert sweep_daily(database, NOW) == 0  # it was looked at that day
    assert sweep_daily(database, NOW + dt.timedelta(days=1)) == 1
    assert not [path for path in folder.rglob("*") if path.is_file()]
    with database.session(write=False) as uow:
        assert kept(uow) == []


def test_a_disk_that_refuses_leaves_nothing_behind(database, monkeypatch):
    def refuse(*_args):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", refuse)
    with database.session() as uow:
        try:
            files.keep_file(uow, PICTURE, "image/jpeg", NOW)
        except OSError:
            pass
        else:
            raise AssertionError("it should have been refused")
        assert kept(uow) == []
    assert not [path for path in (database.folder / "files").rglob("*") if path.is_file()]
