"""The process that works out what takes long: the calculations of one JSON request each."""

from __future__ import annotations

from welotrope.core.errors import WelotropeError
from welotrope.core.json_values import JsonObject
from welotrope.interchange.json_verbs import JSON_VERBS
from welotrope.interchange.worker_pool import serve

MEMORY = 2 * 1024**3
_VERBS = {verb.name: verb for verb in JSON_VERBS}


def answer(asked: JsonObject) -> JsonObject:
    """Return the answer of a calculation as JSON text, or the parts of the error it ended with."""
    verb = _VERBS[asked["verb"]]
    try:
        return {"answer": verb.function(verb.request.model_validate_json(asked["request"])).model_dump_json()}
    except WelotropeError as error:
        return {
            "error": {
                "sentence": error.sentence, "field": str(error.field), "works": error.works, "key": error.key,
            }
        }  # fmt: skip


if __name__ == "__main__":
    serve(answer, memory=MEMORY)
