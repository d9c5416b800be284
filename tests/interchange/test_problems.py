"""What is wrong with a value is said in words that its writer understands, whatever the value is."""

import datetime as dt
from typing import Annotated, Literal

import pytest
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from welotrope.core.errors import UnreadableError
from welotrope.interchange.problems import problem_of, sentence_of


class Asked(BaseModel):
    model_config = ConfigDict(extra="forbid")

    stop: Annotated[float, Field(ge=0.5, le=128, allow_inf_nan=False)] = 8
    focal: Annotated[float, Field(gt=0, lt=5000)] = 50
    count: int = 1
    name: Annotated[str, Field(min_length=2, max_length=5, pattern="^[a-z]+$")] = "lens"
    aid: Literal["matte", "patch"] = "matte"
    moves: bool = False
    at: dt.datetime | None = None
    day: dt.date | None = None
    distances: Annotated[list[float], Field(max_length=2)] = []


@pytest.mark.parametrize(("given", "words"), [
    ({"stop": 0.1}, "stop: read “0.1”; it must be at least 0.5."), ({"stop": 200}, "it must be at most 128"),
    ({"stop": "wide"}, "that is not a number"), ({"stop": float("nan")}, "that is not a finite number"),
    ({"focal": 0}, "it must be more than 0"), ({"focal": 5000}, "it must be less than 5000"),
    ({"count": 1.5}, "that is not a whole number"), ({"count": "many"}, "that is not a whole number"),
    ({"name": 3}, "that is not text"), ({"name": "x"}, "shorter than 2 characters"),
    ({"name": "telephoto"}, "longer than 5 characters"), ({"name": "A1"}, "not of the form"),
    ({"aid": "glass"}, "it must be 'matte' or 'patch'"), ({"moves": "perhaps"}, "neither true nor false"),
    ({"at": "soon"}, "not a date and time"), ({"day": "soon"}, "not a date"), ({"distances": [1, 2, 3]}, "more than 2 items"),
    ({"distances": 3}, "that is not a list"), ({"f-stop": 8}, "nothing here is called so"),
])  # fmt: skip
def test_a_problem_is_said_in_usual_words(given, words):
    with pytest.raises(ValidationError) as caught:
        Asked(**given)
    (error,) = caught.value.errors()
    said = sentence_of(error, ".".join(map(str, error["loc"])))
    assert words in said
    assert "input" not in said.lower()


def test_what_is_missing_is_said_without_the_rest():
    class Needed(BaseModel):
        stop: float

    with pytest.raises(ValidationError) as caught:
        Needed()
    assert sentence_of(caught.value.errors()[0], "stop") == "stop: it is missing."


def test_a_problem_of_our_own_keeps_its_sentence():
    error = UnreadableError("stop", "wide", "that is not a number", "Write a number")
    assert (
        sentence_of({"type": "value_error", "msg": "", "loc": (), "input": "", "ctx": {"error": error}}, "x")
        == error.sentence
    )
    assert problem_of({"type": "unheard_of", "msg": "Odd thing", "loc": (), "input": ""}) == "odd thing"
