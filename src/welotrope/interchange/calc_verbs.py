"""The calculations that stand alone, each declared once: its parameters, function and result.

The command line, the JSON API, their documentation and their tests are made from this table.
"""

from __future__ import annotations

from welotrope.core.plan import calculations
from welotrope.core.ring.true_infinity import AdapterEffect, adapter_effect
from welotrope.interchange.calc_verb import Parameter, ParameterKind, Verb, blur, distance, focal, optional, stop
from welotrope.interchange.plan_verbs import PLAN_VERBS

_FOCUS = distance("focus", "Focus distance, e.g. 2500mm, 2.5m, 8ft, inf.", words="focus distance")
_DIAMETER = optional("diameter_mm", "diameter", "Ring diameter, mm.")
_LEAD_HELP = "Helicoid lead, mm a turn."

VERBS: tuple[Verb, ...] = (
    Verb(
        name="depth",
        help="Near and far limits, and the hyperfocal distance.",
        parameters=(focal(40), stop(11), blur(0.028), _FOCUS),
        function=calculations.depth,
        result=calculations.DepthResult,
    ),
    Verb(
        name="zone",
        help="Where to focus and which stop for a zone.",
        parameters=(
            focal(35), distance("near", "Nearest subject."), distance("far", "Farthest subject."), blur(0.03),
        ),
        function=calculations.zone,
        result=calculations.ZoneResult,
    ),
    Verb(
        name="ring",
        help="Ring angle from infinity and the width of the sharp window.",
        parameters=(
            focal(50), Parameter(name="lead_mm", option="lead", help=_LEAD_HELP, example=10.8), stop(2), blur(0.03),
            _FOCUS, _DIAMETER,
        ),
        function=calculations.ring,
        result=calculations.RingResult,
        needs={"window_mm": ("diameter_mm",)},
    ),
    Verb(
        name="adapter",
        help="Whether infinity is reached with an adapter that is too thick or thin, and where it falls.",
        parameters=(
            focal(50),
            Parameter(name="error_mm", option="error", help="Thickness error, mm; positive is too thick.", example=0.1),
            optional("lead_mm", "lead", _LEAD_HELP),
            _DIAMETER,
        ),
        function=adapter_effect,
        result=AdapterEffect,
        needs={"infinity_deg": ("lead_mm",), "infinity_mm": ("lead_mm", "diameter_mm")},
    ),
    Verb(
        name="throw",
        help="Lead of a ring from readings, where infinity lies, what kind it is, and which readings do not belong.",
        parameters=(
            focal(50),
            Parameter(
                name="readings", option="point", kind=ParameterKind.READINGS,
                help="Ring angle in degrees and distance, e.g. 48.6:2m or 0:inf; one each.",
            ),
            optional("error_deg", "error", "Reading error, degrees; else 0.5."),
            optional(
                "distance_error", "distance-error", "Distance error, percent; else the larger of 1 % and 5 mm.",
                kind=ParameterKind.SHARE,
            ),
        ),
        function=calculations.throw,
        result=calculations.ThrowResult,
        flat=False,
    ),
    Verb(
        name="engraving",
        help="Blur circle that depth marks imply, and by how many stops it is more lenient than the standard.",
        parameters=(
            focal(28),
            stop(16, help="The pair of depth marks read."),
            distance("far", "Distance under the far mark.", words="far mark", required=False),
            distance("near", "Distance under the near mark.", words="near mark", required=False),
            distance("index", "Distance under the index.", required=False),
            optional(
                "blur_mm", "blur", "Blur circle to compare with, mm; else the print standard of 36 × 24 mm.",
                argument="standard_mm",
            ),
        ),
        function=calculations.engraving,
        result=calculations.EngravingResult,
        flat=False,
    ),
    *PLAN_VERBS,
)  # fmt: skip
