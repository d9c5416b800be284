"""Pictures brought in from a folder or dropped, what cannot be read refused file by file, clocks put right, matched."""

import datetime as dt
import errno
import os
import struct
import threading
import time
import zlib
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest
from PIL import Image

from tests.web.pages import headline, soup, text_of, undo_path
from welotrope.demo.build import START
from welotrope.interchange import worker_pool
from welotrope.store.queries import files, jobs, log, pictures
from welotrope.store.queries.jobs import JobState
from welotrope.web.request.folders import taken_in
from welotrope.web.rooms.log import picture_importing

FAST_S = 424


def picture(path, taken=None, size=(96, 64), seed=0, orientation=1, camera="Ostrel 6", **more):
    """A noisy picture with the time its camera wrote."""
    values = np.random.default_rng(seed).integers(0, 255, (size[1], size[0], 3), dtype=np.uint8)
    exif = Image.Exif()
    exif[0x010F], exif[0x0110], exif[0x0112] = "Ostrel", camera, orientation
    held = exif.get_ifd(0x8769)
    if taken is not None:
        held[0x9003] = taken if isinstance(taken, str) else f"{taken:%Y:%m:%d %H:%M:%S}"
    for tag, value in more.items():
        held[int(tag[1:], 16)] = value
    Image.fromarray(values).save(path, exif=exif)
    return path


def waited(client, path):
    """Follow a job to its end."""
    id = int(path.rstrip("/").rsplit("/", 1)[1])
    until = time.monotonic() + 60
    while time.monotonic() < until:
        with client.app.state.database.session(write=False) as uow:
            job = jobs.get_job(uow, id)
        if job.state.over:
            return job
        threading.Event().wait(0.05)
    raise AssertionError(job)


def brought_in(client, folder, **more):
    answer = client.post("/log/pictures/folder", data={"folder": str(folder), "outing": "1", **more})
    assert answer.status_code == 200, text_of(answer)
    return waited(client, answer.url.path)


def report(client):
    with client.app.state.database.session(write=False) as uow:
        return pictures.list_imports(uow)[0]


def listed(client, outing=1):
    with client.app.state.database.session(write=False) as uow:
        return pictures.list_pictures(uow, outing)


def frames(client):
    with client.app.state.database.session(write=False) as uow:
        return [frame for _, frame in log.every_frame(uow, outing_id=1)]


@pytest.fixture
def card(tmp_path):
    """A folder as a camera fills it: eight pictures of logged frames, its clock seven minutes fast, and one more."""
    folder = tmp_path / "card"
    folder.mkdir()
    for index, minute in enumerate((0, 2, 3, 5, 9, 11, 14, 52)):
        taken = START + dt.timedelta(minutes=minute, seconds=FAST_S + index % 3)
        picture(folder / f"P{index:03d}.jpg", taken, seed=index, x829A=1 / 60, x8827=400, x9291="25")
    picture(folder / "P100.jpg", START + dt.timedelta(minutes=37, seconds=FAST_S), seed=100)
    return folder


def test_a_folder_is_read_and_nothing_in_it_is_changed(client, card):
    before = {path.name: (path.read_bytes(), path.stat().st_mtime_ns) for path in card.iterdir()}
    job = brought_in(client, card)
    assert job.state is JobState.DONE
    found = listed(client)
    assert {one.name for one in found} == set(before)
    assert {path.name: (path.read_bytes(), path.stat().st_mtime_ns) for path in card.iterdir()} == before
    first = found[0]
    assert (first.width_px, first.height_px, first.exif.iso, first.exif.shutter_s) == (
        96,
        64,
        400,
        pytest.approx(1 / 60),
    )
    assert first.taken_at == START + dt.timedelta(seconds=FAST_S)
    assert first.exif.subsecond_s == 0.25
    assert first.exif.camera == "Ostrel 6"
    for kind in ("thumb", "preview", "full"):
        answer = client.get(f"/log/pictures/{first.id}/{kind}")
        assert answer.headers["content-type"] == "image/jpeg", kind
    assert client.get(f"/log/pictures/{first.id}/full").content == before["P000.jpg"][0]


def test_the_same_picture_twice_is_one(client, card):
    brought_in(client, card)
    (card / "copy.jpg").write_bytes((card / "P000.jpg").read_bytes())
    brought_in(client, card)
    assert (report(client).added, report(client).known) == (0, 10)
    assert len(listed(client)) == 9


