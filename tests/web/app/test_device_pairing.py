"""The pairing to the local network: shut by default, opened once by a code, and shut again to a device at any time."""

import datetime as dt
import re
import zipfile
from io import BytesIO

import cv2
import numpy as np
import pytest
import segno
from fastapi.testclient import TestClient

from tests.conftest import HOME, NOW
from tests.web.pages import soup, text_of, undo_path
from welotrope.store.archive import write_archive
from welotrope.store.session import DATABASE_NAME, Database
from welotrope.web.app.application import create_app

LAN = "http://192.168.7.20:8420"


class Clock:
    """A clock on the wall, and beside it one that nobody sets."""

    def __init__(self):
        self.now, self.ticks = NOW, 1000.0

    def __call__(self):
        return self.now

    def goes_on(self, seconds):
        self.now += dt.timedelta(seconds=seconds)
        self.ticks += seconds


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def application(demo_folder, clock):
    app = create_app(demo_folder, now=clock, lan=("192.168.7.20", 8420))
    app.state.device_pairing._ticks = lambda: clock.ticks
    with TestClient(app, base_url=HOME):
        yield app


def at(application, base=LAN, address="192.168.7.31"):
    return TestClient(application, base_url=base, headers={"origin": base}, client=(address, 50_000))


@pytest.fixture
def computer(application):
    return at(application, HOME, "127.0.0.1")


@pytest.fixture
def phone(application):
    return at(application)


def code_of(computer):
    return soup(computer.post("/devices/code")).select_one("[data-code]").string


def pair(phone, code, name="my phone"):
    return phone.post("/pair", data={"code": code, "name": name}, follow_redirects=False)


def test_a_device_comes_in_by_a_code_and_only_by_that(computer, phone):
    for path in ("/field", "/scale", "/kit/export.json", "/devices", "/api/openapi.json"):
        assert phone.get(path).status_code == 401
    assert phone.post("/field/queue", json={"entries": []}).status_code == 401
    assert phone.get(f"/pair?code={code_of(computer)}").status_code == 200
    answer = pair(phone, code_of(computer))
    assert (answer.status_code, answer.headers["location"]) == (303, "/field")
    cookie = answer.headers["set-cookie"].lower()
    assert "httponly" in cookie
    assert "samesite=strict" in cookie
    assert phone.get("/field").status_code == 200
    assert phone.post("/field/queue", json={"entries": []}).status_code == 200


def test_the_picture_of_the_code_says_where_and_what(computer):
    page = computer.post("/devices/code")
    assert soup(page).select_one("svg.qr path")
    code = soup(page).select_one("[data-code]").string.replace("-", "")
    out = BytesIO()
    segno.make(f"{LAN}/pair?code={code}", micro=False).save(out, kind="png", scale=6, border=4)
    picture = cv2.imdecode(np.frombuffer(out.getvalue(), np.uint8), cv2.IMREAD_GRAYSCALE)
    assert cv2.QRCodeDetector().detectAndDecode(picture)[0] == f"{LAN}/pair?code={code}"


def test_a_code_is_good_once(computer, phone, application):
    code = code_of(computer)
    assert pair(phone, code).status_code == 303
    other = at(application, address="192.168.7.99")
    answer = pair(other, code)
    assert answer.status_code == 403
    assert "was used" in text_of(answer)
    assert other.get("/field").status_code == 401


def test_a_code_grows_old(computer, phone, clock):
    code = code_of(computer)
    clock.goes_on(660)
    answer = pair(phone, code)
    assert answer.status_code == 403
    assert "no code to take now" in text_of(answer)


def test_a_code_lives_ten_minutes_whatever_the_clock_on_the_wall_is_set_to(computer, phone, clock):
    code = code_of(computer)
    clock.now -= dt.timedelta(days=30)
    clock.ticks += 660
    assert pair(phone, code).status_code == 403
    code = code_of(computer)
    clock.now += dt.timedelta(days=60)
    assert pair(phone, code).status_code == 303


def test_many_guesses_are_slowed_down_and_the_code_is_no_use_to_who_guessed(computer, phone, clock):
    code = code_of(computer)
    seen = [pair(phone, f"GUESS{index:03d}").status_code for index in range(300)]
    assert set(seen) == {403, 429}
    assert seen.count(403) <= 10
    assert pair(phone, code).status_code == 429
    clock.goes_on(120)
    assert pair(phone, code).status_code == 429
    assert phone.get("/field").status_code == 401
    assert pair(phone, code_of(computer)).status_code == 303


