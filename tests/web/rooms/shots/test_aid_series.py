"""A series of test shots with one aid: dropped, watched for, made up; what comes of it, and what it changes."""

import datetime as dt
import shutil
import time

import cv2
import pytest

from tests.core.testshot.shots import camera, shot
from tests.web.pages import text_of
from welotrope.core.testshot.aid_series import MeasuredShot
from welotrope.store.queries import kit, observations, test_shots
from welotrope.store.session import Database
from welotrope.web.request.watching import FolderWatch

SERIES = "0123456789abcdef"
WHEN = dt.datetime(2026, 3, 15, 10, 0)


@pytest.fixture(scope="module")
def picture(tmp_path_factory):
    path = tmp_path_factory.mktemp("shots") / "IMG_0001.jpg"
    cv2.imwrite(str(path), shot(camera(plane_mm=6.0, stop=1.4)))
    return path


def waited(client, answer):
    """The page that a long piece of work leads to."""
    page = answer
    while "See what came of it" not in page.text:
        assert "failed" not in text_of(page), text_of(page)
        time.sleep(0.05)
        page = client.get(answer.url.path)
    return client.get(page.text.split('btn btn-main" href="')[1].split('"')[0].replace("&amp;", "&"))


def stored(client, planes, *, aid="magnified", made_up=False, setup=1, series=SERIES):
    """Shots as they are kept, without measuring pictures."""
    database = client.app.state.database
    with database.session() as uow:
        found = kit.get_setup(uow, setup)
        for index, plane in enumerate(planes):
            new = test_shots.NewShot(
                series=series, setup_id=setup, body_name=found.setup.body.name, lens_name=found.setup.lens.name,
                aid=aid, taken_at=WHEN + dt.timedelta(minutes=index), made_up=made_up,
            )  # fmt: skip
            told = MeasuredShot(
                picture=f"{index}.jpg",
                stop=1.4,
                distance_mm=900.0,
                plane_mm=plane,
                low_mm=plane - 0.2,
                high_mm=plane + 0.2,
            )
            test_shots.add_shot(uow, new, told)
        uow.commit()


def test_dropped_pictures_are_measured_and_can_be_deleted_and_put_back(client, picture):
    batch = "00000000000000aa"
    for name in ("one.jpg", "two.jpg", "nothing.jpg"):
        data = b"" if name == "nothing.jpg" else picture.read_bytes()
        client.post(f"/log/pictures/drop?batch={batch}&name={name}", content=data)
    answer = client.post("/shots/dropped", data={"batch": batch, "series": SERIES, "aid": "magnified", "stop": "1.4"})
    page = waited(client, answer)
    said = text_of(page)
    assert "one.jpg" in said
    assert "+6." in said or "+5.9" in said
    assert "it is empty" in said
    with client.app.state.database.session(write=False) as uow:
        shots = test_shots.shots_of_series(uow, SERIES)
    assert [one.shot.counts for one in shots] == [True, True, False]
    assert shots[0].shot.plane_mm == pytest.approx(6.0, abs=0.6)
    assert client.get(f"/shots/{shots[0].id}.jpg").headers["content-type"] == "image/jpeg"
    gone = client.post(f"/shots/series/{SERIES}/delete")
    assert client.get(f"/shots?series={SERIES}").text.count("one.jpg") == 0
    undo = gone.text.split('action="/undo/')[1].split('"')[0]
    client.post(f"/undo/{undo}")
    assert "one.jpg" in client.get(f"/shots?series={SERIES}").text


@pytest.mark.parametrize(
    ("planes", "words"),
    [
        ([], "Three to ten pictures of the printed sheet tell"),
        ([5.0, 5.4], "2 pictures measured"),
        ([9.0, 9.5, 9.2], "focus falls"),
        ([0.3, -0.4, 0.1, 0.2], "is right: no bias that matters in 4 pictures"),
        ([-9.0, -9.5, -9.2], "in front"),
    ],
)
def test_what_a_series_tells(client, planes, words):
    stored(client, planes)
    assert words in text_of(client.get(f"/shots?series={SERIES}&aid=magnified&stop=1.4"))


def test_a_series_counts_for_the_hand_and_for_why_it_missed(client):
    before = client.get("/log/why").text
    stored(client, [9.0, 9.5, 9.2, 8.8, 9.4])
    stored(client, [50.0, 50.0, 50.0], made_up=True, series="ffffffffffffffff")
    with client.app.state.database.session(write=False) as uow:
        held = kit.get_setup(uow, 1)
        told = [one for one in observations.observations(uow, WHEN, held=held) if one.source == "test shot"]
    assert len(told) == 5  # and none that was made up
    assert all(one.attempt.z > 0 for one in told)  # behind
    assert "5 test shots" in text_of(client.get("/practice/hand"))
    after = client.get("/log/why").text
    assert "With 5 test shots, measured in the picture" in after
    assert after.split("<h1>")[1].split("</h1>")[0] != before.split("<h1>")[1].split("</h1>")[0]


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({"stop": "wide"}, "Stop: read “wide”; that is not a stop."),
        ({"aid": "guessing"}, "Aid: read “guessing”; this camera has none of that name."),
        ({"folder": "pictures"}, "Folder: read “pictures”; that is no whole path."),
        ({"folder": "/nowhere/at/all"}, "there is no such folder"),
    ],
)
def test_bad_answers_are_sent_back_with_everything_there(client, tmp_path, data, words):
    typed = {"series": SERIES, "aid": "magnified", "stop": "2", "folder": str(tmp_path)} | data
    answer = client.post("/shots/watch", data=typed)
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert f'value="{typed["folder"]}"' in answer.text
    none = client.post("/shots/dropped", data={"batch": "00000000000000bb", "aid": "magnified", "stop": "2"})
    assert "none of them came" in text_of(none)


