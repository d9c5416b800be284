"""What was worked out holds until anything is committed, by this program or another, and not a moment longer."""

import sqlite3
import threading

from welotrope.store.cache import MOST, VersionedCache
from welotrope.store.queries import kit
from welotrope.store.session import DATABASE_NAME, Database


def counted(kept, what="lenses"):
    """How often it had to be made in two goes."""
    made = []
    for _ in range(2):
        kept.get(kept.version(), what, lambda: made.append(1))
    return len(made)


def test_it_is_made_once_until_a_commit(database):
    kept = VersionedCache(database.path)
    assert counted(kept) == 1
    assert counted(kept) == 0
    with database.session() as uow:
        kit.select_setup(uow, 2)
        uow.sql.flush()
        assert counted(kept) == 0  # not committed
        uow.commit()
    assert counted(kept) == 1
    kept.close()


def test_another_program_is_seen_to_commit(database):
    kept = VersionedCache(database.path)
    counted(kept)
    with sqlite3.connect(database.path) as other:
        other.execute("INSERT INTO setting VALUES ('a', 'b')")
    assert counted(kept) == 1
    kept.close()


def test_what_was_begun_before_a_commit_is_not_kept_for_after_it(database):
    kept = VersionedCache(database.path)
    before = kept.version()
    with sqlite3.connect(database.path) as other:
        other.execute("INSERT INTO setting VALUES ('a', 'b')")
    assert kept.get(kept.version(), "x", lambda: "new") == "new"
    assert kept.get(before, "x", lambda: "old") == "old"
    assert kept.get(kept.version(), "x", lambda: "never") == "new"
    kept.close()


def test_many_at_once_get_what_they_asked_for_and_no_more_is_held_than_told(database):
    kept, wrong = VersionedCache(database.path), []

    def ask(start):
        for turn in range(400):
            what = (start + turn) % (2 * MOST)
            if kept.get(kept.version(), what, lambda what=what: what) != what:
                wrong.append(what)

    askers = [threading.Thread(target=ask, args=(start,)) for start in range(6)]
    for asker in askers:
        asker.start()
    for asker in askers:
        asker.join()
    assert wrong == []
    assert len(kept._values) <= MOST
    kept.close()


def test_a_page_shows_what_was_changed_behind_its_back(client, demo_folder):
    assert "Norrvik 50" in client.get("/kit").text
    with sqlite3.connect(demo_folder / DATABASE_NAME) as other:
        other.execute("UPDATE lens SET name = 'Norrvik 50 of old' WHERE name = 'Norrvik 50'")
    for path in ("/kit", "/scale", "/field"):
        assert "Norrvik 50 of old" in client.get(path).text


def test_a_new_database_may_be_watched(tmp_path):
    database = Database(tmp_path)
    kept = VersionedCache(database.path)
    assert counted(kept) == 1
    kept.close()
    database.close()
