"""Sidecars while the program is killed, the disk fills, or another program writes.

Each is what it was or what it was to be, everything is known, and putting back brings every byte back.
"""

import datetime as dt
import errno
import os
import random
import signal
from pathlib import Path

import pytest
from sqlalchemy.orm import Session

from tests.web.pages import text_of
from welotrope.store.queries import sidecars
from welotrope.store.queries.sidecars import SidecarState
from welotrope.store.session import Database
from welotrope.web.rooms.log import sidecar_writing
from welotrope.web.rooms.log import sidecar_writing as sidecar_files

NOW = dt.datetime(2026, 3, 15, 10, 30)
OTHERS = b'<?xpacket?><x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:xmp="http://ns.adobe.com/xap/1.0/" xmp:Rating="4"/></rdf:RDF></x:xmpmeta>'


def state_of(place):
    return {path.name: path.read_bytes() for path in sorted(place.iterdir()) if not path.name.startswith(".")}


def prepared(folder):
    """The folder of the pictures, one in three of them with a sidecar by another program."""
    place = folder / "Pictures of the Teal"
    for number, path in enumerate(sorted(place.glob("*.jpg"))):
        if number % 3 == 0:
            path.with_suffix(".xmp").write_bytes(OTHERS + b"\n" * number)
    return place


def killed_in(folder, do, step):
    """Do it in a child that is killed at the n-th time it moves a file or commits; returns whether it was."""
    child = os.fork()
    if child == 0:
        seen = [0]

        def counting(call):
            def counted(*args, **more):
                for when in ("before", "after"):
                    seen[0] += 1
                    if seen[0] == step:
                        os.kill(os.getpid(), signal.SIGKILL)
                    if when == "before":
                        found = call(*args, **more)
                return found

            return counted

        try:
            os.replace, os.unlink = counting(os.replace), counting(os.unlink)
            Session.commit = counting(Session.commit)
            Path.unlink = counting(Path.unlink)
            database = Database(folder)
            do(database)
        finally:
            os._exit(0)
    _, status = os.waitpid(child, 0)
    return os.WIFSIGNALED(status)


def all_put_back(database):
    with database.session(write=False) as uow:
        keys = [batch.key for batch in sidecars.latest_batches(uow, limit=1000)]
    return [sidecar_writing.put_back(database, key) for key in keys]


def test_twenty_kills_while_sidecars_are_written_and_put_back_lose_nothing(pictured_folder):
    place = prepared(pictured_folder)
    before = state_of(place)
    pictures = {name: data for name, data in before.items() if not name.endswith(".xmp")}
    rng, kills = random.Random(12), 0
    while kills < 20:
        kills += killed_in(
            pictured_folder, lambda base: sidecar_writing.write_sidecars(base, 1, lambda: NOW), rng.randrange(1, 60)
        )
        database = Database(pictured_folder)
        sidecar_writing.recover(database)
        with database.session(write=False) as uow:
            assert sidecars.unfinished(uow) == []
            known = {
                Path(one.path).name for batch in sidecars.latest_batches(uow, limit=1000)
                for one in sidecars.standing_of(uow, batch.key)
            }  # fmt: skip
        assert list(place.glob(".*.part")) == []
        now = state_of(place)
        changed = {name for name in now if now[name] != before.get(name)}
        assert changed <= known, "one was written that nobody knows of"
        database.close()
        kills += killed_in(pictured_folder, all_put_back, rng.randrange(1, 60))
        database = Database(pictured_folder)
        sidecar_writing.recover(database)
        assert all(not told.sentences for told in all_put_back(database))
        assert state_of(place) == before
        database.close()
    assert {name: data for name, data in state_of(place).items() if not name.endswith(".xmp")} == pictures


@pytest.mark.parametrize("room", [0, 5])
def test_a_full_disk_is_said_and_what_was_written_is_known(pictured_client, pictured_folder, monkeypatch, room):
    place = prepared(pictured_folder)
    before = state_of(place)
    left = [room]
    real = os.replace

    def full(source, target):
        if str(target).endswith(".xmp") and Path(target).parent == place:
            if not left[0]:
                raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))
            left[0] -= 1
        return real(source, target)

    monkeypatch.setattr(sidecar_files.os, "replace", full)
    answer = pictured_client.post("/log/sidecars/write?outing=1")
    assert answer.status_code == 507
    assert f"{room} sidecars written" in text_of(answer)
    assert "the disk was full. Make room" in text_of(answer)
    assert len(state_of(place)) >= len(before)
    assert sum(state_of(place)[name] != before.get(name) for name in state_of(place)) == room
    monkeypatch.undo()
    database = pictured_client.app.state.database
    all_put_back(database)
    assert state_of(place) == before


def test_a_sidecar_changed_by_another_program_meanwhile_is_left_alone(pictured_folder, monkeypatch):
    place = prepared(pictured_folder)
    database = Database(pictured_folder)
    real = sidecar_writing._begin

    def begin(base, batch, drafts, *more):
        if not any(path.read_bytes().endswith(b"<!-- just now -->") for path in place.glob("*.xmp")):
            drafts[0].path.write_bytes(OTHERS + b"<!-- just now -->")
        return real(base, batch, drafts, *more)

    monkeypatch.setattr(sidecar_writing, "_begin", begin)
    told = sidecar_writing.write_sidecars(database, 1, lambda: NOW)
    assert any("another program has just changed it" in one for one in told.sentences)
    assert sum(path.read_bytes().endswith(b"<!-- just now -->") for path in place.glob("*.xmp")) == 1
    database.close()


@pytest.mark.parametrize("name", ["notes.txt", "../a.xmp", "elsewhere/a.xmp"])
def test_a_record_that_points_elsewhere_puts_nothing_back(pictured_folder, name):
    """As a restored database may hold it."""
    target = pictured_folder / "Pictures of the Teal" / name
    target.parent.mkdir(exist_ok=True)
    target.write_bytes(b"mine")
    database = Database(pictured_folder)
    with database.session() as uow:
        id = sidecars.begin_writing(uow, "evil", 1, str(target), None, sidecar_writing.hash_of(b"mine"), NOW)
        sidecars.put_state(uow, id, SidecarState.WRITTEN)
        uow.commit()
    told = sidecar_writing.put_back(database, "evil")
    allowed = name == "elsewhere/a.xmp"  # a sidecar within the folder that was named
    assert (told.count == 1) is allowed
    assert target.exists() is not allowed
    database.close()
