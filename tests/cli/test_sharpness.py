"""``welotrope sharpness`` as other programs use it."""

import json

import numpy as np
import pytest
from PIL import Image
from typer.testing import CliRunner

from tests.core.picture.test_sharpness_map import planted
from welotrope.cli import app


def run(*line):
    return CliRunner().invoke(app, ["sharpness", *map(str, line)])


@pytest.mark.parametrize("suffix", ["jpg", "png", "tif", "webp"])
def test_a_picture_is_told_as_json(tmp_path, suffix):
    path = tmp_path / f"picture.{suffix}"
    Image.fromarray(planted(noise=0.02)).save(path)
    found = json.loads(run(path).stdout)
    assert (found["width_px"], found["height_px"]) == (1200, 800)
    assert len(found["map"]) == found["rows"]
    assert {len(row) for row in found["map"]} == {found["cols"]}
    scores = [score for row in found["map"] for score in row if score is not None]
    assert all(0 <= score <= 1 for score in scores)
    assert any(score is None for row in found["map"] for score in row)
    assert abs(found["sharpest"][0]["x"] - 0.3) < 0.08
    assert 0 < found["sharpest"][0]["y"] < 1
    assert found["softened"] is False


def test_a_picture_that_lies_on_its_side_is_judged_upright(tmp_path):
    exif = Image.Exif()
    exif[0x0112] = 6  # turned a quarter clockwise to be upright
    Image.fromarray(planted()).save(tmp_path / "side.jpg", exif=exif, quality=95)
    found = json.loads(run(tmp_path / "side.jpg").stdout)
    assert (found["width_px"], found["height_px"]) == (800, 1200)
    assert abs(found["sharpest"][0]["y"] - 0.3) < 0.08


def test_deep_and_coloured_pictures_are_judged_alike(tmp_path):
    grey = planted()
    Image.fromarray(grey).save(tmp_path / "grey.png")
    Image.fromarray(grey.astype(np.uint16) * 257).save(tmp_path / "deep.png")
    Image.fromarray(np.dstack([grey] * 3)).save(tmp_path / "colour.png")
    maps = [json.loads(run(tmp_path / f"{name}.png").stdout)["map"] for name in ("grey", "deep", "colour")]
    known = [np.array([[np.nan if v is None else v for v in row] for row in one], dtype=float) for one in maps]
    for other in known[1:]:
        assert np.nanquantile(np.abs(known[0] - other), 0.98) < 0.02


def test_what_is_no_picture_is_refused_in_a_sentence(tmp_path):
    (tmp_path / "text.jpg").write_text("not a picture")
    Image.fromarray(planted()).save(tmp_path / "cut.jpg")
    cut = (tmp_path / "cut.jpg").read_bytes()
    (tmp_path / "cut.jpg").write_bytes(cut[: len(cut) // 2])
    Image.new("L", (4, 4)).save(tmp_path / "tiny.png")
    for name, words in (
        ("text.jpg", "cannot be read as a picture"), ("cut.jpg", "cannot be read as a picture"),
        ("none.jpg", "no such file"), ("tiny.png", "pixels a side"), (".", "cannot be read"),
    ):  # fmt: skip
        answer = run(tmp_path / name)
        assert answer.exit_code == 2, name
        assert words in answer.stderr, answer.stderr
        assert len(answer.stderr.strip().splitlines()) == 1


def test_a_bomb_is_not_unpacked(tmp_path):
    path = tmp_path / "bomb.png"
    Image.new("1", (30_000, 20_000)).save(path)
    answer = run(path)
    assert answer.exit_code == 2
    assert "more than is read" in answer.stderr
