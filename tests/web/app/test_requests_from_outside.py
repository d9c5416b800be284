"""Requests no page would send: foreign hosts and origins, odd methods, numbers and bytes, records that cannot be read."""

import sqlite3

import pytest

from tests.web.pages import text_of
from welotrope.store.session import DATABASE_NAME


@pytest.mark.parametrize(
    "host", ["[", "127.0.0.1:99999999", "evil.example", "127.0.0.1@evil.example", "", "127.0.0.1/x", "[::1"]
)
def test_foreign_hosts_are_refused(client, host):
    answer = client.get("/help", headers={"host": host})
    assert answer.status_code == 400
    assert "content-security-policy" in answer.headers


@pytest.mark.parametrize(
    "origin", ["https://127.0.0.1:8420", "http://evil.example", "http://[", "null", "http://127.0.0.1:8421"]
)
def test_the_scheme_and_port_of_an_origin_count(client, origin):
    answer = client.post("/unit", data={"unit": "ft"}, headers={"origin": origin})
    assert answer.status_code == 403


@pytest.mark.parametrize(
    "path",
    [
        "/help",
        "/scale",
        "/kit/export.json",
        "/log/export.csv",
        "/api/calc/depth?focal_mm=50&stop=8&blur_mm=0.03&focus=2m",
    ],
)
def test_head_answers_as_get_does_without_a_body(client, path):
    get, head = client.get(path), client.head(path)
    assert head.status_code == get.status_code == 200
    assert head.content == b""
    assert head.headers["content-type"] == get.headers["content-type"]


@pytest.mark.parametrize(
    ("method", "path", "allowed"),
    [("DELETE", "/kit", "GET, HEAD"), ("PUT", "/kit/lenses", "POST"), ("PATCH", "/scale/measure", "GET, HEAD, POST")],
)
def test_405_says_what_is_allowed(client, method, path, allowed):
    answer = client.request(method, path, headers={"origin": "http://127.0.0.1:8420"})
    assert answer.status_code == 405
    assert answer.headers["allow"] == allowed


def test_an_unexpected_error_still_carries_strict_headers(client, monkeypatch, caplog):
    from welotrope.store.queries import log

    def fail(*_args):
        raise RuntimeError("SELECT secret FROM x\nwith a second line")

    monkeypatch.setattr(log, "list_outings", fail)
    client._transport.raise_server_exceptions = False
    answer = client.get("/log")
    assert answer.status_code == 500
    assert "default-src 'none'" in answer.headers["content-security-policy"]
    assert answer.headers["x-content-type-options"] == "nosniff"
    lines = [record.getMessage() for record in caplog.records if record.levelname == "ERROR"]
    assert len(lines) == 1
    assert "\n" not in lines[0]


@pytest.mark.parametrize(
    "path",
    [
        "/kit/lenses/99999999999999999999", "/kit/lenses/" + "9" * 5000, "/kit/lenses/²", "/log?outing=9223372036854775808",
        "/log?offset=99999999999", "/log/export.csv?outing=-1", "/scale?done=²", "/scale?at=%ED%A0%80", "/scale?stop=1e400",
        "/practice/photos/nothing.jpg", "/kit/setups/new?body_id=1&lens_id=99999999999999999999", "/scale?subject=x@0.04",
        "/log/frames/0", "/kit/setups/-5/sheet", "/practice/trials/18446744073709551616",
    ],
)  # fmt: skip
def test_numbers_from_outside_never_break_anything(client, path):
    answer = client.get(path)
    assert answer.status_code < 500


@pytest.mark.parametrize("step", ["0", "-1", "1e-320", "nan", "7"])
def test_a_finder_has_only_its_steps(client, step):
    begun = client.post("/practice/rounds", data={"exercise": "single", "aid": "magnified", "scene": "shed", "stop": "1.4"},
                        follow_redirects=False)  # fmt: skip
    answer = client.get(f"{begun.headers['location']}/frame?step={step}&i=3")
    assert answer.status_code == 422


@pytest.mark.parametrize(
    "aid",
    [
        {"kind": "peaking", "pitch_mm": 0.006, "sensor_px": 6000, "display_px": 1280, "threshold_per_px": 1e-320},
        {"kind": "split_image", "finder_magnification": 0.9, "deviation_deg": 1e-300},
        {"kind": "matte", "finder_magnification": 1e-300},
        {"kind": "magnified", "pitch_mm": 1e-300, "sensor_px": 6000, "display_px": 1280, "step": 6},
        {"kind": "magnified", "pitch_mm": 0.006, "sensor_px": 6000, "display_px": 1280, "step": 0},
    ],
)
def test_denormal_aids_are_refused_with_their_field(client, aid):
    asked = {"focal_mm": 50, "stop": 1.4, "focus_mm": 2000, "blur_mm": 0.03, "lead_mm": 10.8, "aids": [aid]}
    answer = client.post("/api/calc/aids", json=asked)
    assert answer.status_code == 422
    assert answer.json()["error"]


