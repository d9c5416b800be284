import json
import math
import sqlite3

import pytest
from typer.testing import CliRunner

from welotrope.cli import app
from welotrope.store.session import DATABASE_NAME

RUNNER = CliRunner()


def calc(command):
    result = RUNNER.invoke(app, ["calc", *command.split()])
    assert result.exit_code == 0, result.stderr
    return json.loads(result.stdout)


def test_depth_as_the_reference_says():
    answer = calc("depth --focal 40 --stop 11 --blur 0.028 --focus 2500mm --from principal")
    assert list(answer) == ["focus_mm", "near_mm", "far_mm", "hyperfocal_mm", "spread_mm"]
    assert answer["near_mm"] == pytest.approx(1696.6, abs=0.05)
    assert answer["far_mm"] == pytest.approx(4748.8, abs=0.05)
    assert answer["hyperfocal_mm"] == pytest.approx(5234.8, abs=0.05)


def test_film_plane_is_the_default_and_lies_behind_the_principal_plane():
    film = calc("depth --focal 40 --stop 11 --blur 0.028 --focus 2.5m")
    principal = calc("depth --focal 40 --stop 11 --blur 0.028 --focus 2.5m --from principal")
    assert film["near_mm"] == pytest.approx(principal["near_mm"], abs=60)
    assert film["near_mm"] != principal["near_mm"]


def test_infinity_is_null():
    answer = calc("depth --focal 40 --stop 11 --blur 0.028 --focus inf")
    assert answer["focus_mm"] is None
    assert answer["far_mm"] is None
    assert answer["spread_mm"] == pytest.approx(2 * 11 * 0.028, rel=1e-3)


def test_zone_as_the_reference_says():
    answer = calc("zone --focal 35 --near 1.5m --far 6m --blur 0.03 --from principal")
    assert list(answer) == [
        "focus_mm", "spread_mm", "stop_exact", "stop_marked", "achieved_near_mm", "achieved_far_mm", "balanced_stop",
    ]  # fmt: skip
    assert answer["focus_mm"] == pytest.approx(2400.0, abs=0.05)
    assert answer["stop_marked"] == 11
    assert answer["achieved_near_mm"] < 1500 < 6000 < answer["achieved_far_mm"]


def test_zone_no_stop_can_hold():
    answer = calc("zone --focal 200 --near 1.5m --far inf --blur 0.005")
    assert answer["stop_marked"] is None
    assert answer["achieved_near_mm"] is None
    assert answer["stop_exact"] > 64


def test_ring_with_and_without_diameter():
    bare = calc("ring --focal 50 --lead 10.8 --stop 2 --blur 0.03 --focus inf")
    assert bare == {"angle_deg": 0, "window_deg": pytest.approx(4.0, abs=0.005)}
    with_diameter = calc("ring --focal 50 --lead 10.8 --stop 2 --blur 0.03 --focus inf --diameter 60")
    assert with_diameter["window_mm"] == pytest.approx(2.094, abs=0.005)


@pytest.mark.parametrize(
    ("command", "words"),
    [
        ("depth --focal 40 --stop 0 --blur 0.028 --focus 2m", "Stop: read “0”"),
        ("depth --focal 40 --stop 11 --blur 0.028 --focus 10cm", "at least 160 mm"),
        ("depth --focal 40 --stop 11 --blur 0.028 --focus 🙂", "Focus distance: read “🙂”"),
        ("depth --focal -40 --stop 11 --blur 0.028 --focus 2m", "Focal length"),
        ("depth --focal 40 --stop 11 --blur 99 --focus 2m", "Blur circle"),
        ("zone --focal 35 --near 6m --far 1.5m --blur 0.03", "smaller than the far"),
        ("ring --focal 50 --lead 0 --stop 2 --blur 0.03 --focus inf", "Lead"),
        ("throw --focal 50 --point 0:inf", "1 reading"),
        ("throw --focal 50 --point 0:inf --point 50:2m --point 50:1m", "one setting cannot be two distances"),
        ("throw --focal 50 --point 100:inf --point 10:1m", "the wrong way round"),
        ("throw --focal 50 --point 0:inf --point 4:3m", "within 5°"),
        ("throw --focal 50 --point 0:inf --point 2m", "not an angle and a distance"),
        ("throw --focal 50 --point 0:inf --point nan:2m", "not an angle and a distance"),
        ("throw --focal 50 --point 0:inf --point 100:0cm", "must be greater than zero"),
        ("engraving --focal 28 --stop 16 --far inf", "one mark says nothing"),
        ("engraving --focal 28 --stop 16 --far 1m --near 2m", "must read nearer"),
    ],
)
def test_bad_input_goes_to_stderr_with_status_2(command, words):
    result = RUNNER.invoke(app, ["calc", *command.split()])
    assert result.exit_code == 2
    assert words in result.stderr
    assert result.stdout == ""


