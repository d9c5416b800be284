"""What is short is said: room on the disk, and the time of others; nothing is half done."""

import errno
import os
import threading

import pytest
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from tests.web.pages import text_of
from welotrope.store import files
from welotrope.store.queries import log


@pytest.mark.parametrize("where", ["database", "file"])
def test_a_full_disk_is_507_with_a_sentence_and_nothing_is_stored(client, database, monkeypatch, where):
    def full(*_args, **_more):
        if where == "file":
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
        raise OperationalError("INSERT", {}, Exception("database or disk is full"))

    with database.session() as uow:
        before = len(list(log.every_frame(uow)))
    monkeypatch.setattr(Session, "commit", full)
    answer = client.post("/log/frames", data={"at": "2.4 m", "stop": "5.6"})
    assert answer.status_code == 507
    assert "no room left on the disk" in text_of(answer)
    assert "make room" in text_of(answer)
    monkeypatch.undo()
    with database.session() as uow:
        assert len(list(log.every_frame(uow))) == before


def test_a_change_that_others_hold_up_for_too_long_is_503(client, monkeypatch):
    def locked(*_args, **_more):
        raise OperationalError("BEGIN IMMEDIATE", {}, Exception("database is locked"))

    monkeypatch.setattr(Session, "commit", locked)
    answer = client.post("/log/frames", data={"at": "2.4 m", "stop": "5.6"})
    assert answer.status_code == 503
    assert "Nothing was stored; try again" in text_of(answer)


def test_who_comes_when_too_much_is_made_is_told_so_and_pages_come_as_ever(client):
    turnstile = client.app.state.heavy
    held = [turnstile.enter() for _ in range(2)]
    for one in held:
        one.__enter__()
    waiting = [threading.Thread(target=client.get, args=("/field/cards.svg",)) for _ in range(6)]
    turnstile._wait_s = 60
    for thread in waiting:
        thread.start()
    while turnstile._room._value:
        threading.Event().wait(0.01)
    answer = client.get("/field/cards.pdf")
    assert answer.status_code == 503
    assert answer.headers["retry-after"]
    assert "try again" in text_of(answer)
    assert client.get("/scale").status_code == 200
    for one in held:
        one.__exit__(None, None, None)
    for thread in waiting:
        thread.join(60)
    assert client.get("/field/cards.pdf").status_code == 200


def test_no_picture_is_half_written_when_the_disk_fills(tmp_path, monkeypatch):
    def full(_file):
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(files.os, "fsync", full)
    with pytest.raises(OSError, match="No space"):
        files.write(tmp_path, files.path_of("a" * 64, "image/jpeg"), b"jpeg")
    assert [path for path in tmp_path.rglob("*") if path.is_file()] == []


@pytest.mark.parametrize("path", ["/log/export.csv", "/log/export.csv?outing=1", "/log/export.json?outing=1"])
def test_an_export_leaves_no_file_behind(client, tmp_path, monkeypatch, path):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    assert client.get(path).status_code == 200
    assert list(tmp_path.glob("tmp*")) == []


def test_an_export_of_what_is_not_there_is_not_found(client):
    assert client.get("/log/export.json?outing=999").status_code == 404
