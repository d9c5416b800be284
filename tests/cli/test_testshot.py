"""``welotrope target`` and ``welotrope testshot``: their keys, and what they say of bad input."""

import json

import cv2
import numpy as np
import pytest
from typer.testing import CliRunner

from tests.core.testshot.shots import camera, shot
from welotrope.cli import app

RUN = CliRunner()
SLOPE_KEYS = {
    "plane_mm", "plane_low_mm", "plane_high_mm", "tilt_deg", "tilt_low_deg", "tilt_high_deg", "slope_deg",
    "distance_mm", "sharp_near_mm", "sharp_far_mm", "warnings",
}  # fmt: skip


@pytest.fixture(scope="module")
def picture(tmp_path_factory):
    path = tmp_path_factory.mktemp("shots") / "slope.jpg"
    cv2.imwrite(str(path), shot(camera(plane_mm=5.0)))
    return path


def test_a_sheet_and_its_geometry_are_written(tmp_path):
    pdf, told = tmp_path / "slope.pdf", tmp_path / "slope.json"
    done = RUN.invoke(app, ["target", "slope", "--paper", "letter", "--output", str(pdf), "--geometry", str(told)])
    assert done.exit_code == 0, done.output
    assert pdf.read_bytes().startswith(b"%PDF")
    held = json.loads(told.read_text())
    assert {"paper_mm", "dictionary", "markers", "mark_mm", "slope_axis"} <= set(held)
    assert held["paper_mm"] == [215.9, 279.4]
    assert {"id", "corners_mm"} <= set(held["markers"][0])


def test_a_picture_is_measured(picture):
    done = RUN.invoke(app, ["testshot", "slope", str(picture), "--focal", "50", "--width", "36", "--stop", "2"])
    assert done.exit_code == 0, done.output
    found = json.loads(done.stdout)
    assert set(found) >= SLOPE_KEYS
    assert found["plane_mm"] == pytest.approx(5.0, abs=0.5)
    assert found["plane_low_mm"] < found["plane_mm"] < found["plane_high_mm"]


def test_a_picture_of_something_else_has_nulls_and_a_sentence(tmp_path):
    path = tmp_path / "grey.png"
    cv2.imwrite(str(path), np.full((800, 1200), 90, np.uint8))
    done = RUN.invoke(app, ["testshot", "slope", str(path), "--focal", "50", "--width", "36"])
    assert done.exit_code == 0
    found = json.loads(done.stdout)
    assert {found[key] for key in SLOPE_KEYS - {"warnings"}} == {None}
    assert found["warnings"][0].startswith("No sheet was found.")


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["slope", "PICTURE"], "Focal length: read nothing; neither the options nor the picture tell it."),
        (["slope", "PICTURE", "--focal", "50"], "Picture width: read nothing;"),
        (
            ["slope", "PICTURE", "--focal", "-3", "--width", "36"],
            "Focal length: read “-3”; no lens or camera is like that.",
        ),
        (["slope", "PICTURE", "--focal", "50", "--width", "36", "--stop", "900"], "Stop: read “900”;"),
        (["slope", "nowhere.jpg", "--focal", "50", "--width", "36"], "there is no such file"),
        (["slope", "EMPTY", "--focal", "50", "--width", "36"], "it is empty"),
        (["slope", "BROKEN", "--focal", "50", "--width", "36"], "cannot be read as a picture"),
        (["ring", "PICTURE"], "it does not say where it was taken. Write shot.jpg@12.5."),
        (["ring", "PICTURE@far"], "that is not a number"),
        (["stops", "PICTURE@f"], "Stop: read “f”; that is not a stop."),
        (["stops", "PICTURE@2", "PICTURE@2", "PICTURE@4"], "that stop is there twice"),
        (["ring", "PICTURE@1", "PICTURE@2"], "that is too few places of the ring"),
    ],
)
def test_bad_input_ends_with_2_and_a_sentence(args, words, picture, tmp_path):
    (tmp_path / "empty.jpg").write_bytes(b"")
    (tmp_path / "broken.jpg").write_bytes(picture.read_bytes()[:4000])
    named = {"PICTURE": str(picture), "EMPTY": str(tmp_path / "empty.jpg"), "BROKEN": str(tmp_path / "broken.jpg")}
    given = [
        one if one.partition("@")[0] not in named else named[one.partition("@")[0]] + "".join(one.partition("@")[1:])
        for one in args
    ]
    done = RUN.invoke(app, ["testshot", *given])
    assert done.exit_code == 2, done.output
    assert words in done.stderr
    assert done.stdout == ""


def test_the_picture_itself_may_tell_focal_length_width_and_stop(tmp_path, picture):
    from PIL import Image

    image = Image.open(picture)
    exif = Image.Exif()
    held = exif.get_ifd(0x8769)
    held[0x920A], held[0xA405], held[0x829D] = 50.0, 50, 2.0
    image.save(tmp_path / "told.jpg", exif=exif, quality=92)
    done = RUN.invoke(app, ["testshot", "slope", str(tmp_path / "told.jpg")])
    assert done.exit_code == 0, done.output
    assert json.loads(done.stdout)["plane_mm"] == pytest.approx(5.0, abs=0.5)
    assert json.loads(done.stdout)["formula_near_mm"] is not None