def test_backup_writes_a_copy(demo_folder, tmp_path):
    target = tmp_path / "copy.sqlite3"
    result = RUNNER.invoke(app, ["backup", str(target), "--data", str(demo_folder)])
    assert result.exit_code == 0
    with sqlite3.connect(target) as copy:
        assert copy.execute("SELECT count(*) FROM frame").fetchone() == (24,)


def test_backup_without_a_database_says_so(tmp_path):
    result = RUNNER.invoke(app, ["backup", "--data", str(tmp_path / "nowhere")])
    assert result.exit_code == 2
    assert "no database" in result.stderr
    assert not (tmp_path / "nowhere").exists()


def test_serving_a_corrupt_database_ends_with_its_sentence(tmp_path):
    (tmp_path / DATABASE_NAME).write_bytes(b"scribble" * 1000)
    result = RUNNER.invoke(app, ["serve", "--data", str(tmp_path)])
    assert result.exit_code == 2
    assert "It was not changed" in result.stderr


def test_adapter_as_the_reference_says():
    thick = calc("adapter --focal 50 --error 0.10 --from principal")
    assert thick == {
        "reaches_infinity": False,
        "farthest_mm": pytest.approx(25050, abs=0.5),
        "infinity_extension_mm": None,
    }
    thin = calc("adapter --focal 50 --error -0.15 --lead 10.8 --diameter 60")
    assert thin["reaches_infinity"] is True
    assert thin["farthest_mm"] is None
    assert (thin["infinity_deg"], thin["infinity_mm"]) == (pytest.approx(5), pytest.approx(2.618, abs=0.001))
    assert calc("adapter --focal 50 --error 0.1 --lead 10.8 --diameter 60")["infinity_deg"] is None


def angle_of(distance_mm):
    """Ring angle on a helicoid of 10.8 mm lead: f²/(s − f) of extension, distances from the principal plane."""
    return 50**2 / (distance_mm - 50) * 360 / 10.8


def test_throw_from_readings():
    points = " ".join(f"--point {angle_of(mm) + 1.5:.3f}:{mm}mm" for mm in (480, 600, 900, 1500, 3000))
    answer = calc(f"throw --focal 50 --from principal --point 1.5:inf --point 70:1200mm {points}")
    assert answer["lead_mm"] == pytest.approx(10.8, rel=1e-3)
    assert answer["infinity_deg"] == pytest.approx(1.5, abs=0.01)
    assert answer["rms_deg"] < 0.01
    assert answer["model"] == "helicoid"
    (outlier,) = answer["outliers"]
    assert outlier["distance_mm"] == pytest.approx(1200)
    assert outlier["off_deg"] == pytest.approx(70 - angle_of(1200) - 1.5, abs=0.02)


def test_two_readings_are_enough_and_the_datum_matters():
    film = calc("throw --focal 50 --point 0:inf --point 48.6:2m")
    principal = calc("throw --focal 50 --point 0:inf --point 48.6:2m --from principal")
    assert principal["lead_mm"] == pytest.approx(50**2 / 1950 * 360 / 48.6, rel=1e-6)
    assert film["lead_mm"] > principal["lead_mm"]
    assert film["outliers"] == []


def test_engraving_implies_a_blur():
    answer = calc("engraving --focal 28 --stop 16 --far inf --near 0.75m --from principal")
    # v = f·s/(s − f); with the far limit at f, c = A·(v − f)/(v + f).
    v = 28 * 750 / 722
    implied = 28 / 16 * (v - 28) / (v + 28)
    assert answer["implied_blur_mm"] == pytest.approx(implied)
    assert answer["stops_from_standard"] == pytest.approx(2 * math.log2(implied / (math.hypot(36, 24) / 1500)))
    assert calc("engraving --focal 28 --stop 16 --far inf --near 0.75m --blur 0.03")["standard_blur_mm"] == 0.03


