"""Pages that ask in their address: what was asked is read, what was not takes the usual."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, TypeVar

from starlette.datastructures import FormData

from welotrope.core.inputs import FormInput, Text, inputs_of, read_record
from welotrope.web.forms import RecordForm
from welotrope.web.request.context import RequestContext

FormT = TypeVar("FormT", bound=RecordForm)


def read_asked(
    form: type[FormT], context: RequestContext, usual: Mapping[str, Text]
) -> tuple[FormT, Any, dict[str, str]]:
    """Return the form as asked, its record or None, and an error sentence per field.

    ``usual`` are texts by name for what a first visit leaves open; where anything of the form was sent, only what was
    not sent at all takes them.
    """
    query = context.request.query_params
    names = [one.name for one in inputs_of(form.record)]
    sent = [pair for pair in query.multi_items() if pair[0] in names]
    given = {name for name, _ in sent}
    filled = [
        (name, one)
        for name, value in usual.items()
        if name not in given and (not sent or not (isinstance(value, list) or value == "yes"))
        for one in (value if isinstance(value, list) else [value])
    ]
    typed = form.read(FormData([*sent, *filled]))
    record, errors = read_record(form.record, FormInput(texts=typed.model_dump(), bare=context.numbers_in))
    return typed, record, errors
