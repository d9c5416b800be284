"""The calculations that take one JSON request, each declared once: its word, and where request and answer are."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:  # slow to import, and the command line has no need of it
    from pydantic import BaseModel


@dataclass(frozen=True, kw_only=True)
class JsonVerb:
    """A calculation: its word, what it tells in a sentence, and the names of its parts in a module of this package.

    The module is imported where it is asked for, so that the command line starts fast.
    """

    name: str
    help: str
    module: str
    request_name: str
    answer_name: str
    function_name: str
    costly: bool = False  # a process of its own works it out, within a limit on time

    def _part(self, name: str) -> Any:
        return getattr(importlib.import_module(f"{__package__}.{self.module}"), name)

    @property
    def request(self) -> type[BaseModel]:
        """The model of its request."""
        found: type[BaseModel] = self._part(self.request_name)
        return found

    @property
    def answer(self) -> type[BaseModel]:
        """The model of its answer."""
        found: type[BaseModel] = self._part(self.answer_name)
        return found

    @property
    def function(self) -> Callable[..., BaseModel]:
        """What computes the answer of a request."""
        found: Callable[[object], BaseModel] = self._part(self.function_name)
        return found


JSON_VERBS: tuple[JsonVerb, ...] = (
    JsonVerb(
        name="aids", help="Aids judged for a setting, best first, with how to set each.", module="aids_request",
        request_name="AidsRequest", answer_name="AidsAnswer", function_name="answer",
    ),
    JsonVerb(
        name="hand", help="A hand from its trials: bias, spread and chance of a hit by aid, each with its interval.",
        module="hand_request", request_name="HandRequest", answer_name="HandAnswer", function_name="hand_answer",
        costly=True,
    ),
    JsonVerb(
        name="diagnose", help="Where focus lands and why, from trials, and how many more would tell.",
        module="hand_request", request_name="HandRequest", answer_name="DiagnosisAnswer",
        function_name="diagnosis_answer", costly=True,
    ),
)  # fmt: skip
