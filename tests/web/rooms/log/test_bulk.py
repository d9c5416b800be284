"""An outing of thousands of frames is deleted and brought back by a process of its own, as one change."""

import sqlite3

import pytest

from tests.web.pages import headline, text_of, undo_path
from welotrope.store.session import DATABASE_NAME
from welotrope.web.request.transactions import MANY

FRAMES = MANY + 400


def rows(folder, table="frame"):
    with sqlite3.connect(folder / DATABASE_NAME) as connection:
        found = connection.execute(f"SELECT * FROM {table} ORDER BY 1").fetchall()
    connection.close()
    return found


@pytest.fixture
def long_outing(client, demo_folder):
    """Outing 1 with many frames more, and a picture of one of them."""
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        columns = [one[1] for one in connection.execute("PRAGMA table_info(frame)") if one[1] != "id"]
        named = ", ".join(f'"{one}"' for one in columns)
        for _ in range(FRAMES):
            connection.execute(
                f"INSERT INTO frame ({named}) SELECT {named} FROM frame WHERE id = (SELECT min(id) FROM frame WHERE outing_id = 1)"
            )
        connection.execute(
            "INSERT INTO picture (id, sha256, name, folder, media_type, bytes, width_px, height_px, clock_s, exif, batch,"
            " outing_id, frame_id) SELECT 1, printf('%064d', 7), 'a.jpg', '', 'image/jpeg', 4, 60, 40, 0, '{}', 'b', 1, max(id)"
            " FROM frame"
        )
    connection.close()
    return client


def test_it_is_deleted_and_brought_back_byte_for_byte(long_outing, demo_folder):
    before = {table: rows(demo_folder, table) for table in ("frame", "outing", "picture", "frame_count")}
    deleted = long_outing.post("/log/outings/1/delete")
    assert "Deleted an outing with its frames" in text_of(deleted)
    assert not [row for row in rows(demo_folder) if row[1] == 1]
    assert rows(demo_folder, "picture")[0][-4:-2] != before["picture"][0][-4:-2]
    assert long_outing.app.state.bulk._live, "the process made the change"
    back = long_outing.post(undo_path(deleted))
    assert "Undid" in text_of(back)
    after = {table: rows(demo_folder, table) for table in before}
    # Counts of zero may stay in the table of counts; what is counted is the same.
    after["frame_count"], before["frame_count"] = (
        [r for r in one if r[2]] for one in (after["frame_count"], before["frame_count"])
    )
    assert after == before
    again = long_outing.post(undo_path(back))
    assert not [row for row in rows(demo_folder) if row[1] == 1]
    assert headline(again)


def test_what_stands_in_the_way_of_an_undo_is_said_as_ever(long_outing, demo_folder):
    deleted = long_outing.post("/log/outings/1/delete")
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        connection.execute("UPDATE picture SET outing_id = 2")
    connection.close()
    refused = long_outing.post(undo_path(deleted))
    assert refused.status_code == 422
    assert "the picture was changed later" in text_of(refused)
    assert not [row for row in rows(demo_folder) if row[1] == 1]


def test_an_outing_that_is_gone_is_not_found(long_outing):
    assert long_outing.post("/log/outings/999/delete").status_code == 404