def test_a_clock_is_found_wrong_put_right_and_pictures_matched(client, card):
    brought_in(client, card)
    page = client.get("/log/pictures?outing=1")
    assert headline(page).startswith("0 of 9 pictures belong to a frame")
    assert "It looks 7 min" in text_of(page)
    assert "8 of 9 would fit a frame" in text_of(page)
    form = soup(page).select_one('.clock form[action^="/log/pictures/clock"]')
    sent = {field["name"]: field["value"] for field in form.select("input")}
    right = client.post(form["action"], data=sent)
    assert "7 min" in text_of(right)
    assert "fast" in text_of(right)
    matched = client.post("/log/pictures/match?outing=1")
    assert headline(matched).startswith("8 of 9 pictures belong to a frame")
    by_time = {one.name: one.frame_id for one in listed(client)}
    wanted = {f"P{index:03d}.jpg": frame.id for index, frame in enumerate(frames(client)[:7])}
    assert wanted.items() <= by_time.items()
    assert by_time["P100.jpg"] is None
    back = client.post(undo_path(matched))
    assert back.status_code == 200
    assert all(one.frame_id is None for one in listed(client))


@pytest.mark.parametrize("how", ["clock photographed", "pair dragged"])
def test_the_clock_is_set_by_a_picture_or_a_pair(client, card, how):
    brought_in(client, card)
    first = listed(client)[0]
    sent = {"picture": str(first.id)}
    if how == "pair dragged":
        sent["frame"] = str(frames(client)[0].id)
    else:
        sent["shown"] = START.isoformat()
    client.post("/log/pictures/clock?outing=1", data=sent)
    assert {one.clock_s for one in listed(client)} == {-FAST_S}


@pytest.mark.parametrize(("sent", "words"), [
    ({"shown": "noon"}, "not a date and time"), ({"shown": "1950-01-01T00:00"}, "400 days"), ({"shown": ""}, "not a date"),
])  # fmt: skip
def test_a_time_that_makes_no_sense_is_refused(client, card, sent, words):
    brought_in(client, card)
    answer = client.post("/log/pictures/clock?outing=1", data={"picture": str(listed(client)[0].id), **sent})
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert {one.clock_s for one in listed(client)} == {0.0}


def test_a_clock_a_year_off_is_put_right(client, tmp_path):
    folder = tmp_path / "old"
    folder.mkdir()
    for index, minute in enumerate((0, 2, 3, 5, 9)):
        picture(folder / f"{index}.jpg", START - dt.timedelta(days=365) + dt.timedelta(minutes=minute), seed=index)
    brought_in(client, folder)
    assert "It looks 365 days slow" in text_of(client.get("/log/pictures?outing=1"))


def test_scans_are_matched_by_order_even_from_the_end(client, tmp_path):
    client.post("/log/rolls", data={"name": "26-07", "iso": "400"})
    client.post("/log/change?outing=1&q=kyrstad", data={"every": "yes", "roll": "1"})
    folder = tmp_path / "scans"
    folder.mkdir()
    for number in range(1, 7):
        picture(folder / f"scan{number}.jpg", None, seed=number)
    brought_in(client, folder)
    client.post("/log/pictures/match?roll=1", data={"how": "order", "backwards": "yes"})
    numbers = {one.id: one.film_frame for one in frames(client)}
    assert [numbers[one.frame_id] for one in listed(client) if one.frame_id] == ["6", "5", "4", "3", "2", "1"]
    wrong = client.post("/log/pictures/match?roll=1", data={"how": "order", "first": "99"})
    assert wrong.status_code == 422
    assert "First frame" in text_of(wrong)


def test_what_is_left_over_becomes_frames_with_what_the_file_says(client, card):
    brought_in(client, card)
    answer = client.post("/log/pictures/rest?outing=1")
    assert "Made 9 frames from pictures" in text_of(answer)
    made = [frame for frame in frames(client) if frame.distance_mm is None]
    assert len(made) == 9
    assert (made[0].body_name, made[0].iso, made[0].lens_name) == ("Ostrel 6", 400, "")
    page = text_of(client.get("/log?outing=1"))
    assert "setting not known" in page
    # It can be completed with a set-up, and then has a setting.
    edit = {"setup": "1", "at": "2 m", "stop": "4", "outing": "1"}
    client.post(f"/log/frames/{made[0].id}", data=edit)
    done = next(frame for frame in frames(client) if frame.id == made[0].id)
    assert done.lens_name == "Norrvik 50"
    assert done.distance_mm == pytest.approx(2000, rel=0.01)


