"""What the planning verbs print, against the values of the calculation reference."""

import json

import pytest
from typer.testing import CliRunner

from welotrope.cli import app

REFERENCE = [
    ("view --focal 35 --width 36 --height 24 --distance 2m --from principal", {"width_mm": 2021.1, "height_mm": 1347.4}),
    (
        "trap --focal 85 --stop 4 --blur 0.03 --distance 6m --speed 3 --from principal",
        {
            "near_mm": 5463.3, "far_mm": 6653.7, "time_in_zone_s": 0.3968, "frames": 3.174, "press_at_mm": 6930.0,
            "burst_from_mm": 7583.7,
        },
    ),
    ("recompose --distance 1.5m --angle 20", {"shift_mm": 90.46}),
    (
        "closeup --focal 100 --closest 1m --power 2",
        {"working_near_mm": 319.79, "working_far_mm": 500, "magnification_max": 0.3524, "magnification_min": 0.2},
    ),
    ("stack --focal 100 --stop 8 --blur 0.02 --near 300mm --far 320mm --from principal", {"frames": 12}),
    ("exposure --ev 12 --stop 8 --iso 400", {"shutter_s": 1 / 256, "shutter_marked": 1 / 250}),
    ("motion --focal 50 --distance 5m --speed 1.4 --angle 90 --blur 0.03 --from principal", {"shutter_s": 0.002121}),
    ("motion --focal 50 --distance 5m --speed 1.4 --angle 30 --blur 0.03 --from principal", {"shutter_s": 0.003519}),
    ("trail --focal 20 --pitch 0.006 --pixels 2", {"shutter_s": 8.228}),
    ("trail --focal 20 --pitch 0.006 --pixels 2 --declination 60", {"shutter_s": 16.456}),
]  # fmt: skip


def printed(line):
    answer = CliRunner().invoke(app, ["calc", *line.split()])
    assert answer.exit_code == 0, answer.output
    return json.loads(answer.output)


@pytest.mark.parametrize(("line", "values"), REFERENCE, ids=[line.split(" --")[0] for line, _ in REFERENCE])
def test_the_reference_values(line, values):
    found = printed(line)
    assert {key: found[key] for key in values} == pytest.approx(values, rel=3e-4)


@pytest.mark.parametrize("ev", [15, -9])
def test_an_exposure_beyond_the_dial_has_no_marked_time(ev):
    found = printed(f"exposure --ev {ev} --stop 2 --iso 400")
    assert found == {"shutter_s": pytest.approx(2**-ev), "shutter_marked": None}


def test_zones_of_the_reference():
    found = printed("zones --focal 35 --stop 8 --blur 0.03 --count 2 --from principal")["zones"]
    assert [round(found[0][key], 1) for key in ("focus_mm", "near_mm")] == [5139.2, 2569.6]
    assert found[0]["far_mm"] is None
    assert [round(found[1][key], 1) for key in ("focus_mm", "near_mm", "far_mm")] == [1720.9, 1293.6, 2569.6]


def test_the_first_frame_of_the_reference_stack():
    found = printed("stack --focal 100 --stop 8 --blur 0.02 --near 300mm --far 320mm --from principal")
    assert round(found["focus_mm"][0], 2) == 300.96
    assert len(found["focus_mm"]) == found["frames"]


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("trap --focal 85 --stop 4 --blur 0.03 --distance 6m --speed 3 --angle 90", "comes no nearer"),
        ("trap --focal 85 --stop 4 --blur 0.03 --distance 6m --speed 900", "Write 0 to 400 m/s"),
        ("recompose --distance 1m --angle 90", "out of any picture"),
        ("recompose --distance 1m --angle 9 --from film", "principal plane only"),
        ("zones --focal 35 --stop 8 --blur 0.03 --count 0", "1 to 20"),
        ("closeup --focal 100 --closest 30cm --power 2", "at least"),
        ("exposure --ev 42 --stop 8 --iso 400", "full sun is 14.6"),
        ("stack --focal 100 --stop 8 --blur 0.02 --near 320mm --far 300mm", "at or beyond far"),
        ("trail --focal 20 --pitch 0.006 --pixels 2 --declination 91", "Declination"),
    ],
)
def test_what_cannot_be_is_said_in_a_sentence(line, words):
    answer = CliRunner().invoke(app, ["calc", *line.split()])
    assert answer.exit_code == 2
    assert words in answer.stderr
    assert len(answer.stderr.strip().splitlines()) == 1
