"""Results of calculations as plain JSON values."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Any

from welotrope.core.json_values import JsonObject


def as_json(result: Any) -> JsonObject:
    """Return a result's fields, with infinity as None also inside lists of records."""
    return {key: _plain(value) for key, value in asdict(result).items()}


def _plain(value: object) -> object:
    if isinstance(value, list | tuple):
        return [_plain(item) for item in value]
    if isinstance(value, dict):
        return {key: _plain(item) for key, item in value.items()}
    return None if isinstance(value, float) and math.isinf(value) else value