ASKED = {
    "focal_mm": 50, "stop": 1.4, "focus_mm": 2000, "from": "principal", "blur_mm": 0.03, "lead_mm": 10.8,
    "aids": [
        {"kind": "matte", "finder_magnification": 0.9, "screen_stop": 2.8},
        {"kind": "split_image", "finder_magnification": 0.9, "deviation_deg": 6.5},
        {"kind": "microprism", "finder_magnification": 0.9, "deviation_deg": 5},
        {"kind": "rangefinder", "base_mm": 47, "finder_magnification": 0.72},
        {"kind": "magnified", "pitch_mm": 0.006, "sensor_px": 6000, "display_px": 1280, "step": 6},
        {"kind": "peaking", "pitch_mm": 0.006, "sensor_px": 6000, "display_px": 1280, "contrast": 0.5,
         "threshold_per_px": 0.1, "lens_blur_mm": 0.01},
        {"kind": "confirmation", "base_stop": 5.6},
    ],
}  # fmt: skip


def ask(request):
    return RUNNER.invoke(app, ["calc", "aids"], input=request if isinstance(request, str) else json.dumps(request))


def test_aids_from_a_request_best_first(client):
    answer = json.loads(ask(ASKED).stdout)
    # 2·N·c/(1 − m)·360/L with m = 50/1950.
    assert answer["window_deg"] == pytest.approx(2 * 1.4 * 0.03 / (1 - 50 / 1950) * 360 / 10.8, rel=1e-4)
    kinds = [aid["kind"] for aid in answer["aids"]]
    assert kinds == ["magnified", "rangefinder", "split_image", "matte", "microprism", "confirmation", "peaking"]
    by_kind = {aid["kind"]: aid for aid in answer["aids"]}
    assert by_kind["magnified"]["defocus_mm"] == pytest.approx(0.0168 * (1 + 50 / 1950))
    # 5 display pixels of 4.6875 sensor pixels, the lens's own blur taken out, at f/1.4.
    own = math.sqrt((5 * 0.028125) ** 2 - 0.01**2) * 1.4
    assert by_kind["peaking"]["defocus_mm"] == pytest.approx(own, rel=0.03)
    assert by_kind["confirmation"]["error_deg"] == pytest.approx(5.6 / (1 - (50 / 1950) ** 2), rel=1e-4)
    assert all(aid["usable"] and aid["reasons"] for aid in answer["aids"])
    assert client.post("/api/calc/aids", json=ASKED).json() == answer


def test_aids_past_their_limit_and_at_infinity():
    slow = json.loads(ask(ASKED | {"stop": 8, "focus_mm": None}).stdout)
    split = next(aid for aid in slow["aids"] if aid["kind"] == "split_image")
    assert (split["usable"], split["defocus_mm"], split["hit_chance"]) == (False, None, 0)
    assert "goes black at f/8" in split["reasons"][0]
    assert slow["aids"][0]["error_subject_mm"] is None


@pytest.mark.parametrize(
    ("request_", "words"),
    [
        ("", "request"),
        ("{", "request"),
        (ASKED | {"stop": 0}, "no lens has that stop"),
        (ASKED | {"lead_mm": -1}, "Lead"),
        (ASKED | {"focus_mm": 40}, "read “40 mm”"),
        (ASKED | {"aids": []}, "aids"),
        (ASKED | {"aids": [{"kind": "crystal ball"}]}, "crystal ball"),
        (ASKED | {"aids": [{"kind": "matte", "finder_magnification": 0}]}, "finder_magnification"),
        (
            ASKED | {"aids": [{"kind": "split_image", "finder_magnification": 0.9, "deviation_deg": 80}]},
            "it must be at most 45",
        ),
        (ASKED | {"constants": {"eye_blur": -3}}, "out of range"),
        (ASKED | {"colour": "red"}, "colour"),
    ],
)
def test_bad_requests_are_named(request_, words):
    result = ask(request_)
    assert result.exit_code == 2
    assert words in result.stderr
    assert result.stdout == ""