def test_a_made_up_series_goes_from_start_to_result(client):
    page = waited(client, client.post("/shots/try", data={"aid": "magnified", "stop": "1.4"}))
    said = text_of(page)
    assert "With the magnified view focus falls" in said
    assert "These pictures are made up" in said
    with client.app.state.database.session(write=False) as uow:
        assert [
            one for one in observations.observations(uow, WHEN, held=kit.get_setup(uow, 1)) if one.source == "test shot"
        ] == []


def test_pictures_that_land_in_a_watched_folder_are_measured(client, tmp_path, picture):
    folder = tmp_path / "tethered"
    folder.mkdir()
    shutil.copy(picture, folder / "before.jpg")
    answer = client.post(
        "/shots/watch", data={"series": SERIES, "aid": "magnified", "stop": "1.4", "folder": str(folder)}
    )
    assert "Watching" in text_of(answer)
    shutil.copy(picture, folder / "after.jpg")
    url = f"/shots?series={SERIES}&aid=magnified&stop=1.4"
    while "after.jpg" not in (now := client.get(url, headers={"hx-request": "true"}).text):
        time.sleep(0.05)
    assert "before.jpg" not in now
    assert 'hx-trigger="every 500ms"' in now
    ended = client.post("/shots/watch/stop", data={"series": SERIES})
    assert "Watch the folder" in text_of(ended)


class Taken:
    """What a watch took, by name and length."""

    def __init__(self):
        self.pictures = []

    def __call__(self, path):
        self.pictures.append((path.name, path.stat().st_size))


@pytest.fixture
def watch(tmp_path):
    """A watch whose thread is stopped, so that it looks when it is told to."""
    taken = Taken()
    (tmp_path / "old.jpg").write_bytes(b"old")
    found = FolderWatch(tmp_path, taken)
    found._stop.set()
    found._thread.join()
    found._stop.clear()
    yield found, taken, tmp_path
    found.stop()


def test_a_picture_is_taken_once_it_has_stopped_growing(watch):
    found, taken, folder = watch
    (folder / "new.jpg").write_bytes(b"half")
    found.look()
    (folder / "new.jpg").write_bytes(b"half and half")
    found.look()
    assert taken.pictures == []
    found.look()
    found.look()
    assert taken.pictures == [("new.jpg", 13)]


def test_a_picture_that_is_written_anew_is_taken_anew_and_others_are_not(watch):
    found, taken, folder = watch
    for name in ("new.jpg", ".hidden.jpg", "notes.txt", "empty.jpg"):
        (folder / name).write_bytes(b"" if name == "empty.jpg" else b"first")
    (folder / "link.jpg").symlink_to(folder / "new.jpg")
    for _ in range(3):
        found.look()
    (folder / "new.jpg").write_bytes(b"second one")
    for _ in range(3):
        found.look()
    assert taken.pictures == [("new.jpg", 5), ("new.jpg", 10)]


def test_a_picture_that_cannot_be_kept_does_not_end_the_watch(tmp_path):
    kept = []

    def take(path):
        if path.name == "bad.jpg":
            raise OSError("the disk is full")
        kept.append(path.name)

    found = FolderWatch(tmp_path, take)
    (tmp_path / "bad.jpg").write_bytes(b"bad")
    while not found.problem:
        time.sleep(0.02)
    assert found.problem == "bad.jpg could not be kept (OSError). Take it again."
    (tmp_path / "good.jpg").write_bytes(b"good")
    while not kept:
        time.sleep(0.02)
    found.stop()
    assert (kept, found.problem, found.watching) == (["good.jpg"], "", False)


def test_a_folder_that_goes_and_comes_back_is_waited_for(watch):
    found, taken, folder = watch
    away = folder.with_name("away")
    folder.rename(away)
    found.look()
    assert not found.there
    away.rename(folder)
    (folder / "new.jpg").write_bytes(b"picture")
    found.look()
    found.look()
    assert found.there
    assert taken.pictures == [("new.jpg", 7)]


def test_the_database_keeps_shots_apart_by_series_and_survives_without_their_set_up(client):
    stored(client, [1.0, 2.0])
    stored(client, [3.0], series="aaaaaaaaaaaaaaaa")
    client.post("/kit/setups/1/delete")
    database: Database = client.app.state.database
    with database.session(write=False) as uow:
        assert [one.shot.plane_mm for one in test_shots.shots_of_series(uow, SERIES)] == [1.0, 2.0]
        assert [(one.series, one.pictures) for one in test_shots.list_series(uow)] == [
            ("aaaaaaaaaaaaaaaa", 1),
            (SERIES, 2),
        ]


def test_what_is_set_aside_leads_to_where_it_is_shown(client):
    stored(client, [3.0, 3.1, 2.9, 3.2])
    with client.app.state.database.session(write=False) as uow:
        shots, frames = test_shots.shots_of_setup(uow, 1), observations.field_frames(uow, 1)
    assert {observations.evidence_of_shot(one).link for one in shots} == {f"/shots?series={SERIES}"}
    assert [one.link for one in frames] == [f"/log/frames/{one.id}" for one in frames]
    assert client.get(frames[0].link).status_code == client.get(f"/shots?series={SERIES}").status_code == 200