def test_a_stranger_cannot_stop_another_from_pairing_and_is_shown(application, computer, phone):
    code = code_of(computer)
    stranger = at(application, address="192.168.7.66")
    for index in range(60):
        pair(stranger, f"WRONG{index:03d}")
    assert pair(phone, code).status_code == 303
    shown = text_of(computer.get("/devices"))
    assert "192.168.7.66" in shown
    assert "60 " in shown


def test_only_the_paired_address_is_answered_from_outside(application, computer, phone):
    pair(phone, code_of(computer))
    secret = phone.cookies["welotrope_device"]
    for host in (
        "http://evil.example:8420",
        "http://192.168.7.20:9999",
        "http://192.168.7.20",
        "http://127.0.0.1:8420",
    ):
        outsider = at(application, host)
        outsider.cookies.set("welotrope_device", secret)
        assert outsider.get("/field").status_code == 400, host
    forged = phone.post("/field/queue", json={"entries": []}, headers={"origin": "http://evil.example"})
    assert forged.status_code == 403


def test_a_device_let_in_no_more_is_out_at_once_and_others_stay(application, computer, phone):
    pair(phone, code_of(computer), "my phone")
    second = at(application, address="192.168.7.32")
    pair(second, code_of(computer), "old tablet")
    page = computer.get("/devices")
    assert "my phone" in text_of(page)
    assert "old tablet" in text_of(page)
    first = min(form["action"] for form in soup(page).select("form[action$=revoke]"))
    computer.post(first)
    assert phone.get("/field").status_code == 401
    assert second.get("/field").status_code == 200


NOT_FROM_A_PHONE = {
    "GET": {
        "/devices", "/jobs", "/jobs/1", "/kit/adapters/new", "/kit/add/camera", "/kit/add/lens", "/kit/attachments/new", "/kit/backups",
        "/kit/backups/everything.zip", "/kit/backups/exports/1", "/kit/backups/1", "/kit/bodies/new",
        "/kit/export.json", "/kit/import", "/kit/lenses/new", "/kit/mounts/new", "/kit/schema.json", "/kit/setups/new",
        "/log/clock", "/log/contact.pdf", "/log/export.csv", "/log/export.json", "/log/pictures",
        "/log/pictures/1/full", "/log/landing", "/log/sidecars", "/log/sidecars.zip", "/shots/series", "/shots/sheets", "/shots/sheets/1-1.json", "/shots/sheets/1-1.pdf", "/start", "/start/fields",
    },
    "POST": {
        "/aids/constants", "/aids/lamp", "/aids/live/aid", "/aids/live/keep", "/api/testshot/ring", "/api/testshot/row", "/api/testshot/shift",
        "/api/testshot/slope", "/api/testshot/stops", "/api/testshot/wall", "/devices/code", "/devices/1/revoke", "/field/pocket", "/field/pocket/store",
        "/jobs/1/cancel", "/kit/add/camera", "/kit/add/lens", "/kit/adapters", "/kit/adapters/1", "/kit/adapters/1/delete", "/kit/adapters/detour",
        "/kit/attachments", "/kit/attachments/1", "/kit/attachments/1/delete", "/kit/attachments/detour",
        "/kit/backups", "/kit/backups/everything", "/kit/backups/leave", "/kit/backups/look", "/kit/backups/put", "/kit/bodies", "/kit/bodies/1", "/kit/bodies/1/delete", "/kit/bodies/1/screen",
        "/kit/bodies/1/slots", "/kit/bodies/detour", "/kit/broken/1/1/delete", "/kit/import", "/kit/import/store",
        "/kit/lenses", "/kit/lenses/1", "/kit/lenses/1/delete", "/kit/lenses/detour", "/kit/mounts", "/kit/mounts/1",
        "/kit/mounts/1/delete", "/kit/mounts/detour", "/kit/setups", "/kit/setups/1", "/kit/setups/1/delete",
        "/kit/setups/1/sheet/clear", "/kit/setups/1/sheet/line", "/kit/setups/1/sheet/restore", "/kit/setups/detour",
        "/log/change", "/log/frames/1/delete", "/log/landing", "/log/landing/stop", "/log/outings/1", "/log/outings/1/delete", "/log/pictures/1/frame",
        "/log/pictures/clock", "/log/pictures/drop", "/log/pictures/dropped", "/log/pictures/folder",
        "/log/pictures/forget", "/log/pictures/match", "/log/pictures/outing", "/log/pictures/rest",
        "/log/review/1/measure", "/log/rolls", "/log/rolls/1", "/log/rolls/1/dates", "/log/rolls/1/delete",
        "/log/sidecars/undo", "/log/sidecars/write", "/log/why/test", "/practice/changes",
        "/practice/changes/1/delete", "/practice/drills/1/delete", "/practice/sessions/1/person",
        "/practice/trials/1/delete", "/presets/1/delete", "/presets/1/rename", "/scale/1/forget", "/scale/infinity",
        "/scale/marks", "/scale/measure", "/scale/measure/forget", "/scale/print", "/scale/shift", "/shots/dropped", "/shots/1/delete",
        "/shots/series", "/shots/series/1/delete", "/shots/series/result/1/delete", "/shots/series/result/1/keep",
        "/shots/series/try", "/shots/series/watch", "/shots/series/watch/end", "/shots/try", "/shots/watch", "/shots/watch/stop", "/start",
    },
}  # fmt: skip


