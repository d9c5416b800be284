"""What several sections of Plan ask alike."""

from __future__ import annotations

from welotrope.core.errors import Field
from welotrope.core.exposure.light import MOST_EXPONENT
from welotrope.core.exposure.motion import MOST_SPEED, MOVER_BY_ID, Mover
from welotrope.core.inputs import Ask, CompositeField, FormInput, Group, Input, Reader, number_input
from welotrope.core.units.exposure import format_stop, parse_stop
from welotrope.core.units.text import number


def stop_asked(empty: float, *, label: str = "Stop", usual: str = "", hint: str = "") -> Input:
    """Return the input of a stop."""
    return Input(
        name="stop", field=Field("stop", "stop"), label=label, read=lambda text, _typed: parse_stop(text),
        write=format_stop, empty=empty, usual=usual, hint=hint,
    )  # fmt: skip


def overlap_asked(empty: float, *, usual: str = "", hint: str = "") -> Input:
    """Return the input of an overlap, a share of a window."""
    return Input(
        name="overlap", field=Field("overlap", "overlap"), label="Overlap", unit="%", mode="decimal", optional=True,
        empty=empty, low=0, high=0.9, read=lambda text, _typed: number(text, "overlap", unit="%") / 100,
        write=lambda share: f"{share * 100:g}", usual=usual, hint=hint,
    )  # fmt: skip


def path_asked(usual: float, *, group: Group = Group.MAIN) -> Input:
    """Return the input of the angle between a path and the lens's axis, degrees."""
    return number_input(
        "angle", Field("angle", "angle"), "Direction of movement", unit="°", low=0, high=90, empty=usual,
        usual=f"{usual:g}", hint="0 towards the camera, 90 across", group=group,
    )  # fmt: skip


def exponent_asked(hint: str, *, group: Group = Group.MAIN) -> Input:
    """Return the input of a film's reciprocity exponent."""
    return number_input(
        "exponent", Field("exponent", "reciprocity exponent"), "Reciprocity exponent", low=1, high=MOST_EXPONENT,
        hint=hint, group=group,
    )  # fmt: skip


def chosen_asked(
    name: str, label: str, options: tuple[tuple[str, str], ...], usual: str, *, group: Group = Group.MAIN
) -> Input:
    """Return the input of one of a table, by key; what is none of it counts as ``usual``."""
    keys = {key for key, _ in options}
    return Input(
        name=name, field=Field(name, label.lower()), label=label, ask=Ask.CHOICE, options=options, usual=usual,
        read=lambda text, _typed: text if text in keys else usual, write=str, group=group,
    )  # fmt: skip


def speed_asked(movers: tuple[Mover, ...], usual: str, label: str, *, group: Group = Group.MAIN) -> CompositeField:
    """Return the inputs of a speed, m/s: what moves, or its own figure."""
    moves = chosen_asked("moves", label, tuple((one.id, one.name) for one in movers), usual, group=group)
    own = number_input("speed", Field("speed", "speed"), "Or speed", unit="m/s", low=0, high=MOST_SPEED, group=group)

    def take(reader: Reader, typed: FormInput) -> float:
        named, figure = MOVER_BY_ID[moves.take(reader, typed)].speed, own.take(reader, typed)
        return named if figure is None else float(figure)

    return CompositeField(inputs=(moves, own), made=take, texts=lambda _speed: {})
