import json
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
    assert answer["focus_mm"] == pytest.approx(2387.3, abs=0.05)
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
