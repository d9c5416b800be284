"""Databases of every released revision, filled and used: brought up to date, read, and killed on the way."""

import sqlite3
from dataclasses import replace

import pytest
from sqlalchemy import select

from tests.store.kills import killed_at
from tests.store.released_databases import REVISIONS, counted, released, write_released
from tests.store.test_undo import NOW
from welotrope.core.errors import ConflictError
from welotrope.core.review.search import read_search
from welotrope.core.units.distance import Unit
from welotrope.store import journal
from welotrope.store.models import JournalRow
from welotrope.store.queries import kit, log, mounts, practice, ring_records
from welotrope.store.session import DATABASE_NAME, HEAD_REVISION, Database


def test_there_is_one_of_every_revision_before_this():
    assert tuple(f"{number:04d}" for number in range(1, int(HEAD_REVISION))) == REVISIONS


@pytest.mark.parametrize("revision", REVISIONS)
def test_everything_of_a_released_database_is_read(tmp_path, revision):
    lenses, bodies, frames = released(revision, tmp_path)
    database = Database(tmp_path)
    with database.session() as session:
        assert len(kit.list_lenses(session)) == lenses
        assert len(kit.list_bodies(session)) == bodies
        assert len(list(log.every_frame(session))) == frames
        assert kit.broken_kit(session) == []
        setups = kit.list_setups(session)
        assert setups
        assert all(stored.setup.known.problems == () for stored in setups)
        assert all(ring_records.list_presets(session, stored.lens_id) is not None for stored in setups)
        assert mounts.list_mounts(session) or revision == "0001"
        assert len(practice.list_trials(session)) == practice.left_out(session) or revision >= "0005"
        named = {body.name: body for _, body in kit.list_bodies(session)}
        assert all(body.aids for body in named.values())
        before = max(id for id, _ in kit.list_lenses(session))
        assert kit.save_lens(session, setups[0].setup.lens) > before
    database.close()


@pytest.mark.parametrize("revision", REVISIONS)
def test_changes_of_before_can_be_undone_unless_they_hold_columns_that_went(tmp_path, revision):
    released(revision, tmp_path)
    database = Database(tmp_path)
    with database.session() as session:
        entries = {entry.label: entry for entry in session.sql.scalars(select(JournalRow))}
        if revision < "0005":
            with pytest.raises(ConflictError, match="before an update"):
                journal.undo(session.sql, entries["Changed body"], NOW)
            assert {entry.label for entry in entries.values() if entry.retired} >= {"Changed body"}
            return
        bodies = dict(kit.list_bodies(session))
        journal.undo(session.sql, entries["Changed body"], NOW)
        undone = dict(kit.list_bodies(session))
        (changed,) = [id for id in bodies if bodies[id] != undone[id]]
        assert bodies[changed] == replace(undone[changed], name=f"{undone[changed].name} II")
        for label in ("Changed lens", "Measured again"):
            journal.undo(session.sql, entries[label], NOW)
        assert all(stored.setup.known.problems == () for stored in kit.list_setups(session))
    database.close()


def test_the_script_keeps_a_database_of_now_that_is_read_and_undone(tmp_path):
    """As it will be once there is a revision after this."""
    made, again = tmp_path / "made", tmp_path / "again"
    made.mkdir()
    again.mkdir()
    write_released(HEAD_REVISION, tmp_path, made)
    counts = released(HEAD_REVISION, again, of=tmp_path)
    with sqlite3.connect(made / DATABASE_NAME) as connection:
        assert counted(connection) == counts > (0, 0, 0)
    database = Database(again)
    with database.session() as session:
        entries = list(session.sql.scalars(select(JournalRow).order_by(JournalRow.id.desc())))
        assert {entry.label for entry in entries} >= {"Changed lens", "Changed body", "Measured again"}
        for entry in entries:
            journal.undo(session.sql, entry, NOW)
        assert log.page_of_frames(session, None, read_search("velloise", Unit.METRIC), None, 50)
    database.close()


def test_a_frame_marked_before_frames_were_full_can_be_unmarked(tmp_path):
    """Its entry takes the new columns along, so that it is still what the table holds."""
    released("0008", tmp_path)
    database = Database(tmp_path)
    with database.session() as session:
        entry = next(one for one in session.sql.scalars(select(JournalRow)) if one.label == "Marked a frame hit")
        assert log.get_frame(session, 24).outcome is not None
        journal.undo(session.sql, entry, NOW)
        assert log.get_frame(session, 24).outcome is None
        assert any(
            frame.id == 24
            for frame in log.page_of_frames(session, None, read_search("velloise night", Unit.METRIC), None, 50)
        )
    database.close()


@pytest.mark.parametrize("revision", REVISIONS)
def test_a_migration_that_is_killed_starts_again_with_everything(tmp_path, revision):
    """Three places over the statements of each; all of them in ``make fuzz``."""
    for place, statement in enumerate((1, 40, 170)):
        folder = tmp_path / str(place)
        folder.mkdir()
        counts = released(revision, folder)
        if not killed_at(folder, statement):  # through before that many
            assert place > 0
            break
        Database(folder).close()
        with sqlite3.connect(folder / DATABASE_NAME) as connection:
            assert counted(connection) == counts
        aside = folder / f"before-migration-from-{revision}.sqlite3"
        with sqlite3.connect(aside) as copy:
            assert counted(copy) == counts
        assert list(folder.glob("*.part")) == []


def test_a_copy_cut_off_is_made_anew(tmp_path):
    released("0004", tmp_path)
    (tmp_path / ".before-migration-from-0004.sqlite3.1.part").write_bytes(b"half")
    Database(tmp_path).close()
    with sqlite3.connect(tmp_path / "before-migration-from-0004.sqlite3") as copy:
        assert copy.execute("SELECT version_num FROM alembic_version").fetchone() == ("0004",)


def test_scales_are_parted_and_presets_told_apart(tmp_path):
    """One list in mm goes to the scale it was read from; a second preset of one name gets a number behind it."""
    released("0004", tmp_path)
    with sqlite3.connect(tmp_path / DATABASE_NAME) as before:
        before.execute(
            "UPDATE lens SET engraved_units = '[\"ft\"]', engraved_mm = '[914.4, 1524.0]', closest_mm = 900 WHERE id = 1"
        )
        before.execute("UPDATE lens SET engraved_mm = '[500, 1200.0]' WHERE id = 3")
        before.execute(
            "INSERT INTO preset (lens_id, name, distance_mm, stop, subjects) SELECT lens_id, name, 5000, 8, subjects FROM preset WHERE id = 1"
        )
    before.close()
    database = Database(tmp_path)
    with database.session() as session:
        lenses = dict(kit.list_lenses(session))
        assert lenses[1].engraved_ft == (3, 5)
        assert lenses[1].engraved_m == ()
        assert (lenses[3].engraved_m, lenses[3].engraved_ft) == ((0.5, 1.2), ())
        names = [preset.name for id in lenses for preset in ring_records.list_presets(session, id)]
        assert len(names) == len({(id, p.name) for id in lenses for p in ring_records.list_presets(session, id)})
        assert any(name.endswith(" 2") for name in names)
    database.close()
