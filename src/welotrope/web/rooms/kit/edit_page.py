"""What every page of the kit that edits something shows, and making one thing on the way to another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Generic, TypeVar
from urllib.parse import urlencode

from starlette.datastructures import FormData, QueryParams

from welotrope.core.errors import UnreadableError
from welotrope.core.inputs import Input
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.joint import Joint, Route
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import Screen
from welotrope.core.rules import RuleFinding
from welotrope.web.forms import FormT, RecordForm, TextForm, narrowed
from welotrope.web.request.limits import local_path

TO = ("mounts", "adapters")
_DECIDED = ("kind", "finder", "medium")  # by the kind of camera, if it decides them


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


EditedFormT = TypeVar("EditedFormT", bound=TextForm)


@dataclass(frozen=True, kw_only=True)
class FormLimits:
    """What of a form its kind of camera has no answer to, by name, and the options that are left of some."""

    skipped: frozenset[str] = frozenset()
    options: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


@dataclass(frozen=True, kw_only=True)
class EditPage(Generic[EditedFormT]):
    """A form page: what is edited, its errors, and where it posts to."""

    form: EditedFormT
    action: str
    title: str
    id: int | None = None
    errors: dict[str, str] = field(default_factory=dict)
    bodies: list[tuple[int, Body]] = field(default_factory=list)
    lenses: list[tuple[int, Lens]] = field(default_factory=list)
    step: str = ""
    mounts: list[str] = field(default_factory=list)
    adapters: list[tuple[int, Adapter]] = field(default_factory=list)
    converters: list[tuple[int, Adapter]] = field(default_factory=list)
    chosen: Setup | None = None
    limits: FormLimits = field(default_factory=lambda: FormLimits())
    findings: tuple[RuleFinding, ...] | None = None
    checked: list[str] = field(default_factory=list)
    routes: list[Route] = field(default_factory=list)
    joint: Joint | None = None
    screens: tuple[Screen, ...] = ()
    back: str = ""
    fills: str = ""
    detour: str = ""

    def asked(self, group: str) -> list[Input]:
        """Return the inputs of a part of the form, without what its kind of camera has no answer to."""
        if not isinstance(self.form, RecordForm):
            return []
        asked = [one for one in self.form.inputs(group) if one.name not in self.limits.skipped or self._holds(one)]
        return [narrowed(one, self.limits.options) for one in asked]

    def _holds(self, one: Input) -> bool:
        """Whether something unusual was entered all the same, which is not to be lost."""
        return one.name not in _DECIDED and getattr(self.form, one.name) not in ("", one.usual, [])
