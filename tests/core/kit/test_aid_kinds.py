"""Kinds of aid: told apart by their fields, asked for once, and all that is made from them is made for a new one too."""

import dataclasses
import subprocess
import sys
from pathlib import Path

import pytest

from welotrope.core.kit.aids.magnified import QuotedSteps
from welotrope.core.kit.aids.registry import BODY_KINDS, every_kind, view_keys
from welotrope.core.rules import table_of


def test_records_are_told_apart_by_what_they_must_have():
    """A kit file names no kind: what one needs must not be all that another can have."""
    for one in BODY_KINDS:
        fields = dataclasses.fields(one.record)
        needed = {field.name for field in fields if field.default is dataclasses.MISSING}
        for other in BODY_KINDS:
            if other is not one and needed:
                allowed = {field.name for field in dataclasses.fields(other.record)}
                assert not {field.name for field in fields} <= allowed, (one.tag, other.tag)


def test_an_input_that_kinds_share_is_one():
    inputs = {}
    for kind in BODY_KINDS:
        for one in kind.inputs:
            assert inputs.setdefault(one.name, one) is one


@pytest.mark.parametrize("kind", every_kind(), ids=lambda kind: kind.tag)
def test_texts_of_an_aid_make_it_again(kind):
    values = {"finder_magnification": 0.8, "screen_stop": 2.0, "split_deviation": 7.0, "microprism_deviation": 4.0,
              "rangefinder_base": 60.0, "rangefinder_magnification": 0.6, "rangefinder_reads": 2050.0,
              "confirmation_stop": 4.0, "confirmation": True, "confirmation_half": 0.05, "display_px": 960, "steps": QuotedSteps((5.0,)), "peaking": (),
              "live_px": 1920, "live_step": 10.0}  # fmt: skip
    aid = kind.made(values)
    if aid is None:
        assert kind.tag in ("scale", "peaking")
        return
    texts = kind.texts(aid)
    from welotrope.core.inputs import FormInput, Reader

    reader = Reader()
    typed = FormInput(texts={"finder_magnification": "0.8"} | texts)
    read = {one.name: one.take(reader, typed) for one in kind.inputs}
    assert reader.errors == {}
    assert kind.made(read) == aid


def test_keys_are_given_once():
    tags = [kind.tag for kind in every_kind()]
    assert len(set(tags)) == len(tags)
    assert len(set(view_keys())) == len(view_keys())
    for kind in every_kind():
        table_of(kind.rules)


def test_a_made_up_kind_is_found_in_form_file_api_and_practice(tmp_path):
    program = Path(__file__).parents[2] / "made_up_kind.py"
    done = subprocess.run([sys.executable, program, tmp_path], capture_output=True, text=True, timeout=120)
    assert done.returncode == 0, done.stderr[-2000:]
