"""The kinds of focusing aid: the one list of them, and what one usually shows when nothing more is known of it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from welotrope.core.hand.evidence import ShownBy
from welotrope.core.kit.aids.confirmation import CONFIRMATION, Confirmation
from welotrope.core.kit.aids.kind import AidKind, AidRecord, Case, FinderView
from welotrope.core.kit.aids.live import LIVE, LivePicture
from welotrope.core.kit.aids.magnified import MAGNIFIED, MagnifiedView
from welotrope.core.kit.aids.matte import MATTE, MatteScreen
from welotrope.core.kit.aids.microprism import MICROPRISM, Microprism
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye
from welotrope.core.kit.aids.peaking import PEAKING, Peaking, PeakingLevel
from welotrope.core.kit.aids.rangefinder import RANGEFINDER, RangefinderPatch
from welotrope.core.kit.aids.scale import SCALE, ScaleByEye
from welotrope.core.kit.aids.split_image import SPLIT_IMAGE, SplitImage
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.rules import Rule

# What a body may have, in the order forms ask for them.
BODY_KINDS: tuple[AidKind, ...] = (
    MATTE, SPLIT_IMAGE, MICROPRISM, RANGEFINDER, CONFIRMATION, MAGNIFIED, PEAKING, LIVE,
)  # fmt: skip

_OPEN_ENOUGH = 2.0


def every_kind() -> tuple[AidKind, ...]:
    """Return the kinds a body may have, and the scale of the lens."""
    return (*BODY_KINDS, SCALE)


def kind_of(aid: AidRecord) -> AidKind:
    """Return the kind of an aid; raises LookupError for a record of none.

    Parameters
    ----------
    aid
        The focusing aid.
    """
    for kind in every_kind():
        if type(aid) is kind.record:
            return kind
    raise LookupError(type(aid).__name__)


def kind_called(tag: str) -> AidKind | None:
    """Return the kind of that tag that a body may have, or None.

    Parameters
    ----------
    tag
        Tag of the aid.
    """
    return next((kind for kind in BODY_KINDS if kind.tag == tag), None)


def kind_names() -> dict[str, str]:
    """Return what each kind is called, by its tag."""
    return {kind.tag: kind.label for kind in every_kind()}


def shown_by(tag: str) -> ShownBy:
    """Return what an aid, by its tag, shows focus by; something else where it is none of ours.

    Parameters
    ----------
    tag
        Tag of the aid.
    """
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
    """Return a way to look through an aid with its kind, or None.

    Parameters
    ----------
    key
        Key of what is looked for.
    """
    return next(((kind, view) for kind, view in views() if view.key == key), None)


def view_keys() -> tuple[str, ...]:
    """Return the keys of all ways to look through an aid."""
    return tuple(view.key for _, view in views())


def view_name(key: str) -> str:
    """Return what a way to look through an aid is called; the key of one that is no longer there.

    Parameters
    ----------
    key
        Key of what is looked for.
    """
    found = view_called(key)
    return found[1].name if found else key


USUAL_SENSOR = Sensor(pitch_mm=0.006, width_px=6000)
USUAL_AIDS: Mapping[str, AidRecord] = {
    "matte": MatteScreen(0.9), "split_image": SplitImage(0.9), "microprism": Microprism(0.9),
    "rangefinder": RangefinderPatch(47, 0.72), "confirmation": Confirmation(), "magnified": MagnifiedView(1280, (6.0,)),
    "live": LivePicture(1920), "peaking": Peaking(1280, (PeakingLevel("mid", 0.1),)), "scale": ScaleByEye(),
}  # fmt: skip


def usual_defocus(tag: str, sight: ViewingOptics, *, eye: Eye = AVERAGE_EYE) -> float:
    """Return δ, mm of extension, of a typical aid of a kind; of a matte screen where it is none of ours.

    An aid that would show nothing at the stop is taken to have been looked through at a wider one.

    Parameters
    ----------
    tag
        Tag of the aid.
    sight
        The optics of a set-up at a setting.
    eye
        Constants of the eye and of the aids; those of an average eye where none are given.

    Examples
    --------
    See ``tests/interchange/test_hand_request.py``, where it stands for aids known by name only.
    """
    aid = USUAL_AIDS.get(tag, USUAL_AIDS["matte"])
    for at in (sight, replace(sight, view_stop=min(sight.view_stop, _OPEN_ENOUGH), lens_blur_mm=0.0)):
        found = kind_of(aid).judges(aid, at, Target(), USUAL_SENSOR, eye).defocus_mm
        if found is not None:
            return found
    return usual_defocus("matte", sight, eye=eye)
