"""What is wrong with a value of a file or a request: what pydantic found, in the words of this product."""

from __future__ import annotations

from collections.abc import Mapping

from pydantic_core import ErrorDetails

from welotrope.core.errors import WelotropeError

_WORDS: Mapping[str, str] = {
    "int_parsing": "that is not a whole number", "int_type": "that is not a whole number",
    "int_from_float": "that is not a whole number", "float_parsing": "that is not a number",
    "float_type": "that is not a number", "finite_number": "that is not a finite number",
    "bool_parsing": "that is neither true nor false", "bool_type": "that is neither true nor false",
    "string_type": "that is not text", "string_too_long": "that is longer than {max_length} characters",
    "string_too_short": "that is shorter than {min_length} characters",
    "string_pattern_mismatch": "that is not of the form that is expected",
    "greater_than": "it must be more than {gt:g}", "greater_than_equal": "it must be at least {ge:g}",
    "less_than": "it must be less than {lt:g}", "less_than_equal": "it must be at most {le:g}",
    "literal_error": "it must be {expected}", "enum": "it must be {expected}",
    "datetime_type": "that is not a date and time", "datetime_parsing": "that is not a date and time",
    "datetime_from_date_parsing": "that is not a date and time", "date_type": "that is not a date",
    "date_parsing": "that is not a date", "date_from_datetime_parsing": "that is not a date",
    "too_long": "that holds more than {max_length} items", "too_short": "that holds fewer than {min_length} items",
    "list_type": "that is not a list", "tuple_type": "that is not a list", "dict_type": "that is not an object",
    "model_type": "that is not an object", "model_attributes_type": "that is not an object",
    "dataclass_type": "that is not an object", "json_invalid": "that is not JSON",
    "extra_forbidden": "nothing here is called so", "unexpected_keyword_argument": "nothing here is called so",
}  # fmt: skip


def problem_of(error: ErrorDetails) -> str:
    """Return what is wrong with a value, as a clause."""
    context = error.get("ctx", {})
    cause = context.get("error")
    if isinstance(cause, Exception):
        return str(cause).rstrip(".")
    words = _WORDS.get(error["type"])
    return error["msg"][0].lower() + error["msg"][1:] if words is None else words.format(**context)


def sentence_of(error: ErrorDetails, place: str) -> str:
    """Return the sentence on an error at a place, such as ``stop`` or ``trials.3.aid``."""
    cause = error.get("ctx", {}).get("error")
    if isinstance(cause, WelotropeError):
        return cause.sentence
    if error["type"] == "missing":
        return f"{place}: it is missing."
    return f"{place}: read “{str(error.get('input'))[:60]}”; {problem_of(error)}."
