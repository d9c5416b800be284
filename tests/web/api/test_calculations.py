import pytest

from welotrope.interchange.calc_verbs import VERBS
from welotrope.interchange.json_verbs import JSON_VERBS

DEPTH = {"focal_mm": 40, "stop": 11, "blur_mm": 0.028, "focus": "2500mm", "from": "principal"}


@pytest.mark.parametrize("method", ["get", "post"])
def test_depth(client, method):
    answer = (
        client.get("/api/calc/depth", params=DEPTH) if method == "get" else client.post("/api/calc/depth", json=DEPTH)
    )
    body = answer.json()
    assert body["near_mm"] == pytest.approx(1696.6, abs=0.05)
    assert body["hyperfocal_mm"] == pytest.approx(5234.8, abs=0.05)


def test_distances_are_numbers_in_mm_or_text(client):
    as_text = client.post("/api/calc/depth", json=DEPTH | {"focus": "8ft"}).json()
    as_number = client.post("/api/calc/depth", json=DEPTH | {"focus": 2438.4}).json()
    assert as_text == as_number


def test_infinity_is_null(client):
    body = client.get("/api/calc/depth", params=DEPTH | {"focus": "inf"}).json()
    assert body["far_mm"] is None


def test_zone_and_ring(client):
    zone = client.get(
        "/api/calc/zone", params={"focal_mm": 35, "near": "1.5m", "far": "6m", "blur_mm": 0.03, "from": "principal"}
    )
    assert zone.json()["stop_marked"] == 11
    ring = client.post(
        "/api/calc/ring",
        json={"focal_mm": 50, "lead_mm": 10.8, "stop": 2, "blur_mm": 0.03, "focus": "inf", "diameter_mm": 60},
    )
    assert ring.json() == {
        "angle_deg": 0,
        "window_deg": pytest.approx(4, abs=0.005),
        "window_mm": pytest.approx(2.094, abs=0.005),
    }


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"focus": "1cm"}, "forms no image"), ({"stop": 0}, "no lens has that stop"), ({"focus": "🙂"}, "not a distance"),
        ({"stop": "x"}, "that is not a number"), ({"blur_mm": 1e9}, "Blur circle"), ({"extra": 1}, "nothing here is called so"), ({"focus": "x" * 100}, "60"),
    ],
)  # fmt: skip
def test_errors_are_json_that_names_the_field(client, change, words):
    answer = client.post("/api/calc/depth", json=DEPTH | change)
    assert answer.status_code == 422
    assert words in answer.json()["error"]
    assert answer.json()["field"]


def test_malformed_json_is_refused(client):
    answer = client.post("/api/calc/depth", content=b"{", headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert "error" in answer.json()


def test_description_lists_calculations_test_shots_and_live_pictures_only(client):
    paths = client.get("/api/openapi.json").json()["paths"]
    verbs = {f"/api/calc/{name}" for name in (*(verb.name for verb in VERBS), *(verb.name for verb in JSON_VERBS))}
    pictures = {f"/api/testshot/{one}" for one in ("slope", "row", "wall", "shift", "ring", "stops")}
    assert set(paths) == verbs | pictures | {"/api/live/measure", "/api/live/outline"}


def test_throw_and_engraving(client):
    readings = [{"angle_deg": 0, "distance": "inf"}, {"angle_deg": 48.6, "distance": 2000}]
    ring = client.post("/api/calc/throw", json={"focal_mm": 50, "readings": readings, "from": "principal"}).json()
    assert ring["lead_mm"] == pytest.approx(50**2 / 1950 * 360 / 48.6)
    assert (ring["model"], ring["outliers"]) == ("undecided", [])
    marks = client.post("/api/calc/engraving", json={"focal_mm": 28, "stop": 16, "far": "inf", "near": "0.75m"}).json()
    assert marks["implied_blur_mm"] == pytest.approx(0.0347, abs=1e-4)
    bad = client.post("/api/calc/throw", json={"focal_mm": 50, "readings": readings[:1]})
    assert bad.status_code == 422
    assert "1 reading" in bad.text
