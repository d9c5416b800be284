"""The exercises: each one record, declaring what it trains, how a round begins, what it locks and what it counts for.

Nothing asks which exercise it is; whoever wants to know asks what it declares.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from welotrope.core.errors import UnreadableError
from welotrope.core.hand.skill_estimate import SkillEstimate
from welotrope.core.kit.aids.registry import view_called, view_keys
from welotrope.core.practice.scene_list import ANYWHERE
from welotrope.core.stats import chance_within

MORE = 20
_BEGUN, _POWER = 10.0, 0.2
_KNOWING = 0.25  # what a narrower interval is worth of what a surer hit is
_LEAST_GAIN = 0.01


class Begins(StrEnum):
    """Where the ring stands when a round begins."""

    ANYWHERE = "anywhere"
    INFINITY = "infinity"
    NEAR = "near"
    IN_THE_WAY = "in the way"  # set on a place the subject will pass
    OFF_BY_A_LEAN = "off by a lean"


@dataclass(frozen=True, kw_only=True)
class Exercise:
    """An exercise.

    Parameters
    ----------
    id, title, task
        Key, name, and what to do, in one or two sentences.
    aids, scenes
        What it can be done with; no aids means every way to look through one.
    begins
        Where the ring begins.
    locked
        Whether the ring is set and stays.
    turned
        Whether the camera begins upright.
    leans
        Whether one leans instead of turning.
    at_infinity
        Whether the subject is infinitely far, so that the ring must turn past infinity.
    masks
        Whether a mask can be put before the lens.
    finishes_on
        The aid it ends on and counts for, where that is not the one it begins with; empty else.
    counts
        Whether its rounds tell how finely the hand places the ring.
    recomposes
        Whether the camera is aimed at the subject to focus and turned back to compose before the picture.
    sways
        Whether the sitter sways to and fro.
    approaches
        Whether the subject comes at the camera at a walk.
    bursts
        Whether the release goes on for a second, and the sharpest frame counts.
    longest_mm
        Focal length up to which it is done, mm; 0 for any.
    starts
        What sets off a scene that moves.
    seen_at
        f-number the finder is looked through at least, as with a slow lens; 0 for that of the lens in hand.
    says
        Advice from whether it hit and the error in degrees (positive behind); None for that on the path of the ring.
    """

    id: str
    title: str
    task: str
    aids: tuple[str, ...] = ()
    scenes: tuple[str, ...] = ANYWHERE
    begins: Begins = Begins.ANYWHERE
    locked: bool = False
    turned: bool = False
    leans: bool = False
    at_infinity: bool = False
    masks: bool = False
    finishes_on: str = ""
    counts: bool = True
    recomposes: bool = False
    sways: bool = False
    approaches: bool = False
    bursts: bool = False
    longest_mm: float = 0.0
    starts: str = "Begin"
    seen_at: float = 0.0
    says: Callable[[bool, float], str] | None = None

    @property
    def views(self) -> tuple[str, ...]:
        """Keys of the ways to look that it can be done with."""
        return self.aids or view_keys()


def _trapped(hit: bool, error_deg: float) -> str:
    early = "late" if error_deg > 0 else "early"
    return "Caught it." if hit else f"A little too {early}: allow for your reaction and the shutter."


def _burst(hit: bool, error_deg: float) -> str:
    if hit:
        return "The burst went through the plane of focus, and one of its frames is sharp."
    if error_deg > 0:
        return "The sharpest frame came after the subject had passed the plane: press earlier, or stop down."
    return "The sharpest frame came before the subject reached the plane: press a little later, or stop down."


def _leant(hit: bool, error_deg: float) -> str:
    way = "back" if error_deg < 0 else "forward"
    return "Held by leaning." if hit else f"Sway through sharp and fire on the way {way}."


def _recomposed(hit: bool, error_deg: float) -> str:
    if hit:
        return "Still sharp after the camera was turned back."
    if error_deg > 0:
        return "Turning the camera back left the plane behind the subject: turn the ring a little nearer, or lean in."
    return "The plane lies in front of the subject: that was more than turning the camera back takes."


EXERCISES: tuple[Exercise, ...] = (
    Exercise(id="single", title="Place the plane", task="Focus on the named subject, then release."),
    Exercise(
        id="drop-in",
        title="From infinity and back",
        task="Starts at infinity. Go past the sharpest point, come back to it, and release.",
        begins=Begins.INFINITY,
    ),
    Exercise(
        id="through",
        title="Through focus",
        task="Starts at closest focus. Go past sharp in both directions, less each time, and stop in the middle.",
        begins=Begins.NEAR,
    ),
    Exercise(
        id="camera-turn",
        title="Turn the camera",
        task="Every line here runs along the split and would not break. Turn the camera (r), then focus.",
        aids=("split_image",),
        scenes=("deck",),
    ),
    Exercise(
        id="peak-then-magnify",
        title="Peak, then magnify",
        task="Turn until the edges light, then magnify (m) and finish on the picture itself.",
        aids=("peaking",),
        scenes=("bench", "shore", "plank", "sitter", "shed"),
        finishes_on="magnified",
    ),
    Exercise(
        id="trap",
        title="Trap the boat",
        task="The distance stays set. The boat approaches: release as the bow ball reaches the focus distance, early"
        " enough for your reaction and the shutter lag.",
        aids=("matte", "magnified", "peaking", "confirmation"),
        scenes=("boat",),
        begins=Begins.IN_THE_WAY,
        locked=True,
        counts=False,
        starts="Start the boat",
        says=_trapped,
    ),
    Exercise(
        id="walker",
        title="A walker, and a burst",
        task="The distance stays set. The figurehead is carried towards you at a walk: press shortly before its eye"
        " comes into focus. The camera takes a burst of one second, and the sharpest frame counts.",
        aids=("matte", "magnified", "peaking", "confirmation"),
        scenes=("figurehead",),
        begins=Begins.IN_THE_WAY,
        locked=True,
        approaches=True,
        bursts=True,
        counts=False,
        starts="Start the walk",
        says=_burst,
    ),
    Exercise(
        id="lean",
        title="Lean, do not turn",
        task="The distance stays set. Lean in and out until the named spot is sharpest, then release.",
        aids=("matte", "split_image", "microprism", "magnified", "peaking"),
        scenes=("figurehead", "sitter", "plank"),
        begins=Begins.OFF_BY_A_LEAN,
        locked=True,
        leans=True,
        counts=False,
        says=_leant,
    ),
    Exercise(
        id="stars",
        title="Stars",
        task="Magnify the bright pair, turn until it is smallest and separates, go past and come back. With a mask (d),"
        " the middle spike must be centred in its cross.",
        aids=("magnified",),
        scenes=("stars",),
        at_infinity=True,
        masks=True,
    ),
    Exercise(
        id="sway",
        title="A sitter who sways",
        task="Nobody sits quite still. Focus on the badge on her hat, and release as she passes through the plane of"
        " focus.",
        aids=("matte", "split_image", "microprism", "magnified", "peaking"),
        scenes=("sitter",),
        sways=True,
        counts=False,
    ),
    Exercise(
        id="recompose",
        title="Focus and recompose",
        task="The aid is in the middle of the frame, the subject belongs on a third. Focus on it; the camera is then"
        " turned back, which takes the plane of focus past it. Allow for that.",
        aids=("split_image", "microprism", "collar", "rangefinder", "confirmation"),
        recomposes=True,
        counts=False,
        says=_recomposed,
    ),
    Exercise(
        id="low-light",
        title="Low light",
        task="Contrast goes with the light. Find the brightest edge of the named subject, focus on it, then release.",
        scenes=("dusk", "shed"),
    ),
    Exercise(
        id="dark-wedge",
        title="A slow lens",
        task="Seen at f/8, one half of the aid goes dark. Use the ground glass around it, or what is left of the aid.",
        aids=("split_image", "microprism", "collar"),
        seen_at=8.0,
    ),
    Exercise(
        id="wide-split",
        title="A wide lens on a split image",
        task="With a short lens the halves hardly part. Find a hard edge across the split, look closer, turn past it"
        " on both sides, and stop half way between.",
        aids=("split_image", "diagonal"),
        scenes=("bow", "rigging", "plank", "shed"),
        longest_mm=35.0,
    ),
    Exercise(
        id="too-much-depth",
        title="More depth than the picture",
        task="The screen shows a fast lens sharper than it is. Turn through the whole sharp range, stop in its middle,"
        " and compare the picture that results.",
        aids=("matte",),
        scenes=("figurehead", "bench", "pebbles", "shore", "plank"),
    ),
)


CanHave = Callable[[str], bool]  # whether a camera can have an aid of a kind, by its tag


def exercises_for(can_have: CanHave) -> tuple[Exercise, ...]:
    """Return the exercises that can be done with a camera.

    Parameters
    ----------
    can_have
        Tells of the tag of an aid whether the camera can have it.
    """
    return tuple(one for one in EXERCISES if views_for(can_have, one))


def views_for(can_have: CanHave, one: Exercise) -> tuple[str, ...]:
    """Return the keys of the ways to look that an exercise can be done with on a camera.

    Parameters
    ----------
    can_have
        Tells of the tag of an aid whether the camera can have it.
    one
        The exercise.
    """
    if one.finishes_on and not can_have(one.finishes_on):
        return ()
    found = [(key, view_called(key)) for key in one.views]
    return tuple(
        key for key, called in found if called and can_have(called[0].tag) and all(map(can_have, called[1].with_tags))
    )


_BY_ID = {exercise.id: exercise for exercise in EXERCISES}
# Those whose rounds tell of the hand, by id as rounds are kept.
COUNTING = tuple(exercise.id for exercise in EXERCISES if exercise.counts)


def exercise(id: str) -> Exercise:
    """Return an exercise.

    Parameters
    ----------
    id
        Key of the record.

    Raises
    ------
    UnreadableError
        When there is none of that name.
    """
    if id not in _BY_ID:
        raise UnreadableError("exercise", id, "there is none of that name", f"Choose from {', '.join(_BY_ID)}")
    return _BY_ID[id]


def known_exercise(id: str) -> Exercise | None:
    """Return an exercise, None for one that is no longer there.

    Parameters
    ----------
    id
        Key of the record.
    """
    return _BY_ID.get(id)


def exercise_title(id: str) -> str:
    """Return what an exercise is called; the key of one that is no longer there.

    Parameters
    ----------
    id
        Key of the record.
    """
    found = known_exercise(id)
    return found.title if found else id


@dataclass(frozen=True, kw_only=True)
class AidAtHand:
    """An aid with the hand one has with it: its tag and name, half the sharp window and what it shows, mm."""

    aid: str
    name: str
    hand: SkillEstimate
    half_mm: float
    defocus_mm: float


@dataclass(frozen=True, kw_only=True)
class Suggestion:
    """An exercise: with which aid, what for, and the chance of a hit now and as it is expected after 20 trials."""

    aid: str
    name: str
    why: str
    now: float
    then: float


def _why(hand: SkillEstimate) -> str:
    """Say what about the hand makes more practice worth it."""
    if hand.trials < MORE / 2:
        return "there are few trials with it so far"
    if hand.bias.is_told:
        return f"focus tends to fall {'behind' if hand.bias_z > 0 else 'in front'}"
    return "your results still scatter"


def suggestions(aids: list[AidAtHand]) -> list[Suggestion]:
    """Return what is worth practising, the most first; without what would gain nothing.

    Parameters
    ----------
    aids
        The aids in hand, each with what is known of the photographer's hand.
    """
    worth = []
    for one in aids:
        found = one.hand.chance(one.half_mm, one.defocus_mm)
        finer = ((one.hand.trials + _BEGUN + MORE) / (one.hand.trials + _BEGUN)) ** -_POWER
        then = chance_within(one.half_mm, one.hand.sigma_z * finer * one.defocus_mm)
        then = max(then, found.share)
        why = _why(one.hand)
        gain = then - found.share + _KNOWING * (found.high - found.low)
        if gain >= _LEAST_GAIN:
            worth.append((gain, Suggestion(aid=one.aid, name=one.name, why=why, now=found.share, then=then)))
    return [suggestion for _, suggestion in sorted(worth, key=lambda pair: -pair[0])]
