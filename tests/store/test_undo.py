"""Undo loses nothing that came later: named cases, and random sequences against a model that keeps full copies."""

import datetime as dt
import json
import random
from dataclasses import replace

import pytest
from sqlalchemy import select, text

from welotrope.core.errors import ConflictError
from welotrope.core.kit.lens import Lens
from welotrope.core.optics.sharpness import SharpnessStandard
from welotrope.core.review.frame import frame_at
from welotrope.demo import skarnmere
from welotrope.store import journal
from welotrope.store import session as session_module
from welotrope.store.models import Base, JournalRow, SetupRow
from welotrope.store.queries import history, kit, log, ring_records
from welotrope.store.session import Database

NOW = dt.datetime(2026, 3, 14, 12, 0)
KEPT = [table for table in Base.metadata.sorted_tables if table.name not in ("journal", "setting", "frame_count")]


@pytest.fixture
def session(tmp_path):
    database = Database(tmp_path)
    with database.session() as opened:
        yield opened
    database.close()


def everything(session):
    """A full copy of every row."""
    session.sql.flush()
    return {table.name: sorted(map(repr, session.sql.execute(select(table)).all())) for table in KEPT}


def change(session, label, work):
    with journal.recorded(session.sql, label, NOW) as entry:
        work()
    return entry.id


def undo(session, id):
    return history.undo_change(session, id, NOW)


def frame(session, setup_id, minute=0):
    stored = kit.get_setup(session, setup_id)
    return frame_at(setup_id, stored.setup, 40.0, 5.6, NOW + dt.timedelta(minutes=minute))


@pytest.fixture
def setup_id(session):
    body = kit.save_body(session, skarnmere.BODIES["ostrel"])
    lens = kit.save_lens(session, skarnmere.LENSES["norrvik"])
    return kit.save_setup(session, body, lens, SharpnessStandard())


def log_one(session, setup_id, minute=0):
    outing = log.outing_for(session, NOW.date())
    return log.add_frame(session, outing, frame(session, setup_id, minute))


def test_undoing_the_first_frame_of_a_day_keeps_those_after_it(session, setup_id):
    first = change(session, "Logged", lambda: log_one(session, setup_id))
    for minute in range(1, 24):
        change(session, "Logged", lambda minute=minute: log_one(session, setup_id, minute))
    before = everything(session)
    with pytest.raises(ConflictError, match="23 frames that came later would go with it"):
        undo(session, first)
    assert everything(session) == before


def test_undoing_added_things_does_not_cascade(session, setup_id):
    lens = change(
        session,
        "Added lens",
        lambda: kit.save_lens(session, Lens(name="New", focal_mm=85, stops=(2, 16), closest_mm=900)),
    )
    key = max(id for id, _ in kit.list_lenses(session))
    change(session, "Kept a preset", lambda: ring_records.add_preset(session, key, "far", 5000, 5.6, ()))
    with pytest.raises(ConflictError, match="1 preset that came later would go with it"):
        undo(session, lens)
    assert ring_records.list_presets(session, key)


def test_an_undone_rename_keeps_a_later_change(session):
    kept = {"lens": Lens(name="One", focal_mm=85, stops=(2, 16), closest_mm=900)}
    key = kit.save_lens(session, kept["lens"])
    rename = change(
        session,
        "Renamed",
        lambda: kit.save_lens(session, Lens(name="Two", focal_mm=85, stops=(2, 16), closest_mm=900), id=key),
    )
    later = change(session, "Measured the ring",
                   lambda: kit.save_lens(session, Lens(name="Two", focal_mm=85, stops=(2, 16), closest_mm=900, ring_diameter_mm=60), id=key))  # fmt: skip
    with pytest.raises(ConflictError, match="“Measured the ring” changed the same lens later"):
        undo(session, rename)
    assert kit.get_lens(session, key).ring_diameter_mm == 60
    undo(session, later)
    undo(session, rename)
    assert kit.get_lens(session, key) == kept["lens"]


def test_a_key_is_never_given_twice(session):
    added = change(
        session, "Added", lambda: kit.save_lens(session, Lens(name="One", focal_mm=85, stops=(2, 16), closest_mm=900))
    )
    first = kit.list_lenses(session)[-1][0]
    undo(session, added)
    second = kit.save_lens(session, Lens(name="Two", focal_mm=85, stops=(2, 16), closest_mm=900))
    assert second > first


