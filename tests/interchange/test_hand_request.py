"""The verbs `hand` and `diagnose`: what a request gives, what it is refused for, and the same from every door."""

import json
import math

import numpy as np
import pytest
from typer.testing import CliRunner

from welotrope.cli import app
from welotrope.core.kit.aids.registry import USUAL_AIDS, usual_defocus
from welotrope.core.kit.aids.viewing_optics import ViewingOptics
from welotrope.core.stats import chance_within
from welotrope.interchange.hand_request import HandRequest, diagnosis_answer, hand_answer

RUNNER = CliRunner()
LENS = {"focal_mm": 50, "lead_mm": 10.8}
F, PER_MM = 50.0, 360 / 10.8


def request(trials, **more):
    return HandRequest.model_validate({"lens": LENS, "blur_mm": 0.03, "trials": trials, "from": "principal", **more})


def trial(aid="split_image", stop=2.0, distance=2000.0, **more):
    return {"aid": aid, "stop": stop, "distance_mm": distance, **more}


def test_a_hand_is_told_by_aid_with_intervals():
    rng = np.random.default_rng(1)
    scores = rng.normal(0.5, 1.2, 60)
    split = usual_defocus("split_image", sight(2.0, 2000.0))
    asked = request([trial(error_deg=float(z) * split * PER_MM) for z in scores] + [trial("matte", 4, side="hit")] * 6)
    found = {one.aid: one for one in hand_answer(asked).aids}
    assert list(found) == ["split_image", "matte"]
    one = found["split_image"]
    assert one.n == 60
    assert one.bias_z == pytest.approx(0.5, abs=0.3)
    assert one.spread_z == pytest.approx(1.2, abs=0.3)
    assert one.bias_interval[0] < one.bias_z < one.bias_interval[1]
    truth = chance_within(2 * 0.03 * 2000 / 1950 / split, 1.2, bias=0.5)
    assert one.hit_interval[0] < truth < one.hit_interval[1]
    assert one.hit_interval[0] < one.hit_chance < one.hit_interval[1]


def sight(stop, object_mm):
    x = F * F / (object_mm - F)
    return ViewingOptics(focal_mm=F, focus_x=x, stop=stop, view_stop=stop, widest=stop, blur_mm=0.03, degrees_per_mm=PER_MM,
                 window_deg=2 * stop * 0.03 * (1 + x / F) * PER_MM)  # fmt: skip


def test_errors_are_positive_behind_and_told_in_degrees():
    rng = np.random.default_rng(2)
    trials = [
        trial("scale", float(rng.choice([2, 2.8, 4])), float(rng.uniform(1500, 6000)),
              error_deg=-6.0 + float(rng.normal(0, 0.8)))
        for _ in range(30)
    ]  # fmt: skip
    found = diagnosis_answer(request(trials))
    assert (found.verdict, found.cause) == ("one-sided", "extension")
    assert found.bias_interval[0] < -6 < found.bias_interval[1] < 0
    assert found.bias_deg == pytest.approx(-6, abs=0.5)
    assert found.needed == 0
    assert sum(found.odds.values()) == pytest.approx(1, abs=1e-4)
    behind = diagnosis_answer(request([{**one, "error_deg": -one["error_deg"]} for one in trials]))
    assert behind.bias_deg == pytest.approx(6, abs=0.5)


def test_contradictory_and_hopeless_trials_are_named_and_left_out():
    good = [trial(error_deg=e) for e in (0.4, -0.3, 0.2, 0.5, -0.6, 0.1, -0.2, 0.3)]
    found = diagnosis_answer(request([*good, trial(error_deg=90), trial(error_deg=12, side="hit")]))
    assert {one.trial: one.reason.split(":")[0] for one in found.set_aside} == {
        9: "far from all the others", 10: "contradicts itself",
    }  # fmt: skip
    assert found.n == 8
    hand = hand_answer(request([*good, trial(error_deg=90)])).aids[0]
    assert (hand.n, hand.slips) == (9, 1)
    assert hand.spread_z < 2


def test_no_trials_tell_nothing_and_that_is_said():
    assert hand_answer(request([])).aids == []
    found = diagnosis_answer(request([]))
    assert (found.verdict, found.cause, found.bias_deg, found.needed) == ("not enough", "none", None, 8)


@pytest.mark.parametrize(
    ("aid", "stop", "distance"),
    [
        *((aid, 8.0, math.inf) for aid in USUAL_AIDS),
        ("ground glass and a loupe", 0.95, 60.0),
        ("split_image", 22, 55.0),
    ],
)
def test_any_aid_anywhere_is_scored(aid, stop, distance):
    """To infinity, life size and a name of one's own."""
    given = None if math.isinf(distance) else distance
    asked = request([trial(aid, stop, given, error_deg=0.2), trial(aid, stop, given, side="behind")])
    one = hand_answer(asked).aids[0]
    assert one.n == 2
    assert 0 <= one.hit_interval[0] <= one.hit_chance <= one.hit_interval[1] <= 1
    assert diagnosis_answer(asked).verdict == "not enough"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"trials": [trial()]}, "Error of trial 1: read “nothing”"),
        ({"trials": [trial(error_deg=1), trial(stop=0.1, side="hit")]}, "Stop of trial 2"),
        ({"trials": [trial(distance=20, side="hit")]}, "20 mm"),
        ({"trials": [trial(error_deg=1e5)]}, "no ring turns so far"),
        ({"lens": {"focal_mm": -3, "lead_mm": 10.8}}, "Focal length"),
        ({"lens": {"focal_mm": 50, "lead_mm": 0}}, "Lead"),
    ],
)
@pytest.mark.parametrize("verb", ["hand", "diagnose"])
def test_what_cannot_be_read_is_named(client, verb, change, words):
    asked = {"lens": LENS, "blur_mm": 0.03, "trials": [trial(side="hit")], "from": "principal"} | change
    run = RUNNER.invoke(app, ["calc", verb], input=json.dumps(asked))
    assert run.exit_code == 2
    assert words.lower() in run.stderr.lower()
    answer = client.post(f"/api/calc/{verb}", json=asked)
    assert answer.status_code == 422


def test_command_line_and_api_say_the_same(client):
    asked = {"lens": LENS, "blur_mm": 0.03, "trials": [trial(error_deg=e) for e in (2.9, 3.2, 3.1, 2.7, 3.4)]}
    for verb in ("hand", "diagnose"):
        run = RUNNER.invoke(app, ["calc", verb], input=json.dumps(asked))
        assert run.exit_code == 0
        assert json.loads(run.stdout) == client.post(f"/api/calc/{verb}", json=asked).json()


def test_too_much_is_refused():
    run = RUNNER.invoke(app, ["calc", "hand"], input=json.dumps({"trials": ["x" * 5_000_000]}))
    assert run.exit_code == 2
    assert "too long" in run.stderr


def test_thousands_of_trials_are_as_many_settings_and_take_no_more_than_they_need():
    rng = np.random.default_rng(5)
    trials = [
        trial("matte", float(rng.choice([1.4, 2, 4])), float(rng.uniform(800, 8000)), error_deg=float(rng.normal(0, 1)))
        for _ in range(3000)
    ]
    asked = request(trials)
    one = hand_answer(asked).aids[0]
    hits = np.mean(
        [abs(t["error_deg"]) <= t["stop"] * 0.03 * PER_MM * (1 + 50 / (t["distance_mm"] - 50)) for t in trials]
    )
    assert one.n == 3000
    assert one.hit_chance == pytest.approx(hits, abs=0.04)
    assert diagnosis_answer(asked).n == 3000
