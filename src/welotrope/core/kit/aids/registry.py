"""The kinds of focusing aid: the one list of them."""

from __future__ import annotations

from collections.abc import Iterator

from welotrope.core.hand.focus_sample import ShownBy
from welotrope.core.kit.aids.confirmation import CONFIRMATION
from welotrope.core.kit.aids.kind import AidKind, AidRecord, Case
from welotrope.core.kit.aids.live import LIVE
from welotrope.core.kit.aids.magnified import MAGNIFIED
from welotrope.core.kit.aids.matte import MATTE
from welotrope.core.kit.aids.microprism import MICROPRISM
from welotrope.core.kit.aids.peaking import PEAKING
from welotrope.core.kit.aids.rangefinder import RANGEFINDER
from welotrope.core.kit.aids.scale import SCALE
from welotrope.core.kit.aids.split_image import SPLIT_IMAGE
from welotrope.core.kit.aids.view import FinderView
from welotrope.core.rules import Rule

# What a body may have, in the order forms ask for them.
BODY_KINDS: tuple[AidKind, ...] = (
    MATTE, SPLIT_IMAGE, MICROPRISM, RANGEFINDER, CONFIRMATION, MAGNIFIED, PEAKING, LIVE,
)  # fmt: skip


def every_kind() -> tuple[AidKind, ...]:
    """Return the kinds a body may have, and the scale of the lens."""
    return (*BODY_KINDS, SCALE)


def kind_of(aid: AidRecord) -> AidKind:
    """Return the kind of an aid; raises LookupError for a record of none."""
    for kind in every_kind():
        if type(aid) is kind.record:
            return kind
    raise LookupError(type(aid).__name__)


def kind_called(tag: str) -> AidKind | None:
    """Return the kind of that tag that a body may have, or None."""
    return next((kind for kind in BODY_KINDS if kind.tag == tag), None)


def kind_names() -> dict[str, str]:
    """Return what each kind is called, by its tag."""
    return {kind.tag: kind.label for kind in every_kind()}


def shown_by(tag: str) -> ShownBy:
    """Return what an aid, by its tag, shows focus by; something else where it is none of ours."""
    return next((kind.by for kind in every_kind() if kind.tag == tag), ShownBy.OTHER)


def aid_rules() -> tuple[Rule[Case], ...]:
    """Return the rules of every kind, each id once."""
    return tuple({rule.id: rule for kind in every_kind() for rule in kind.rules}.values())


def views() -> Iterator[tuple[AidKind, FinderView]]:
    """Yield every way to look through an aid, with the kind its rounds count for."""
    for kind in every_kind():
        for view in kind.views:
            yield kind, view


def view_called(key: str) -> tuple[AidKind, FinderView] | None:
    """Return a way to look through an aid with its kind, or None."""
    return next(((kind, view) for kind, view in views() if view.key == key), None)


def view_keys() -> tuple[str, ...]:
    """Return the keys of all ways to look through an aid."""
    return tuple(view.key for _, view in views())


def view_name(key: str) -> str:
    """Return what a way to look through an aid is called; the key of one that is no longer there."""
    found = view_called(key)
    return found[1].name if found else key
