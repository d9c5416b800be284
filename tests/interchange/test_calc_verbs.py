"""The table of calculations: what the command line prints is what the API answers, for every verb."""

import json

import pytest
from typer.testing import CliRunner

from welotrope.cli import app
from welotrope.interchange.calc_verb import ParameterKind
from welotrope.interchange.calc_verbs import VERBS

TEXT = {
    ParameterKind.DISTANCE: {
        "focus": "2.5m",
        "near": "7 ft",
        "far": "∞",
        "index": "10 m",
        "distance": "5 m",
        "closest": "1 m",
    },
    ParameterKind.READINGS: ["0:inf", "48:2m", "101:1m", "152:70cm", "206:50cm"],
}
READINGS = [
    {"angle_deg": float(part.split(":")[0]), "distance": part.split(":")[1]} for part in TEXT[ParameterKind.READINGS]
]


def told(parameter):
    """A value as typed and as sent, none where it may be left out and would be one too many."""
    if parameter.kind is ParameterKind.READINGS:
        return TEXT[ParameterKind.READINGS], READINGS
    if parameter.kind is ParameterKind.DISTANCE:
        return TEXT[ParameterKind.DISTANCE][parameter.name], TEXT[ParameterKind.DISTANCE][parameter.name]
    if parameter.kind is ParameterKind.NUMBERS:
        return ["2", "1"], [2.0, 1.0]
    if parameter.kind is ParameterKind.FLAG:
        return None, True
    if parameter.kind is ParameterKind.SHARE:
        return "2", 0.02
    value = parameter.example or {"diameter_mm": 62, "lead_mm": 10.8, "error_deg": 0.4, "blur_mm": 0.03}[parameter.name]
    return str(value), value


@pytest.mark.parametrize("verb", VERBS, ids=lambda verb: verb.name)
@pytest.mark.parametrize("whole", [True, False])
def test_command_and_request_answer_alike(client, verb, whole):
    options, body = [], {}
    for parameter in verb.parameters:
        if parameter.name == "index" or not (parameter.required or whole or verb.name == "engraving"):
            continue
        typed, sent = told(parameter)
        for one in typed if isinstance(typed, list) else [typed]:
            options += [f"--{parameter.option}", *([] if one is None else [one])]
        body[parameter.name] = sent
    printed = CliRunner().invoke(app, ["calc", verb.name, *options])
    assert printed.exit_code == 0, printed.output
    answered = client.post(f"/api/calc/{verb.name}", json=body)
    assert answered.status_code == 200
    shown = json.loads(printed.output)
    assert shown == {key: value for key, value in answered.json().items() if key in shown}
    left_out = {key for key, needed in verb.needs.items() if not set(needed) <= set(body)}
    assert set(answered.json()) - set(shown) == {key for key in left_out if answered.json()[key] is None}
    if verb.flat:
        assert client.get(f"/api/calc/{verb.name}", params=body).json() == answered.json()


def test_every_verb_is_described_once_for_both():
    listed = CliRunner().invoke(app, ["calc", "--help"]).output
    assert all(verb.name in listed for verb in VERBS)
    names = [parameter.name for verb in VERBS for parameter in verb.parameters]
    assert all(parameter.help for verb in VERBS for parameter in verb.parameters)
    assert set(names) >= {"focal_mm", "stop", "blur_mm", "readings"}