def test_redo_restores_row_by_row(session, setup_id):
    before = everything(session)
    deleted = change(session, "Deleted", lambda: kit.delete_setup(session, setup_id))
    after = everything(session)
    back = undo(session, deleted)
    assert everything(session) == before
    again = undo(session, back)
    assert everything(session) == after
    undo(session, again)
    assert everything(session) == before


def without(session, id, *columns):
    """Make an entry as one was before its table had some columns."""
    entry = session.sql.get(JournalRow, id)
    entry.changes = [
        {
            "table": one["table"],
            **{
                key: one[key] and {name: value for name, value in one[key].items() if name not in columns}
                for key in ("before", "after")
            },
        }
        for one in entry.changes
    ]
    session.sql.flush()


def test_what_was_changed_before_a_column_came_is_undone(session, setup_id):
    zoomed = change(session, "Zoomed", lambda: setattr(session.sql.get(SetupRow, setup_id), "zoom_mm", 50.0))
    without(session, zoomed, "converter_id", "made_for_body")
    undo(session, zoomed)
    assert session.sql.get(SetupRow, setup_id).zoom_mm is None


def test_what_came_before_a_column_is_kept_when_the_column_was_used_since(session, setup_id):
    stored = kit.get_setup(session, setup_id)
    added = change(
        session, "Added", lambda: kit.save_setup(session, stored.body_id, stored.lens_id, SharpnessStandard())
    )
    without(session, added, "converter_id", "made_for_body")
    row = session.sql.scalars(select(SetupRow).order_by(SetupRow.id.desc())).first()
    row.made_for_body = True
    session.sql.flush()
    with pytest.raises(ConflictError, match="changed later"):
        undo(session, added)
    row.made_for_body, key = False, row.id
    session.sql.flush()
    undo(session, added)
    assert session.sql.get(SetupRow, key) is None


def test_a_renamed_column_is_renamed_in_what_can_be_undone(session, setup_id):
    """As a migration does: an entry from before it is taken back by the new name."""
    zoomed = change(session, "Zoomed", lambda: setattr(session.sql.get(SetupRow, setup_id), "zoom_mm", 50.0))
    entry = session.sql.get(JournalRow, zoomed)
    entry.changes = json.loads(json.dumps(entry.changes).replace('"zoom_mm"', '"focal_now"'))
    session.sql.flush()
    journal.renamed_in_entries(session.sql.connection(), "lens", {"focal_now": "wrong"})
    journal.renamed_in_entries(session.sql.connection(), "setup", {"focal_now": "zoom_mm"})
    session.sql.expire_all()
    undo(session, zoomed)
    assert session.sql.get(SetupRow, setup_id).zoom_mm is None


def test_what_an_update_left_behind_says_so(session, setup_id):
    done = change(session, "Logged", lambda: log_one(session, setup_id))
    session.sql.execute(text("UPDATE journal SET retired = 1"))
    session.sql.expire_all()
    with pytest.raises(ConflictError, match="before an update"):
        undo(session, done)