def test_a_bracket_is_seen_side_by_side_with_its_sharpest_named(client, tmp_path):
    import cv2

    from tests.core.picture.test_sharpness_map import leaves

    folder = tmp_path / "bracket"
    folder.mkdir()
    sharp = (leaves(6) * 255).astype(np.uint8)[:400, :600]
    for index, blur in enumerate((3.0, 0.0, 2.0)):
        shown = sharp if not blur else cv2.GaussianBlur(sharp, (0, 0), blur)
        exif = Image.Exif()
        exif.get_ifd(0x8769)[0x9003] = f"{START + dt.timedelta(seconds=index):%Y:%m:%d %H:%M:%S}"
        Image.fromarray(shown).save(folder / f"B{index}.jpg", exif=exif, quality=95)
    brought_in(client, folder)
    page = soup(client.get(f"/log/review?picture={listed(client)[0].id}"))
    panes = [words.get_text() for words in page.select(".pane figcaption")]
    assert len(panes) == 3
    assert [words for words in panes if "sharpest" in words] == ["B1.jpg · sharpest"]


def test_an_enlarged_picture_is_said_to_be_one_and_a_recorded_one_is_not(client, tmp_path):
    from tests.core.picture.test_finest_detail import SHOWN, enlarged, recorded

    folder = tmp_path / "scans"
    folder.mkdir()
    shown = recorded(SHOWN["print"])[:500, :700]
    for name, one in (("A.png", shown), ("B.png", enlarged(shown, 2))):
        Image.fromarray(one).save(folder / name)
    brought_in(client, folder)
    said = {
        one.name: "nothing in this picture is as fine as its pixels"
        in text_of(client.get(f"/log/review?picture={one.id}"))
        for one in listed(client)
    }
    assert said == {"A.png": False, "B.png": True}


def test_a_shaken_picture_is_said_to_be_one_and_how_far(client, tmp_path):
    from tests.core.picture.test_finest_detail import recorded
    from tests.core.picture.test_shake import SHOWN, moved

    folder = tmp_path / "card"
    folder.mkdir()
    for name, length in (("a.png", 18), ("b.png", 0.25)):
        Image.fromarray(recorded(moved(SHOWN["mosaic"], length, 88))).save(folder / name)
    brought_in(client, folder)
    pages = {one.name: text_of(client.get(f"/log/review?picture={one.id}")) for one in listed(client)}
    assert "Shaken: everything in this picture is drawn out by about 18 pixels up and down." in pages["a.png"]
    assert "Shaken" not in pages["b.png"]


def test_a_verdict_and_what_was_sharp_instead_are_kept_with_the_frame(client, card):
    brought_in(client, card)
    first = listed(client)[0]
    refused = client.post(f"/log/review/{first.id}", data={"outcome": "hit"})
    assert refused.status_code == 422
    assert "belongs to no frame" in text_of(refused)
    client.post(f"/log/pictures/{first.id}/frame", data={"frame": "1"})
    said = {"outcome": "behind", "x": "0.25", "y": "0.75", "instead": "the board", "miss": "30 cm"}
    answer = client.post(f"/log/review/{first.id}", data=said)
    kept = frames(client)[0]
    assert (kept.outcome.value, kept.spot.x, kept.instead, kept.miss_mm) == ("behind", 0.25, "the board", 300)
    assert f"picture={listed(client)[1].id}" in str(answer.url)  # a verdict leads to the next picture
    assert "° of ring" in text_of(client.get(f"/log/review?picture={first.id}"))
    for change, words in (
        ({"outcome": "great"}, "not a result"),
        ({"x": "2", "y": "0"}, "no place"),
        ({"miss": "far"}, "How far off"),
    ):
        bad = client.post(f"/log/review/{first.id}", data={**said, **change})
        assert bad.status_code == 422
        assert words in text_of(bad)
    assert frames(client)[0] == kept