def test_what_a_phone_may_do_is_what_the_table_says_for_every_route(application, computer, phone):
    """Every route that there is: one that is added is refused from a phone until somebody lets it in here."""
    pair(phone, code_of(computer))
    refused = {"GET": set(), "POST": set()}
    for route in application.routes:
        for method in (getattr(route, "methods", None) or set()) & {"GET", "POST"}:
            path = re.sub(r"\{[a-z_]+\}", "1", route.path)
            answer = phone.request(method, path, follow_redirects=False)
            if answer.status_code == 403 and "done at the computer itself" in text_of(answer):
                refused[method].add(path)
    assert refused == NOT_FROM_A_PHONE


def test_a_phone_takes_back_what_it_logged_and_nothing_of_the_kit(application, computer, phone):
    pair(phone, code_of(computer))
    marked = phone.post("/log/frames/1/mark", data={"outcome": "hit"})
    assert phone.post(undo_path(marked)).status_code == 200
    deleted = computer.post("/kit/lenses/1/delete")
    assert phone.post(undo_path(deleted)).status_code == 403
    assert computer.post(undo_path(deleted)).status_code == 200


def test_what_a_phone_saw_it_does_not_keep(application, computer, phone):
    pair(phone, code_of(computer))
    assert phone.get("/log").headers["cache-control"] == "no-store"
    assert phone.get("/field/script.js").headers["cache-control"] == "no-store"
    assert "no-store" not in computer.get("/log").headers["cache-control"]
    assert "private" in computer.get("/log").headers["cache-control"]


def test_a_pairing_outlives_the_server(demo_folder, computer, phone, clock):
    pair(phone, code_of(computer))
    secret = phone.cookies["welotrope_device"]
    again = at(create_app(demo_folder, now=clock, lan=("192.168.7.20", 8420)))
    assert again.get("/field").status_code == 401
    again.cookies.set("welotrope_device", secret)
    assert again.get("/field").status_code == 200


def test_without_a_door_nothing_from_outside_is_answered(client, demo_folder):
    assert "No phone is connected" in text_of(client.get("/devices"))
    shut = at(client.app)
    assert shut.get("/field").status_code == 400
    assert shut.get("/pair").status_code == 400
    assert client.post("/pair", data={"code": "ABCDEFGH", "name": "x"}).status_code == 403


@pytest.mark.parametrize("name", ["", "   ", "x" * 41, "my\x00phone"])
def test_a_device_needs_a_name_and_the_code_stays_good(computer, phone, name):
    code = code_of(computer)
    answer = pair(phone, code, name)
    assert answer.status_code == 422
    assert pair(phone, code).status_code == 303


def test_secrets_are_kept_as_hashes_and_stay_out_of_the_archive(computer, phone, demo_folder, tmp_path, clock):
    pair(phone, code_of(computer))
    secret = phone.cookies["welotrope_device"].encode()
    for path in demo_folder.glob(f"{DATABASE_NAME}*"):
        assert secret not in path.read_bytes()
    database = Database(demo_folder)
    write_archive(database, tmp_path / "all.zip", clock())
    database.close()
    assert not [name for name in zipfile.ZipFile(tmp_path / "all.zip").namelist() if "device" in name]
