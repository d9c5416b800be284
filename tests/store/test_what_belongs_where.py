"""What belongs to one thing is not another's: keys that are mixed up show where the keys differ."""

import datetime as dt

import pytest

from welotrope.core.ring.depth_marks import MarkReading, MarkRecord
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.store import cache
from welotrope.store.models import PictureRow
from welotrope.store.queries import field, files, history, kit, practice, ring_records, sheets
from welotrope.store.queries.ring_records import RecordKind

NOW = dt.datetime(2026, 3, 15, 10, 30)


def test_a_slot_card_names_the_lens_in_its_slot(database):
    with database.session() as uow:
        lenses = dict(kit.list_lenses(uow))
        for number, key in enumerate(lenses, 1):
            sheets.put_in_slot(uow, 1, key, number)
        found = field.field_kit(uow, 0).slots[1]
        assert {entry.number: (entry.lens_id, entry.lens_name) for entry in found} == {
            number: (key, lenses[key].name) for number, key in enumerate(lenses, 1)
        }


def test_a_tick_belongs_to_its_set_up_its_outing_and_its_line(database):
    with database.session() as uow:
        sheets.tick(uow, 2, 1, "mount", done=True)
        assert sheets.ticked(uow, 2, 1) == {"mount"}
        assert sheets.ticked(uow, 1, 1) == set()
        assert sheets.ticked(uow, 2, 0) == set()
        assert field.field_kit(uow, 1).ticked[2] == {"mount"}
        sheets.tick(uow, 2, 1, "mount", done=False)
        assert sheets.ticked(uow, 2, 1) == set()


def test_a_file_that_a_picture_refers_to_is_not_swept(database):
    with database.session() as uow:
        for column in ("thumb_sha", "preview_sha", "original_sha"):
            sha = files.keep_file(uow, column.encode(), "image/jpeg", NOW)
            picture = PictureRow(
                name=column, media_type="image/jpeg", sha256=sha, bytes=1, width_px=1, height_px=1, batch="b"
            )
            setattr(picture, column, sha)
            uow.sql.add(picture)
        loose = files.keep_file(uow, b"nobody's", "image/jpeg", NOW)
        uow.sql.flush()
        assert [path.stem for path in files.sweep_files(uow)] == [loose]


def test_a_change_names_the_tables_it_touched(database):
    with database.session() as uow:
        with history.recorded(uow, "A tick", NOW) as key:
            sheets.tick(uow, 2, 1, "mount", done=True)
        assert history.tables_of(uow, key()) == {"sheet_tick"}


def test_a_noted_change_of_the_kit_is_deleted_and_no_other(database):
    with database.session() as uow:
        first, second = (
            practice.add_change(uow, practice.KitChange(setup_id=1, what="screen", note=note, made_at=NOW))
            for note in ("a", "b")
        )
        practice.delete_change(uow, first)
        assert [one.id for one in practice.changes_of(uow, 1)] == [second]


@pytest.mark.parametrize("forgotten", [RecordKind.SHIFT, RecordKind.INFINITY])
def test_forgetting_one_record_of_a_ring_leaves_the_others(client, forgotten):
    marks = MarkRecord((MarkReading(stop=8, far_mm=5000, index_mm=3000, near_mm=2100),))
    shift = FocusShift((ShiftTrial(2.0, 10.0), ShiftTrial(5.6, 12.0)))
    page = {RecordKind.SHIFT: "shift", RecordKind.INFINITY: "infinity"}[forgotten]
    with client.app.state.database.session() as uow:
        stored = kit.find_selected_setup(uow)
        ring_records.save_record(uow, RecordKind.MARKS, stored.lens_id, stored.id, marks, NOW.date())
        ring_records.save_record(uow, RecordKind.SHIFT, stored.lens_id, stored.id, shift, NOW.date())
        uow.commit()
    client.post(f"/scale/{page}/forget")
    with client.app.state.database.session() as uow:
        assert ring_records.get_record(uow, RecordKind.MARKS, stored.lens_id, stored.id) is not None
        assert ring_records.get_record(uow, forgotten, stored.lens_id, stored.id) is None


def test_the_hundredth_batch_is_refused_and_one_that_is_there_goes_on(tmp_path):
    for number in range(cache.MOST_BATCHES):
        cache.incoming(tmp_path, f"batch{number}")
    assert cache.incoming(tmp_path, "batch0").is_dir()
    with pytest.raises(cache.TooManyBatchesError):
        cache.incoming(tmp_path, "one more")
