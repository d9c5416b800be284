"""Everything out and in, and a backup put back, from the command line."""

import json

import pytest
from typer.testing import CliRunner

from welotrope.cli import app
from welotrope.store.session import DATABASE_NAME

RUNNER = CliRunner()


def test_export_import_and_restore(demo_folder, tmp_path):
    archive, new = tmp_path / "all.zip", tmp_path / "new"
    out = RUNNER.invoke(app, ["export", str(archive), "--data", str(demo_folder)])
    assert out.exit_code == 0, out.output
    counts = json.loads(out.stdout)["counts"]
    taken = RUNNER.invoke(app, ["import", str(archive), "--data", str(new)])
    assert taken.exit_code == 0, taken.output
    assert json.loads(taken.stdout)["counts"] == counts
    backup = tmp_path / "kept.sqlite3"
    assert RUNNER.invoke(app, ["backup", str(backup), "--data", str(new)]).exit_code == 0
    restored = RUNNER.invoke(app, ["restore", str(backup), "--data", str(new)])
    assert restored.exit_code == 0
    assert "What was there is kept as" in restored.stdout
    assert (new / DATABASE_NAME).exists()


@pytest.mark.parametrize(
    ("command", "words"),
    [
        (["export", "{archive}", "--data", "{nowhere}"], "There is no database"),
        (["import", "{nowhere}.zip", "--data", "{new}"], "cannot be read"),
        (["import", "{text}", "--data", "{new}"], "is no archive"),
        (["import", "{text}", "--data", "{demo}"], "is no archive"),
        (["restore", "{text}", "--data", "{demo}"], "not a database"),
        (["restore", "{nowhere}", "--data", "{demo}"], "is not there"),
    ],
)
def test_what_cannot_be_is_said_in_a_sentence(demo_folder, tmp_path, command, words):
    text = tmp_path / "text.zip"
    text.write_text("not an archive, and no database either" * 40)
    places = {
        "archive": tmp_path / "a.zip",
        "nowhere": tmp_path / "nowhere",
        "new": tmp_path / "new",
        "text": text,
        "demo": demo_folder,
    }
    answer = RUNNER.invoke(app, [part.format(**places) for part in command])
    assert answer.exit_code == 2
    assert words in answer.stderr
    assert len(answer.stderr.strip().splitlines()) == 1