def test_pictures_on_no_outing_are_put_on_one(client, card):
    brought_in(client, card, outing="")
    page = client.get("/log/pictures?outing=none")
    assert headline(page) == "0 of 9 pictures belong to a frame"
    form = soup(page).select_one('form[action^="/log/pictures/outing"]')
    moved = client.post(form["action"], data={"to": "1"})
    assert "Put 9 pictures on Teal" in text_of(moved)
    assert len(listed(client)) == 9
    client.post(undo_path(moved))
    assert len(listed(client, None)) == 9
    assert client.post(form["action"], data={"to": ""}).status_code == 422


def test_a_picture_goes_to_another_frame_by_hand(client, card):
    brought_in(client, card)
    first = listed(client)[0]
    client.post(f"/log/pictures/{first.id}/frame", data={"frame": "5"})
    assert listed(client)[0].frame_id == 5
    client.post(f"/log/pictures/{first.id}/frame", data={"frame": ""})
    assert listed(client)[0].frame_id is None


def test_a_frame_deleted_in_another_tab_takes_no_picture(client, card):
    brought_in(client, card)
    first = listed(client)[0]
    client.post("/log/frames/2/delete")
    answer = client.post(f"/log/pictures/{first.id}/frame", data={"frame": "2"})
    assert answer.status_code == 404
    assert "frame" in text_of(answer)
    assert listed(client)[0].frame_id is None


def test_pictures_are_forgotten_and_remembered_and_outlive_their_frame(client, card):
    brought_in(client, card)
    first = listed(client)[0]
    client.post(f"/log/pictures/{first.id}/frame", data={"frame": "1"})
    deleted = client.post("/log/frames/1/delete")
    assert listed(client)[0].frame_id is None
    client.post(undo_path(deleted))
    assert listed(client)[0].frame_id == 1
    whole = client.post("/log/outings/1/delete")
    assert [one.frame_id for one in listed(client, None)] == [None] * 9
    client.post(undo_path(whole))
    assert listed(client)[0].frame_id == 1
    gone = client.post("/log/pictures/forget?outing=1", data={"import": report(client).batch})
    assert listed(client) == []
    client.post(undo_path(gone))
    assert len(listed(client)) == 9
    assert (card / "P000.jpg").exists()


def chunk(kind, data):
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def bomb(path, side=60_000):
    """A PNG that says it is enormous."""
    head = struct.pack(">IIBBBBB", side, side, 8, 0, 0, 0, 0)
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")
    )


