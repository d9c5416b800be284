"""Templates are compiled once; where that cannot be kept, pages come all the same."""

import os
import tempfile

import pytest
from jinja2 import DictLoader

from welotrope.web.request import templating


@pytest.fixture
def temporary(tmp_path, monkeypatch):
    monkeypatch.setattr(tempfile, "tempdir", str(tmp_path))
    templating.environment.cache_clear()
    yield tmp_path
    templating.environment.cache_clear()


def shown(source="{{ 2 + 2 }} frames"):
    env = templating.environment().overlay(loader=DictLoader({"page.html": source}))
    return env.get_template("page.html").render()


def test_what_is_kept_is_private_and_follows_the_template(temporary):
    assert shown() == "4 frames"
    (folder,) = temporary.iterdir()
    assert folder.stat().st_mode & 0o777 == 0o700
    assert len(list(folder.iterdir())) == 1
    assert shown("{{ 2 + 3 }} frames") == "5 frames"


def test_a_folder_that_others_may_write_to_is_not_used(temporary):
    shown()
    (folder,) = temporary.iterdir()
    before = sorted(folder.iterdir())
    templating.environment.cache_clear()
    folder.rename(temporary / "else")
    (temporary / "trap").mkdir()
    os.symlink(temporary / "trap", folder)
    assert shown("{{ 3 + 3 }} frames") == "6 frames"
    assert list((temporary / "trap").iterdir()) == []
    assert len(sorted((temporary / "else").iterdir())) == len(before)


def test_a_full_disk_and_what_is_broken_cost_no_page(temporary, monkeypatch):
    shown()
    (kept,) = next(temporary.iterdir()).iterdir()
    kept.write_bytes(kept.read_bytes()[:40])
    assert shown() == "4 frames"

    def full(*_args, **_options):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(tempfile, "NamedTemporaryFile", full)
    assert shown("{{ 4 + 4 }} frames") == "8 frames"
