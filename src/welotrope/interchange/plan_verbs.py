"""The stand-alone calculations of planning: zones, field, trap, close-up, stack, exposure, movement, stars."""

from __future__ import annotations

from welotrope.core.optics.thin_lens import Datum
from welotrope.core.plan import field_calculations as calculations
from welotrope.core.plan.framing import FieldOfView
from welotrope.interchange.calc_verb import Parameter, ParameterKind, Verb, blur, distance, focal, optional, stop

_SPEED = Parameter(name="speed_m_per_s", option="speed", help="Speed, m/s.", argument="speed", example=3)
_OVERLAP = optional("overlap", "overlap", "Share of a window by which each lies over the one before.", example=0.2)
_PATH = "Angle between path and axis, degrees; 0 is straight at the camera."

PLAN_VERBS: tuple[Verb, ...] = (
    Verb(
        name="zones",
        help="Zones that leave no gap, farthest first.",
        parameters=(
            focal(35), stop(8), blur(0.03),
            Parameter(name="count", option="count", help="How many zones.", kind=ParameterKind.COUNT, example=2),
            distance("far", "Where the first one ends; infinity if left out.", required=False), _OVERLAP,
        ),
        function=calculations.zones,
        result=calculations.ZonesResult,
    ),
    Verb(
        name="view",
        help="What the picture holds at a distance.",
        parameters=(
            focal(35), Parameter(name="width_mm", option="width", help="Picture width, mm.", example=36),
            Parameter(name="height_mm", option="height", help="Picture height, mm.", example=24),
            distance("distance", "Distance looked at."),
        ),
        function=calculations.view,
        result=FieldOfView,
    ),
    Verb(
        name="trap",
        help="A zone a subject passes through: time and frames in it, and where the subject is when to press.",
        parameters=(
            focal(85), stop(4), blur(0.03), distance("distance", "Distance focused at."), _SPEED,
            optional("rate_per_s", "rate", "Frames a second, else 8.", argument="rate", example=8),
            optional("reaction_s", "reaction", "From seeing to pressing, s; else 0.25.", example=0.25),
            optional("lag_s", "lag", "From pressing to the shutter, s; else 0.06.", example=0.06),
            optional("angle_deg", "angle", _PATH, example=30),
            optional("receding", "receding", "The subject goes away.", kind=ParameterKind.FLAG),
        ),
        function=calculations.trap,
        result=calculations.TrapResult,
    ),
    Verb(
        name="recompose",
        help="How far behind the subject the plane falls when the camera is turned after focusing.",
        parameters=(
            distance("distance", "Distance of the subject from the entrance pupil."),
            Parameter(name="angle_deg", option="angle", help="Turned by, degrees.", example=20),
        ),
        function=calculations.recompose,
        result=calculations.RecomposeResult,
        datums=(Datum.PRINCIPAL,),
    ),
    Verb(
        name="closeup",
        help="Working distances and magnifications with close-up lenses or tubes.",
        parameters=(
            focal(100), distance("closest", "The main lens's own closest focus.", words="closest focus"),
            optional("power", "power", "Close-up lens, dioptres; once for each.", kind=ParameterKind.NUMBERS,
                example=2),
            optional("tube_mm", "tube", "Extension added, mm.", example=12),
            optional("gap_mm", "gap", "From close-up lens to principal plane, mm.", example=10),
        ),
        function=calculations.closeup,
        result=calculations.CloseupResult,
    ),
    Verb(
        name="stack",
        help="Fewest frames whose sharp windows cover a depth.",
        parameters=(
            focal(100), stop(8), blur(0.02), distance("near", "Near end."), distance("far", "Far end."), _OVERLAP,
        ),
        function=calculations.stack,
        result=calculations.StackResult,
    ),
    Verb(
        name="exposure",
        help="Shutter time for a light, a stop and an ISO.",
        parameters=(
            Parameter(name="ev", option="ev", help="Exposure value at ISO 100.", example=12), stop(8),
            Parameter(name="iso", option="iso", help="Sensitivity.", example=400),
            optional("filter_stops", "filter", "What a filter takes, stops.", example=3),
            optional("magnification", "magnification", "Of a close-up.", argument="m", example=0.5),
        ),
        function=calculations.exposure,
        result=calculations.ExposureResult,
    ),
    Verb(
        name="motion",
        help="Slowest shutter at which a movement stays within the blur.",
        parameters=(
            focal(50), distance("distance", "Distance of the subject."), _SPEED,
            Parameter(name="angle_deg", option="angle", help=_PATH, example=90), blur(0.03),
            optional("offset_mm", "offset", "From the middle of the picture, mm; else 6.", example=6),
        ),
        function=calculations.motion,
        result=calculations.MotionResult,
    ),
    Verb(
        name="trail",
        help="Longest exposure before stars trail.",
        parameters=(
            focal(20), Parameter(name="pitch_mm", option="pitch", help="Pixel pitch, mm.", example=0.006),
            Parameter(name="pixels", option="pixels", help="Pixels a star may trail.", example=2),
            optional("declination_deg", "declination", "Of the stars, degrees; 0 if left out.", example=60),
        ),
        function=calculations.trail,
        result=calculations.TrailResult,
    ),
)  # fmt: skip
