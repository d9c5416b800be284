"""The stand-alone calculations as JSON, under ``/api/calc``: a route for each verb of the table.

Each takes its values from a JSON body (POST), the flat ones from the query too (GET); distances are text
as people write them or numbers in mm. Infinity is null in the answer.
"""

import dataclasses
import functools
import types
import typing
from typing import Annotated, Any

from fastapi import APIRouter, Query
from pydantic import BaseModel, ConfigDict, Field, create_model
from starlette.requests import Request as WebRequest
from starlette.responses import Response

from welotrope.core.json_values import JsonObject
from welotrope.core.optics.thin_lens import Datum
from welotrope.interchange.calc_verb import MAX_READINGS, Parameter, ParameterKind, Verb
from welotrope.interchange.calc_verbs import VERBS
from welotrope.interchange.json_verbs import JSON_VERBS, JsonVerb
from welotrope.interchange.worker_pool import WorkerPool
from welotrope.web.request.errors import error_response

PREFIX = "/api/calc"

Distance = Annotated[
    float | Annotated[str, Field(max_length=60)],
    Field(description="Millimetres, or text such as 2.4m, 240cm, 7'6\", inf", examples=["2500mm"]),
]


_FROM = "Plane the distances start from: film plane or front principal plane"
_KINDS: dict[ParameterKind, object] = {
    ParameterKind.DISTANCE: Distance, ParameterKind.COUNT: int, ParameterKind.FLAG: bool,
    ParameterKind.NUMBERS: Annotated[list[float], Field(max_length=MAX_READINGS)],
}  # fmt: skip


class Request(BaseModel):
    """What they all share."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)

    datum: Annotated[Datum, Field(alias="from", description=_FROM)] = Datum.FILM


class Reading(BaseModel):
    """A ring angle in degrees and the distance there."""

    model_config = ConfigDict(extra="forbid")

    angle_deg: float = Field(examples=[48.6])
    distance: Distance


def request_model(verb: Verb) -> type[Request]:
    """Return the model of a verb's request."""
    fields: JsonObject = {p.name: _field(p) for p in verb.parameters}
    if verb.datums[0] is not Datum.FILM:
        fields["datum"] = (Annotated[Datum, Field(alias="from", description=_FROM)], verb.datums[0])
    return create_model(f"{verb.name.title()}Request", __base__=Request, __doc__=verb.help, **fields)


def _field(parameter: Parameter) -> tuple[object, object]:
    if parameter.kind is ParameterKind.READINGS:
        return Annotated[list[Reading], Field(max_length=MAX_READINGS)], ...
    share = parameter.kind is ParameterKind.SHARE
    words = parameter.help.replace("percent", "as a share of it") if share else parameter.help
    examples = None if parameter.example is None else [parameter.example]
    kind: Any = _KINDS.get(parameter.kind, float)
    extra = Field(description=words, examples=examples) if parameter.kind is not ParameterKind.DISTANCE else Field()
    return (Annotated[kind, extra], ...) if parameter.required else (Annotated[kind | None, extra], None)


def answer_model(result: type[Any]) -> type[BaseModel]:
    """Return the model of a result; any length in it may be null for infinity, any figure for not known."""
    hints = typing.get_type_hints(result)
    fields: JsonObject = {f.name: (_nullable(hints[f.name]), ...) for f in dataclasses.fields(result)}
    summary = (result.__doc__ or "").partition("\n\n")[0]
    return create_model(result.__name__.removesuffix("Result") + "Answer", __doc__=summary, **fields)


def _nullable(hint: object) -> object:
    if hint is float or typing.get_origin(hint) is types.UnionType:
        return float | None
    if typing.get_origin(hint) is tuple:
        (item, *_) = typing.get_args(hint)
        kind: Any = answer_model(item) if isinstance(item, type) and dataclasses.is_dataclass(item) else item
        return list[kind]
    return hint


def _add(router: APIRouter, verb: Verb) -> None:
    asked_for = request_model(verb)

    def compute(asked: Request) -> JsonObject:
        return verb.from_json({p.name: getattr(asked, p.name) for p in verb.parameters}, asked.datum)

    def get(asked: Request) -> JsonObject:
        return compute(asked)

    def post(asked: Request) -> JsonObject:
        return compute(asked)

    # What is asked for is only known here, and FastAPI goes by the annotation.
    get.__annotations__["asked"], post.__annotations__["asked"] = Annotated[asked_for, Query()], asked_for
    methods = [("get", get), ("post", post)] if verb.flat else [("post", post)]
    for method, route in methods:
        route.__name__, route.__doc__ = f"{method}_{verb.name}", verb.help
        router.add_api_route(f"/{verb.name}", route, methods=[method.upper()], response_model=answer_model(verb.result))


_TOO_LONG = "That takes longer than a calculation may; it was stopped. Send less at once."


def _add_json(router: APIRouter, verb: JsonVerb) -> None:
    asked_for = verb.request

    def post(asked: BaseModel) -> BaseModel:
        return verb.function(asked)

    def post_costly(request: WebRequest, asked: BaseModel) -> Response:
        pool: WorkerPool = request.app.state.calculations
        found = pool.ask({"verb": verb.name, "request": asked.model_dump_json(by_alias=True)})
        if found is None:
            return error_response(request, 503, _TOO_LONG, works="Send fewer trials, or with fewer aids")
        if "error" in found:
            error = found["error"]
            return error_response(
                request, 422, error["sentence"], field=error["field"], works=error["works"], key=error["key"]
            )
        return Response(found["answer"], media_type="application/json")

    post.__annotations__["asked"] = post_costly.__annotations__["asked"] = asked_for
    route = post_costly if verb.costly else post
    route.__name__, route.__doc__ = f"post_{verb.name}", verb.help
    router.add_api_route(f"/{verb.name}", route, methods=["POST"], response_model=verb.answer)


@functools.cache
def calculations() -> APIRouter:
    """Return the routes of all verbs, made when they are asked for first: pages do not need them."""
    router = APIRouter(prefix=PREFIX, tags=["Calculations"])
    for verb in VERBS:
        _add(router, verb)
    for json_verb in JSON_VERBS:
        _add_json(router, json_verb)
    return router
