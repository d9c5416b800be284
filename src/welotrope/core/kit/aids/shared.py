"""Inputs and sentences that several kinds of aid share."""

from __future__ import annotations

from typing import Protocol

from welotrope.core import fields
from welotrope.core.errors import ConflictError
from welotrope.core.inputs import Group, number_input
from welotrope.core.kit.aids.kind import FAIL, SET, TURN, AidInput, Case
from welotrope.core.kit.aids.recompose import recompose_holds
from welotrope.core.kit.aids.viewing_optics import Detail, FramePlace, ViewingOptics
from welotrope.core.optics import wedge
from welotrope.core.rules import Finding, Rule
from welotrope.core.units.exposure import format_stop

OF_A_FINDER, OF_A_PRISM = (0.2, 3.0), (2.0, 20.0)  # from, to
FINDER_MAGNIFICATION = number_input(
    "finder_magnification", fields.FINDER_MAGNIFICATION, "Finder magnification", group=Group.AIDS,
    low=OF_A_FINDER[0], high=OF_A_FINDER[1],
    hint="As specified with a 50 mm lens, e.g. 0.9; only for an optical finder",
)  # fmt: skip
ASKED_FINDER = AidInput(name="finder_magnification", low=0.05, high=20)


class OfPrisms(Protocol):
    """An aid that deviates light by prisms."""

    @property
    def deviation_deg(self) -> float:
        """Deviation of its prisms, degrees."""


def wedge_lit(aid: OfPrisms, sight: ViewingOptics) -> bool:
    """Whether an aid of prisms is lit at the stop one looks through, as it works at this magnification.

    Parameters
    ----------
    aid
        The aid, with the deviation of its prisms.
    sight
        The optics of a set-up at a setting.
    """
    return wedge.wedge_lit(aid.deviation_deg, sight.view_stop, m=sight.magnification)


def _points(case: Case) -> Finding | None:
    if case.target.detail is Detail.POINTS:
        return Finding(text="turn until the point is smallest, pass it and come back")
    return None


def _centre_only(case: Case) -> Finding | None:
    if case.target.place is FramePlace.CENTRE or not case.works:
        return None
    if recompose_holds(case.sight, case.target.place):
        return Finding(text="sits in the middle of the frame: swing to the subject, focus, swing back")
    return Finding(text="sits in the middle of the frame, and swinging back would lose focus")


def _turn(case: Case) -> Finding | None:
    if not case.works:
        return None
    return Finding(text="start at infinity, turn past the sharpest point, and come back to it")


def dark_wedge(what: str) -> Rule[Case]:
    """Return the rule that an aid of prisms goes dark; ``what`` is what does.

    Parameters
    ----------
    what
        What it is, in words.
    """

    def says(case: Case) -> Finding | None:
        aid, sight = case.aid, case.sight
        if wedge_lit(aid, sight):
            return None
        marked = wedge.wedge_lit_stop(aid.deviation_deg, m=sight.magnification)
        at, lit_to = format_stop(sight.view_stop), format_stop(marked)
        stays = f"stays lit to {lit_to}" if lit_to != at else "needs a touch more light than that"
        text = f"{what} at {at}; it {stays}"
        text += " so close up" if sight.magnification > 0.1 else ""
        if sight.widest <= marked:
            text += f". Focus at {format_stop(sight.widest)}, then stop down"
        return Finding(text=text)

    return Rule(
        id="dark-wedge", topic=FAIL, when="the stop looked through is smaller than its prisms pass", says=says,
        clears="focus at a wider stop", source="a prism bends the cone of a slow lens past the eye",
    )  # fmt: skip


POINTS_SMALLEST = Rule(
    id="points-smallest", topic=TURN, when="the subject is points of light", says=_points,
    source="a point is smallest at best focus",
)  # fmt: skip
PRISMS_CENTRE = Rule(
    id="prisms-centre", topic=SET, when="the subject is not in the middle", says=_centre_only,
    source="what sits in the middle does not move",
)  # fmt: skip
THROUGH_AND_BACK = Rule(
    id="through-and-back", topic=TURN, when="it shows focus at all", says=_turn,
    source="both sides of sharp must be seen to find the middle",
)  # fmt: skip


def check_prism(deviation_deg: float) -> float:
    """Return a prism's deviation, degrees; raises ConflictError for one that no screen has.

    Parameters
    ----------
    deviation_deg
        Angle in degrees by which a prism bends light.
    """
    if deviation_deg >= 45:
        raise ConflictError(
            "deviation_deg", f"{deviation_deg:g}°", "no prism in a screen bends so much", "Write 2 to 20"
        )
    return deviation_deg