@pytest.fixture
def bad_card(card, tmp_path):
    """The good card with everything in it that goes wrong."""
    (card / "text.jpg").write_text("not a picture")
    (card / "empty.jpg").write_bytes(b"")
    whole = (card / "P000.jpg").read_bytes()
    (card / "cut.jpg").write_bytes(whole[: len(whole) // 2])
    bomb(card / "bomb.png")
    with (card / "huge.tif").open("wb") as file:
        file.truncate(300 * 1024 * 1024)
    (card / "wrong.dng").write_bytes(b"II*\0" + b"\xff" * 400)
    os.symlink(tmp_path / "elsewhere.jpg", card / "link.jpg")
    os.mkfifo(card / "pipe.jpg")
    (card / "notes.txt").write_text("left alone")
    return card


def test_each_bad_file_is_named_and_the_rest_goes_on(client, bad_card):
    assert brought_in(client, bad_card).state is JobState.DONE
    told = report(client)
    assert told.added == 9
    said = " ".join(told.refused)
    for name in ("text.jpg", "empty.jpg", "cut.jpg", "bomb.png", "huge.tif", "wrong.dng", "pipe.jpg"):
        assert name in said, name
    assert "300 MB" in said
    assert "1 link passed over" in said
    assert "notes.txt" not in said
    assert client.get("/log").status_code == 200


def test_a_suffix_does_not_matter_and_other_kinds_are_read(client, tmp_path):
    folder = tmp_path / "kinds"
    folder.mkdir()
    Image.new("RGB", (80, 60), "red").save(folder / "really.png", "JPEG")
    Image.new("I;16", (80, 60)).save(folder / "deep.tif")
    Image.new("RGBA", (80, 60)).save(folder / "clear.webp")
    picture(folder / "side.jpg", START, orientation=6)
    brought_in(client, folder)
    kinds = {one.name: (one.media_type, one.width_px) for one in listed(client)}
    assert kinds == {
        "really.png": ("image/jpeg", 80), "deep.tif": ("image/tiff", 80), "clear.webp": ("image/webp", 80),
        "side.jpg": ("image/jpeg", 64),
    }  # fmt: skip
    deep = next(one for one in listed(client) if one.name == "deep.tif")
    assert client.get(f"/log/pictures/{deep.id}/full").headers["content-type"] == "image/jpeg"


def test_a_raw_file_is_developed(client, tmp_path):
    """A mosaic written as DNG, which LibRaw reads."""
    import tifffile

    folder = tmp_path / "raw"
    folder.mkdir()
    mosaic = np.random.default_rng(1).integers(500, 4000, (200, 300), dtype=np.uint16)
    tags = [
        (50706, 1, 4, (1, 4, 0, 0), True), (50708, 2, 0, "Ostrel 6", True), (33421, 3, 2, (2, 2), True),
        (33422, 1, 4, (0, 1, 1, 2), True), (50714, 4, 1, 256, True), (50717, 4, 1, 4095, True),
        (50721, 10, 9, (1, 1, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1, 0, 1, 0, 1, 1, 1), True), (271, 2, 0, "Ostrel", True),
        (272, 2, 0, "Ostrel 6", True), (306, 2, 0, "2026:03:14 09:40:00", True),
    ]  # fmt: skip
    tifffile.imwrite(folder / "one.dng", mosaic, photometric=32803, extratags=tags)
    job = brought_in(client, folder)
    assert job.state is JobState.DONE, report(client).refused
    (found,) = listed(client)
    assert (found.media_type, found.width_px, found.height_px) == ("image/x-raw", 300, 200)
    assert found.taken_at == dt.datetime(2026, 3, 14, 9, 40)
    assert client.get(f"/log/pictures/{found.id}/full").headers["content-type"] == "image/jpeg"


@pytest.mark.parametrize("written", ["0000:00:00 00:00:00", "2026:13:45 99:00:00", "    ", "yesterday"])
def test_times_that_make_no_sense_count_as_none(client, tmp_path, written):
    folder = tmp_path / "times"
    folder.mkdir()
    picture(folder / "a.jpg", written)
    brought_in(client, folder)
    assert listed(client)[0].taken_at is None


def test_broken_numbers_in_exif_count_as_none(client, tmp_path):
    folder = tmp_path / "numbers"
    folder.mkdir()
    from PIL.TiffImagePlugin import IFDRational

    picture(folder / "a.jpg", START, x829D=IFDRational(28, 0), x920A=IFDRational(0, 0), x8827=0)
    # An EXIF block whose offsets lead four gigabytes away.
    path = picture(folder / "b.jpg", START, seed=2)
    data = (
        path.read_bytes()
        .replace(b"\x00\x04\x87\x69", b"\xff\xff\xff\xff")
        .replace(b"\x69\x87\x04\x00\x01\x00\x00\x00", b"\x69\x87\x04\x00\xff\xff\xff\xff")
    )
    path.write_bytes(data)
    brought_in(client, folder)
    found = {one.name: one for one in listed(client)}
    assert set(found) == {"a.jpg", "b.jpg"}
    assert (found["a.jpg"].exif.stop, found["a.jpg"].exif.focal_mm, found["a.jpg"].exif.iso) == (None, None, None)


def test_a_library_that_falls_over_takes_one_file_along(client, card, monkeypatch):
    """The process that reads a picture ends: the file is refused, another process reads the next."""
    told = worker_pool._Worker.ask

    def falls(self, asked):
        if asked["path"].endswith("P003.jpg"):
            self._process.kill()
        return told(self, asked)

    monkeypatch.setattr(worker_pool._Worker, "ask", falls)
    assert brought_in(client, card).state is JobState.DONE
    assert report(client).added == 8
    assert "gave up on it" in report(client).refused[0]


def test_a_file_that_takes_for_ever_is_given_up(card):
    from welotrope.interchange.pictures.workers import PictureError, PictureWorkers

    slow = PictureWorkers(count=1, most_s=1e-4)
    with pytest.raises(PictureError, match="gave up"):
        slow.ask("look", card / "P000.jpg", thumb="/dev/null")
    slow.close()


def test_a_full_disk_ends_it_and_keeps_what_was_read(client, card, monkeypatch):
    kept = files.keep_file
    count = [0]

    def fills(*given):
        count[0] += 1
        if count[0] > 3:
            raise OSError(errno.ENOSPC, "No space left on device")
        return kept(*given)

    monkeypatch.setattr(picture_importing, "AT_ONCE", 3)
    monkeypatch.setattr(files, "keep_file", fills)
    job = brought_in(client, card)
    assert job.state is JobState.FAILED
    assert "Make room" in job.note
    assert len(listed(client)) == 3
    assert "the disk is full" in text_of(client.get("/log/pictures?outing=1"))


def test_a_disk_that_fills_while_a_picture_is_read_is_not_taken_for_a_bad_picture(client, card):
    from welotrope.interchange.pictures.workers import PictureError

    for do, where in (("look", "thumb"), ("measure", "preview"), ("full", "to")):
        with pytest.raises(PictureError) as caught:
            client.app.state.pictures.ask(do, card / "P000.jpg", **{where: "/dev/full"})
        assert caught.value.errno == errno.ENOSPC, do


@pytest.mark.parametrize(("folder", "words"), [
    ("", "no whole path"), ("pictures", "no whole path"), ("/no/such/folder", "no such folder"), ("../../etc", "no whole path"),
    ("/etc/passwd", "no folder"), ("/\0", "no whole path"), ("/" + "x" * 5000, "too long"),
])  # fmt: skip
def test_a_folder_that_cannot_be_is_refused_with_what_was_typed(client, folder, words):
    answer = client.post("/log/pictures/folder", data={"folder": folder})
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_an_empty_folder_and_one_that_may_not_be_read_say_so(client, tmp_path):
    (tmp_path / "none").mkdir()
    answer = client.post("/log/pictures/folder", data={"folder": str(tmp_path / "none")})
    assert "no picture in it" in text_of(answer)
    assert f'value="{tmp_path / "none"}"' in answer.text


def test_a_folder_that_vanishes_leaves_what_was_known(client, card):
    brought_in(client, card)
    first = listed(client)[0]
    for path in card.iterdir():
        path.unlink()
    card.rmdir()
    assert client.get(f"/log/pictures/{first.id}/full").status_code == 404
    page = text_of(client.get(f"/log/review?picture={first.id}"))
    assert "seen at the size of the screen only" in page
    assert client.get(f"/log/pictures/{first.id}/preview").status_code == 200


def test_another_file_in_its_place_is_not_shown(client, card):
    brought_in(client, card)
    first = listed(client)[0]
    (card / first.name).write_bytes(b"something else")
    assert client.get(f"/log/pictures/{first.id}/full").status_code == 404
    (card / first.name).unlink()
    os.symlink("/etc/passwd", card / first.name)
    assert client.get(f"/log/pictures/{first.id}/full").status_code == 404


BATCH = "0123456789abcdef"


def test_dropped_files_come_in_one_by_one_and_are_kept_when_asked(client, card):
    for name in ("P000.jpg", "P001.jpg"):
        sent = client.post(
            "/log/pictures/drop", params={"batch": BATCH, "name": f"../../{name}"}, content=(card / name).read_bytes()
        )
        assert sent.json() == {"name": name, "bytes": (card / name).stat().st_size}
    answer = client.post("/log/pictures/dropped", data={"batch": BATCH, "outing": "1", "keep": "yes"})
    assert waited(client, answer.url.path).state is JobState.DONE
    found = listed(client)
    assert [(one.name, one.folder) for one in found] == [("P000.jpg", ""), ("P001.jpg", "")]
    assert client.get(f"/log/pictures/{found[0].id}/full").content == (card / "P000.jpg").read_bytes()
    folder = client.app.state.database.folder
    assert list((folder / "incoming").iterdir()) == []


def test_dropped_files_not_kept_are_seen_at_the_size_of_the_screen(client, card):
    client.post(
        "/log/pictures/drop", params={"batch": BATCH, "name": "a.jpg"}, content=(card / "P000.jpg").read_bytes()
    )
    answer = client.post("/log/pictures/dropped", data={"batch": BATCH, "outing": "1"})
    waited(client, answer.url.path)
    (found,) = listed(client)
    assert client.get(f"/log/pictures/{found.id}/full").status_code == 404
    assert client.get(f"/log/pictures/{found.id}/preview").status_code == 200


@pytest.mark.parametrize(
    ("batch", "length", "status"), [("../../../../etc", 10, 400), ("x" * 16, 10, 400), (BATCH, 261 * 1024 * 1024, 413)]
)
def test_what_is_dropped_is_bounded(client, batch, length, status):
    answer = client.post(
        "/log/pictures/drop",
        params={"batch": batch, "name": "a.jpg"},
        content=b"x",
        headers={"content-length": str(length)} if length > 10 else {},
    )
    assert answer.status_code == status


def test_nothing_dropped_says_so(client):
    answer = client.post("/log/pictures/dropped", data={"batch": BATCH})
    assert answer.status_code == 422
    assert "none of them came" in text_of(answer)


def test_dropped_files_of_one_name_at_once_all_come_in(client, card):
    data = (card / "P000.jpg").read_bytes()
    with ThreadPoolExecutor(8) as pool:
        sent = list(
            pool.map(
                lambda _: client.post("/log/pictures/drop", params={"batch": BATCH, "name": "same.jpg"}, content=data),
                range(16),
            )
        )
    assert {one.status_code for one in sent} == {200}
    assert len(taken_in(client.app.state.database.folder, BATCH)) == 16


@pytest.mark.parametrize(
    ("name", "shown"),
    [
        ("a.part", "a.part"), ("../../x.jpg", "x.jpg"), ("C:\\photos\\y.jpg", "y.jpg"), (".hidden.jpg", "hidden.jpg"),
        ("💥" * 60 + ".jpg", "💥" * 44 + ".jpg"), ("x" * 255 + ".jpg", "x" * 176 + ".jpg"), ("a\nb.jpg", "a b.jpg"), ("..", "picture"),
        ("", "picture"),
    ],
)  # fmt: skip
def test_a_dropped_name_is_made_safe_and_comes_in(client, card, name, shown):
    answer = client.post(
        "/log/pictures/drop", params={"batch": BATCH, "name": name}, content=(card / "P000.jpg").read_bytes()
    )
    assert answer.status_code == 200
    assert answer.json()["name"].replace(" ", "") == shown.replace(" ", "")
    (found,) = taken_in(client.app.state.database.folder, BATCH)
    assert found.parent.name == BATCH
    assert waited(
        client, client.post("/log/pictures/dropped", data={"batch": BATCH, "outing": "1"}).url.path
    ).state.over
    assert len(listed(client)) == 1


def test_batches_that_were_never_brought_in_are_bounded(client):
    statuses = [
        client.post("/log/pictures/drop", params={"batch": f"{n:016x}", "name": "a.jpg"}, content=b"x").status_code
        for n in range(40)
    ]
    assert statuses[0] == 200
    assert statuses[-1] == 413


def test_names_that_are_no_text_are_refused_by_name_and_the_rest_comes_in(client, card):
    data = (card / "P000.jpg").read_bytes()
    for name in (b"bad-\xff\xfe.jpg", b"two\nlines.jpg"):
        with open(os.path.join(os.fsencode(card), name), "wb") as file:
            file.write(data + name)
    emoji = "📷" * 60 + ".jpg"
    Image.fromarray(np.full((40, 60, 3), 90, np.uint8)).save(card / emoji)
    brought_in(client, card)
    said = report(client).refused
    assert sum("holds what is no text. Rename it" in one for one in said) == 2
    assert emoji in {one.name for one in listed(client)}
    assert len(listed(client)) > 3


def test_folders_too_deep_are_counted(client, card):
    deep = card.joinpath(*"abcdefghij")
    deep.mkdir(parents=True)
    (deep / "lost.jpg").write_bytes((card / "P000.jpg").read_bytes())
    brought_in(client, card)
    assert any("1 folder more than 8 deep passed over" in one for one in report(client).refused)


def test_the_home_of_nobody_is_a_sentence(client):
    answer = client.post("/log/pictures/folder", data={"folder": "~nobodyxyz/pictures", "outing": "1"})
    assert answer.status_code == 422
    assert "nobody of that name has a home here" in text_of(answer)