class Photographer:
    """Makes random changes, undoes random ones, and keeps a copy of everything after each step."""

    def __init__(self, session, rng):
        self.session, self.rng = session, rng
        self.entries = []

    def step(self):
        works = [self.add_lens, self.add_body, self.add_setup, self.rename, self.measure, self.preset, self.log, self.mark,
                 self.delete_lens, self.delete_outing, self.delete_setup]  # fmt: skip
        if self.entries and self.rng.random() < 0.4:
            return self.undo()
        return self.do(self.rng.choice(works))

    def do(self, work):
        made = everything(self.session)
        self.entries.append((change(self.session, work.__name__, work), made))

    def undo(self):
        id, _ = self.rng.choice(self.entries)
        entry = self.session.sql.get_one(JournalRow, id)
        before = everything(self.session)
        touched = {(c["table"], (c["after"] or c["before"])["id"]) for c in entry.changes}
        try:
            back = undo(self.session, id)
        except ConflictError:
            self.session.sql.expire_all()
            assert everything(self.session) == before  # a refusal changes nothing
            return
        after = everything(self.session)
        # Nothing that the entry did not touch has changed, come or gone.
        for table in KEPT:
            mine = {f"({key}," for name, key in touched if name == table.name}
            rest = lambda rows, mine=mine: [row for row in rows if not row.startswith(tuple(mine or {"\0"}))]  # noqa: E731
            assert rest(before[table.name]) == rest(after[table.name])
        # What it touched is as it was before it was made.
        for c in entry.changes:
            first = next(x["before"] for x in entry.changes
                         if x["table"] == c["table"] and (x["after"] or x["before"])["id"] == (c["after"] or c["before"])["id"])  # fmt: skip
            key = (c["after"] or c["before"])["id"]
            rows = [row for row in after[c["table"]] if row.startswith(f"({key},")]
            assert bool(rows) == (first is not None)
        self.entries.append((back, before))

    def pick(self, found):
        return self.rng.choice(found) if found else None

    def add_lens(self):
        kit.save_lens(self.session, Lens(name=f"L{self.rng.randrange(99)}", focal_mm=50, stops=(2, 16), closest_mm=450))

    def add_body(self):
        kit.save_body(self.session, skarnmere.BODIES[self.rng.choice(["ostrel", "kyrstad"])])

    def add_setup(self):
        body, lens = self.pick(kit.list_bodies(self.session)), self.pick(kit.list_lenses(self.session))
        if body and lens:
            kit.save_setup(self.session, body[0], lens[0], SharpnessStandard())

    def rename(self):
        lens = self.pick(kit.list_lenses(self.session))
        if lens:
            kit.save_lens(
                self.session,
                Lens(name=f"R{self.rng.randrange(99)}", focal_mm=50, stops=(2, 16), closest_mm=450),
                id=lens[0],
            )

    def measure(self):
        lens = self.pick(kit.list_lenses(self.session))
        if lens:
            kit.save_lens(self.session, Lens(name=lens[1].name, focal_mm=50, stops=(2, 16), closest_mm=450, ring_diameter_mm=self.rng.randrange(40, 80)),
                          id=lens[0])  # fmt: skip

    def preset(self):
        lens = self.pick(kit.list_lenses(self.session))
        if lens:
            ring_records.add_preset(self.session, lens[0], f"p{self.rng.random()}", 3000.0, 5.6, ())

    def log(self):
        setup = self.pick(kit.list_setups(self.session))
        if setup:
            log_one(self.session, setup.id)

    def mark(self):
        frames = [f for _, f in log.every_frame(self.session)]
        if frames:
            log.change_frame(self.session, replace(self.rng.choice(frames), note=f"n{self.rng.randrange(9)}"))

    def delete_lens(self):
        lens = self.pick(kit.list_lenses(self.session))
        if lens and self.rng.random() < 0.3:
            kit.delete_lens(self.session, lens[0])

    def delete_setup(self):
        setup = self.pick(kit.list_setups(self.session))
        if setup and self.rng.random() < 0.3:
            kit.delete_setup(self.session, setup.id)

    def delete_outing(self):
        outing = self.pick(log.list_outings(self.session))
        if outing and self.rng.random() < 0.2:
            log.delete_outing(self.session, outing.id)


@pytest.mark.parametrize("seed", range(6))
def test_random_changes_and_undos_lose_nothing_later(session, seed):
    person = Photographer(session, random.Random(seed))
    for _ in range(70):
        person.step()
        assert session.sql.execute(text("PRAGMA foreign_key_check")).first() is None
    assert session.sql.scalar(select(JournalRow.id).limit(1)) is not None


def test_a_long_list_is_read_as_it_was_written_piece_by_piece():
    """Thousands of rows in one entry are written and read item by item, and come back the same."""
    rows = [{"table": "frame", "before": {"id": n, "note": 'comma, ] and "quote"', "x": [1, [2]]}} for n in range(5000)]
    text = session_module._to_json(rows)
    assert text == json.dumps(rows)
    assert len(text) > session_module._LONG_TEXT
    assert session_module._from_json(text) == rows
    assert session_module._from_json(json.dumps({"a": "x" * 300_000})) == {"a": "x" * 300_000}
    assert session_module._from_json("[]") == []
