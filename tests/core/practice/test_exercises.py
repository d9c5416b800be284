"""Exercises declare what they are; nothing asks for one by name."""

import re
from pathlib import Path

import pytest

from welotrope.core.kit.aids.registry import view_keys
from welotrope.core.practice.exercises import COUNTING, EXERCISES

SOURCE = Path(__file__).parents[3] / "src/welotrope"


@pytest.mark.parametrize("item", EXERCISES, ids=lambda item: item.id)
def test_each_can_be_done_with_aids_and_scenes_there_are(item):
    assert set(item.views) <= set(view_keys())
    assert item.scenes
    assert not item.finishes_on or item.finishes_on in view_keys()
    assert item.counts == (item.id in COUNTING)
    # A ring that stays tells nothing of the hand on it; where something moves, luck or a guess has a part.
    assert item.counts != (item.locked or item.sways or item.recomposes)


def test_no_code_compares_an_exercise_by_name():
    ids = "|".join(item.id for item in EXERCISES)
    asked = re.compile(rf"(?:==|!=|\bin\b|\bis\b)\s*\(?[\"'](?:{ids})[\"']")
    found = [
        f"{path.relative_to(SOURCE)}: {line.strip()}"
        for suffix in ("py", "html", "js")
        for path in SOURCE.rglob(f"*.{suffix}")
        if "vendor" not in path.parts
        for line in path.read_text().splitlines()
        if asked.search(line) and "exercise" in line
    ]
    assert found == []
