import pytest

from tests.conftest import HOME
from tests.web.pages import text_of

CSV = "/log/export.csv"


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "192.168.1.5:8420", ""])
def test_foreign_hosts_are_refused(client, host):
    answer = client.get("/scale", headers={"host": host})
    assert answer.status_code == 400
    assert "Norrvik" not in answer.text


@pytest.mark.parametrize("host", ["localhost:8420", "127.0.0.1", "[::1]:8420"])
def test_loopback_names_are_answered(client, host):
    assert client.get("/help", headers={"host": host}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [
        {"origin": "http://evil.example"},
        {"origin": "http://127.0.0.1:9999"},
        {"origin": "null"},
        {"origin": HOME, "sec-fetch-site": "cross-site"},
        {"origin": HOME, "sec-fetch-site": "same-site"},
    ],
)
def test_writes_from_elsewhere_are_refused(client, headers):
    answer = client.post("/kit/lenses/1/delete", headers=headers)
    assert answer.status_code == 403
    assert client.get("/kit/lenses/1").status_code == 200


def test_writes_without_any_origin_are_refused_but_calculations_answer(client):
    del client.headers["origin"]
    assert client.post("/kit/lenses/1/delete").status_code == 403
    asked = {"focal_mm": 40, "stop": 11, "blur_mm": 0.028, "focus": "2500mm"}
    assert client.post("/api/calc/depth", json=asked).status_code == 200


def test_every_answer_carries_the_policy(client):
    for path in ("/scale", "/static/shell/script/main.js", "/nowhere", CSV, "/api/calc/depth"):
        policy = client.get(path).headers["content-security-policy"]
        assert "script-src 'self'" in policy
        assert "unsafe" not in policy


@pytest.mark.parametrize("declared", [True, False])
def test_oversized_bodies_are_refused(client, declared):
    body = b"name=" + b"x" * 3_000_000
    content = body if declared else iter([body[:1_000_000], body[1_000_000:]])
    headers = {"content-type": "application/x-www-form-urlencoded"}
    answer = client.post("/kit/lenses", content=content, headers=headers)
    assert answer.status_code == 413
    assert "2 MB" in text_of(answer)


@pytest.mark.parametrize("path", ["/nowhere", "/kit/lenses/999", "/log/frames/999", "/static/../../etc/passwd"])
def test_missing_pages_are_clear(client, path):
    answer = client.get(path)
    assert answer.status_code == 404
    assert "Traceback" not in answer.text
    assert "<h1>" in answer.text


def test_an_unexpected_failure_shows_no_trace(demo_folder, monkeypatch, caplog):
    from fastapi.testclient import TestClient

    from welotrope.web.app.application import create_app
    from welotrope.web.rooms.scale import ring

    monkeypatch.setattr(ring, "scale_page", lambda *args: 1 / 0)
    with TestClient(create_app(demo_folder), base_url=HOME, raise_server_exceptions=False) as client:
        answer = client.get("/scale")
    assert answer.status_code == 500
    assert "not your doing" in answer.text
    assert "ZeroDivision" not in answer.text
    assert "ZeroDivisionError" in caplog.text


@pytest.mark.parametrize("back", ["https://evil.example/", "//evil.example", "/\\evil.example"])
def test_redirects_stay_at_home(client, back):
    answer = client.post("/look", data={"look": "night", "back": back}, follow_redirects=False)
    assert answer.headers["location"] == "/"


CROSS = {"sec-fetch-site": "cross-site", "origin": ""}
LED = {**CROSS, "sec-fetch-mode": "navigate", "sec-fetch-dest": "document"}
HEAVY = [
    "/kit/backups/everything.zip", "/log/export.csv", "/log/export.json?outing=1", "/log/contact.pdf?outing=1",
    "/log/pictures/1/full", "/log/pictures/1/thumb", "/log/sidecars.zip?outing=1", "/field/cards.pdf", "/scale/print.pdf",
    "/kit/export.json", "/api/calc/depth?focal=50&stop=8&distance=2m", "/api/openapi.json", "/field/pocket.html",
    "/static/css/app.css",
]  # fmt: skip


@pytest.mark.parametrize("path", HEAVY)
@pytest.mark.parametrize("site", ["cross-site", "same-site"])
def test_another_site_gets_nothing_but_pages_and_those_only_for_a_person(client, path, site):
    for headers in (CROSS, LED, {**CROSS, "sec-fetch-mode": "no-cors", "sec-fetch-dest": "image"}):
        answer = client.get(path, headers={**headers, "sec-fetch-site": site})
        assert answer.status_code == 403, headers
        assert "another site" in answer.text


@pytest.mark.parametrize("path", ["/", "/scale", "/log", "/help", "/plan/zones?stop=8"])
def test_a_link_on_another_site_leads_to_a_page_and_a_frame_or_a_script_gets_none(client, path):
    assert client.get(path, headers=LED).status_code == 200
    for more in ({"sec-fetch-dest": "iframe"}, {"sec-fetch-dest": "empty", "sec-fetch-mode": "cors"}):
        assert client.get(path, headers={**LED, **more}).status_code == 403


@pytest.mark.parametrize("site", ["same-origin", "none", None])
def test_our_own_pages_and_the_person_get_everything(client, site):
    headers = {} if site is None else {"sec-fetch-site": site}
    for path in ("/scale", "/static/css/app.css", "/log/export.csv", "/kit/export.json"):
        assert client.get(path, headers=headers).status_code == 200


def test_pages_are_kept_by_no_store_in_between(client):
    for path in ("/", "/scale", "/log", "/nowhere", "/kit/export.json"):
        assert client.get(path).headers["cache-control"] in ("private, no-cache", "no-store")
