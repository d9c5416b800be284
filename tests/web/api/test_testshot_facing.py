"""Rows, walls and focus shift by command line and over HTTP: the same keys and the same figures."""

import json

import cv2
import pytest
from typer.testing import CliRunner

from tests.core.testshot.facing_scenes import row_camera, row_picture, wall_camera, wall_picture
from tests.core.testshot.shots import camera, shot
from welotrope.cli import app

RUN = CliRunner()


def written(folder, name, picture):
    path = folder / name
    cv2.imwrite(str(path), picture)
    return path


def by_command(*args):
    done = RUN.invoke(app, ["testshot", *args])
    assert done.exit_code == 0, done.output
    return json.loads(done.stdout)


def sent(client, kind, paths, **data):
    files = [("pictures", (path.name, path.read_bytes())) for path in paths]
    answer = client.post(f"/api/testshot/{kind}", files=files, data=data)
    assert answer.status_code == 200, answer.text
    return answer.json()


def test_a_row(client, tmp_path):
    made = row_camera(plane_mm=12.0, noise=6.0)
    path = written(tmp_path, "row.png", row_picture(made))
    found = by_command("row", str(path), "--focal", "85", "--width", "36", "--stop", "2", "--distance", "5=3.49m")
    assert found["plane_mm"] == pytest.approx(12.0, abs=10.0)
    assert found["sheets"] >= 4
    assert found["slope_deg"] is None
    over = sent(client, "row", [path], focal="85", width="36", stop="2", distance="5=3.49m")
    assert over == found
    plain = sent(client, "row", [path], focal="85", width="36", stop="2")
    assert plain["plane_mm"] == pytest.approx(12.0, abs=6.0)
    assert plain != found


def test_a_wall(client, tmp_path):
    paths = [
        written(tmp_path, f"{farther}.png", wall_picture(wall_camera(farther=farther, film_tilt=0.25)))
        for farther in (False, True)
    ]
    said = ("--focal", "50", "--width", "36", "--stop", "2")
    found = by_command("wall", "--nearer", str(paths[0]), "--farther", str(paths[1]), *said)
    assert found["tilt_low_deg"] < found["tilt_deg"] < found["tilt_high_deg"]
    assert found["tilt_deg"] == pytest.approx(0.25, abs=0.04)
    assert {"tip_deg", "across_mm", "upright_mm", "curvature_mm", "soft_px", "half_depth_mm", "pictures"} <= set(found)
    assert sent(client, "wall", paths, at="-1 1", focal="50", width="36", stop="2") == found


def test_focus_shift(client, tmp_path):
    paths = [
        written(tmp_path, f"{stop}.png", shot(camera(plane_mm=plane, stop=stop, size_px=(1600, 1067), seed=1)))
        for stop, plane in ((1.4, 0.0), (2.8, 6.0))
    ]
    found = by_command("shift", *(f"{path}@{path.stem}" for path in paths), "--focal", "50", "--width", "36")
    assert [one["stop"] for one in found["stops"]] == [1.4, 2.8]
    assert found["stops"][1]["shift_mm"] == pytest.approx(6.0, abs=0.8)
    assert found["stops"][1]["low_mm"] < 6.0 < found["stops"][1]["high_mm"] + 0.4
    assert sent(client, "shift", paths, at="1.4 2.8", focal="50", width="36") == found


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["row", "PICTURE", "--focal", "50", "--width", "36", "--distance", "3m"], "it does not say which sheet"),
        (["row", "PICTURE", "--focal", "50", "--width", "36", "--distance", "5=1mm"], "Distance of a sheet: read"),
        (["wall", "--focal", "50", "--width", "36"], "there is none"),
        (["wall", "--nearer", "PICTURE", "--focal", "50", "--width", "36"], "no wall sheet can be measured in it"),
        (["shift", "PICTURE@2", "--focal", "50", "--width", "36"], "too few of them tell where focus lay"),
    ],
)
def test_bad_input_is_said_in_a_sentence(tmp_path, args, words):
    path = written(tmp_path, "slope.png", shot(camera(size_px=(1200, 800))))
    done = RUN.invoke(app, ["testshot", *(one.replace("PICTURE", str(path)) for one in args)])
    assert done.exit_code == 2
    assert words in done.output.replace("\n", " ")
