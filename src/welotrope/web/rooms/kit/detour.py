"""Making one thing on the way to another: the form left behind is kept in the address one comes back to."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import urlencode

from starlette.datastructures import FormData, QueryParams

from welotrope.core.errors import UnreadableError
from welotrope.web.forms.text_form import FormT, TextForm
from welotrope.web.request.limits import local_path

TO = ("mounts", "adapters")


def form_from(kind: type[FormT], query: QueryParams, usual: FormT) -> FormT:
    """Return the form that a detour left in the address, over the usual one."""
    if not any(name in kind.model_fields for name in query):
        return usual
    known = FormData([(name, value) for name, value in query.multi_items() if name in kind.model_fields])
    return kind.read(known)


def detour(own_path: str, form: TextForm, typed: Mapping[str, object], prefill: Mapping[str, str]) -> str:
    """Return where to make a thing, with the way back to the form as it stands.

    Parameters
    ----------
    own_path
        Path of the form that is left.
    form
        Its fields.
    typed
        What was sent: ``detour`` names the kind to make and the field it fills, such as ``mounts:lens_side``; ``back``
        and ``fills`` are the form's own way back.
    prefill
        Fields of the thing to make that are known.
    """
    to, _, fills = str(typed.get("detour", "")).partition(":")
    if to not in TO or not fills.isidentifier():
        raise UnreadableError("way", str(typed.get("detour", ""))[:40], "there is none of that name", "Use the buttons")
    way_back = {name: str(typed[name]) for name in ("back", "fills") if typed.get(name)}
    back = f"{own_path}?{urlencode({**form.model_dump(), **way_back}, doseq=True)}"
    return f"/kit/{to}/new?{urlencode({**prefill, 'back': back, 'fills': fills})}"


def way_back(typed: Mapping[str, object], value: str) -> str | None:
    """Return the address to go back to with the thing made put in, None when one did not come from a form."""
    back, fills = str(typed.get("back", "")), str(typed.get("fills", ""))
    if not back or not fills.isidentifier() or local_path(back, otherwise="") != back:
        return None
    path, _, query = back.partition("?")
    pairs = [(name, said) for name, said in QueryParams(query).multi_items() if name != fills]
    return f"{path}?{urlencode([*pairs, (fills, value)])}"