@pytest.mark.parametrize("name", ["a\x00b", "bell\x07", "   ", "x" * 61, "line\u2028break"])
def test_names_that_cannot_be_shown_are_refused(client, name):
    data = {"name": name, "focal": "50", "stops": "2 4", "closest_focus": "0.5 m"}
    raw = "&".join(
        f"{key}={''.join(f'%{byte:02X}' for byte in value.encode('utf-8', 'surrogatepass'))}"
        for key, value in data.items()
    )
    answer = client.post("/kit/lenses", content=raw, headers={"content-type": "application/x-www-form-urlencoded"})
    assert answer.status_code in (400, 422)


def test_a_long_field_of_a_file_is_refused_by_its_line(client):
    table = "name;focal;stops;closest\nGood;50;2 4;0.5 m\n" + "x" * 131_073 + ";50;2 4;0.5 m\n"
    answer = client.post("/kit/import", files={"file": ("l.csv", table.encode())})
    assert answer.status_code == 422
    assert "cannot be read as a row" in text_of(answer)


def test_a_kit_of_800_kb_that_previews_is_stored(empty_client):
    import json

    lens = {"focal_mm": 50, "stops": [2, 4], "closest_mm": 450}
    engraved = [500 + 50 * k for k in range(40)]
    lenses = [{**lens, "name": f"Lens {i}", "engraved_mm": engraved} for i in range(150)]
    kit = {"format": "welotrope-kit", "version": 1, "lenses": lenses}
    text = json.dumps(kit, indent=26)
    assert 500_000 < len(text) < 1_000_000
    preview = empty_client.post("/kit/import", files={"file": ("kit.json", text.encode())})
    assert preview.status_code == 200
    stored = empty_client.post("/kit/import/store", files={"text": (None, text)})
    assert stored.status_code == 200
    assert len(empty_client.get("/kit/export.json").json()["lenses"]) == 150


@pytest.mark.parametrize(
    ("statement", "path", "words"),
    [
        ("UPDATE lens SET data = json_set(data, '$.stops', json('[]')) WHERE id = 3", "/kit", "Tarnholt 35” is kept but cannot be read"),
        ("UPDATE body SET data = json_set(data, '$.aids', json('[{\"kind\": \"crystal ball\"}]')) WHERE id = 2", "/kit", "cannot be read"),
        ("UPDATE setup SET standard_values = '{\"pixels\": -1}' WHERE id = 2", "/kit", "cannot be read"),
        ("UPDATE measurement SET data = '{\"points\": 3}' WHERE kind = 'marks'", "/scale", "cannot be read"),
        ("UPDATE preset SET subjects = '[\"x@0.00004\", \"Ida@2300\"]'", "/scale", "Ida"),
        ("UPDATE trial SET outcome = '{}'", "/practice", "A round"),
        ("UPDATE frame SET outcome = 'splendid'", "/log", "not checked"),
        ("INSERT INTO sheet_line (body_id, line, text, reason, dropped) VALUES (1, 'own-x', 't', '', 0)", "/kit/setups/1/sheet", "t"),
        ("UPDATE measurement SET data = replace(data, '\"v\": 1', '\"v\": 9')", "/scale", "newer Welotrope"),
        ("UPDATE lens SET name = 'a' || char(7) || 'b'", "/scale", "ab"),
    ],
)  # fmt: skip
def test_one_unreadable_record_shows_itself_and_takes_nothing_down(client, demo_folder, statement, path, words):
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        connection.execute(statement)
    for room in ("/kit", "/scale", "/plan", "/aids", "/practice", "/log", "/kit/export.json", "/jump", "/setups"):
        assert client.get(room).status_code == 200, room
    assert words in text_of(client.get(path))


def test_a_line_can_be_added_to_a_sheet_with_an_odd_one(client, demo_folder):
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        connection.execute(
            "INSERT INTO sheet_line (body_id, line, text, reason, dropped) VALUES (1, 'own-x', 't', '', 0)"
        )
    for words in ("Cap off", "Strap on"):
        assert client.post("/kit/setups/1/sheet/line", data={"text": words}).status_code == 200


def test_an_unreadable_lens_can_be_deleted_and_brought_back(client, demo_folder):
    with sqlite3.connect(demo_folder / DATABASE_NAME) as connection:
        connection.execute("UPDATE lens SET data = json_set(data, '$.stops', json('[]')) WHERE id = 3")
    assert client.post("/kit/broken/lens/3/delete").status_code == 200
    assert "cannot be read" not in text_of(client.get("/kit"))
    assert client.post("/kit/broken/lens/1/delete").status_code == 422  # it can be read


def test_all_aids_of_a_body_survive_saving(client):
    form = {"name": "All", "size": "36 × 24", "medium": "digital", "width_px": "6000", "finder_magnification": "0.8",
            "split_deviation": "6.5", "microprism_deviation": "5", "display_px": "1280", "steps": "6 12", "peaking": "low 0.2",
            "rangefinder_base": "47", "rangefinder_magnification": "0.72", "confirmation": "yes", "confirmation_stop": "4"}  # fmt: skip
    client.post("/kit/bodies", data=form)
    body = client.get("/kit/export.json").json()["bodies"][-1]
    bodies = {b["name"]: b for b in client.get("/kit/export.json").json()["bodies"]}
    body = bodies["All"]
    assert len(body["aids"]) == 7
    magnifications = [aid["finder_magnification"] for aid in body["aids"] if "finder_magnification" in aid]
    assert magnifications == [0.8, 0.8, 0.8, 0.72]
