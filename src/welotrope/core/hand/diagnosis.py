"""Why focus misses: where it lands, and which cause carries the evidence.

Explanations are compared by how likely the shots are under each (:mod:`evidence`), and none is called before its odds
carry it: a lean to one side at 9 to 1 against none, a cause at 9 to 1 against all others.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.hand.causes import Cause, CauseShape, possible
from welotrope.core.hand.evidence import Fit, Settings, fit_all
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.stats import Mixture, Proportion, wilson

_READ_SHARE = 0.1  # standard error of an amount read off a picture, alike in all of one person’s readings
CARRIED = 0.9  # what must be believed of something before it is called
LEAST_SHOTS, LEAST_FOR_MISSES = 5, 8
_PRIOR_NONE = 0.5
_SMALL_BIAS = 0.25  # in half windows: smaller leaves hits alone
_GOOD_SHARE, _GOOD_LOW = 0.8, 0.6
_STEADY_USE = 1.5  # times what the aid shows, up to which a hand uses it well
_NEGLIGIBLE = 1e-4
# Two causes: how likely beforehand beside one, in which proportions, of how many of the likeliest, from how many shots.
_TOGETHER = 0.15
_PROPORTIONS = tuple(math.pi * step / 8 for step in (1, 2, 3, 5, 6, 7))
_IN_PAIRS, _LEAST_FOR_TWO = 4, 8


class FocusPattern(StrEnum):
    """Where focus lands."""

    NOT_ENOUGH = "not enough"
    ON_TARGET = "on target"
    ONE_SIDED = "one-sided"
    SCATTERED = "scattered"
    WINDOW = "window"


@dataclass(frozen=True, kw_only=True)
class Explanation:
    """What may leave focus off: how much it is believed, and what it makes of the shots.

    Parameters
    ----------
    parts
        Shapes of causes and the factor each enters with, so that all together are half a window large on the whole:
        none for no lean, one cause, or two that act together.
    share
        How much it is believed, 0 to 1.
    fit
        Its size and scatter.
    """

    parts: tuple[tuple[CauseShape, float], ...]
    share: float
    fit: Fit

    @property
    def causes(self) -> tuple[Cause, ...]:
        """The causes, none for no lean."""
        return tuple(kind.cause for kind, _ in self.parts)

    @property
    def leans(self) -> bool:
        """Whether it leaves focus off to one side."""
        return bool(self.parts)

    def shape(self, settings: Settings) -> FloatArray:
        """Return its error at settings for a size of one, mm of defocus."""
        return combined(self.parts, settings)

    def bias(self, settings: Settings) -> FloatArray:
        """Return the error it tells at settings, mm of defocus, positive behind."""
        found: FloatArray = self.fit.size * self.shape(settings)
        return found


def combined(parts: Sequence[tuple[CauseShape, float]], settings: Settings) -> FloatArray:
    """Return the error of shapes together at settings, each times its factor, mm of defocus.

    Parameters
    ----------
    parts
        Shapes of error, each with its factor, a pure number.
    settings
        Settings that shots were taken at, summed up; focal length, distances and blur in mm.
    """
    found = np.zeros(len(settings.stops))
    for kind, factor in parts:
        found = found + factor * kind.over(settings)
    return found


@dataclass(frozen=True, kw_only=True)
class Diagnosis:
    """Where focus lands, and why.

    Parameters
    ----------
    verdict
        Where it lands.
    causes
        What does it, when it is one-sided and the odds carry one cause, or two together; empty else.
    odds
        How much each cause is believed, given that it is one-sided: shares of one, the likeliest first. What is
        believed of two together is shared between them.
    together
        How much two causes together are believed, given that it is one-sided, the likeliest first.
    one_sided
        How much it is believed that it is one-sided at all, 0 to 1.
    bias_mm, bias_low_mm, bias_high_mm
        Mean error over the shots, mm of extension, positive behind, with its 95 % interval.
    shown_mm, shown_low_mm, shown_high_mm
        The same over the shots in which the likeliest cause shows, such as those with one aid only.
    hits
        Share of hits with its interval; None without any shot.
    scatter_z
        Scatter of the hand over what the aids show.
    shots
        How many it rests on.
    explanations
        What it was held against.
    """

    verdict: FocusPattern
    causes: tuple[Cause, ...]
    odds: Mapping[Cause, float]
    together: Mapping[tuple[Cause, ...], float]
    one_sided: float
    bias_mm: float
    bias_low_mm: float
    bias_high_mm: float
    shown_mm: float
    shown_low_mm: float
    shown_high_mm: float
    hits: Proportion | None
    scatter_z: float
    shots: int
    explanations: tuple[Explanation, ...]

    @property
    def cause(self) -> Cause | None:
        """The cause, where just one is stated."""
        return self.causes[0] if len(self.causes) == 1 else None


NOTHING = Diagnosis(
    verdict=FocusPattern.NOT_ENOUGH,
    causes=(),
    odds={},
    together={},
    one_sided=0.5,
    bias_mm=0.0,
    bias_low_mm=-math.inf,
    bias_high_mm=math.inf,
    shown_mm=0.0,
    shown_low_mm=-math.inf,
    shown_high_mm=math.inf,
    hits=None,
    scatter_z=1.0,
    shots=0,
    explanations=(),
)


def diagnose(settings: Settings, hits: int) -> Diagnosis:
    """Tell where shots land, and why.

    Parameters
    ----------
    settings
        The shots, summed up.
    hits
        How many of them lay within the window.
    """
    count = int(settings.shots.sum())
    if count == 0:
        return NOTHING
    found = _weighed(settings)
    one_sided = sum(each.share for each in found if each.leans)
    odds, together = _odds(found, one_sided)
    low, mean, high = _bias(found, settings)
    share = wilson(hits, count)
    if share is None:
        raise ValueError(f"{hits} hits of {count} shots")
    verdict = _verdict(found, settings, one_sided, share, count)
    causes = _carried(found, one_sided) if verdict is FocusPattern.ONE_SIDED else ()
    shown_low, shown, shown_high = _bias(found, settings, causes=causes or tuple(odds)[:1])
    return Diagnosis(
        verdict=verdict,
        causes=causes,
        odds=odds,
        together=together,
        one_sided=one_sided,
        bias_mm=mean,
        bias_low_mm=low,
        bias_high_mm=high,
        shown_mm=shown,
        shown_low_mm=shown_low,
        shown_high_mm=shown_high,
        hits=share,
        scatter_z=_scatter(found, settings),
        shots=count,
        explanations=tuple(found),
    )


def _carried(found: Sequence[Explanation], one_sided: float) -> tuple[Cause, ...]:
    """Return the cause, or the two together, that the odds carry; what no known cause can do is none."""
    shares: dict[tuple[Cause, ...], float] = {}
    for each in found:
        if each.leans:
            key = tuple(sorted(each.causes))
            shares[key] = shares.get(key, 0.0) + each.share / one_sided
    best = max(shares, key=lambda key: shares[key], default=())
    return best if best and shares[best] >= CARRIED and Cause.UNKNOWN not in best else ()


def _weighed(settings: Settings) -> list[Explanation]:
    """Return every explanation with how much it is believed, the likeliest first.

    Single causes first; then the likeliest of them in pairs, which a single one may only seem to explain.
    """
    shapes = possible(settings)
    whole = sum(each.share for each, _ in shapes)
    singles = [(((each, factor),), (1 - _PRIOR_NONE) * each.share / whole) for each, factor in shapes]
    rows = _rows([((), _PRIOR_NONE), *singles], settings)
    if int(settings.shots.sum()) >= _LEAST_FOR_TWO and len(settings.stops) > 1:
        rows += _rows(_pairs(rows, shapes, whole, settings), settings)
    logs = np.array([log for _, log, _ in rows])
    shares = np.exp(logs - logs.max())
    shares /= shares.sum()
    found = [
        Explanation(parts=parts, share=float(share), fit=one)
        for (parts, _, one), share in zip(rows, shares, strict=True)
    ]
    return sorted(found, key=lambda each: -each.share)


_Parts = tuple[tuple[CauseShape, float], ...]


def _rows(priors: Sequence[tuple[_Parts, float]], settings: Settings) -> list[tuple[_Parts, float, Fit]]:
    """Return explanations with prior shares, their log weights and their fits, one for each kind of scatter."""
    if not priors:
        return []
    fits = fit_all(settings, [combined(parts, settings) if parts else None for parts, _ in priors])
    return [
        (parts, math.log(prior) + one.log_evidence, one)
        for (parts, prior), held in zip(priors, fits, strict=True)
        for one in held
    ]


def _pairs(
    rows: Sequence[tuple[_Parts, float, Fit]], shapes: Sequence[tuple[CauseShape, float]], whole: float,
    settings: Settings,
) -> list[tuple[_Parts, float]]:  # fmt: skip
    """Return two causes together in several proportions, for the likeliest single ones."""
    best: dict[int, float] = {}
    for parts, log, _ in rows:
        for kind, _factor in parts:
            best[id(kind)] = max(best.get(id(kind), -math.inf), log)
    known = [(kind, factor) for kind, factor in shapes if kind.cause is not Cause.UNKNOWN]
    likely = sorted(known, key=lambda shape: -best.get(id(shape[0]), -math.inf))[:_IN_PAIRS]
    half = math.sqrt(float(np.mean(settings.half_windows**2)))
    found: list[tuple[_Parts, float]] = []
    for one, other in itertools.combinations(likely, 2):
        if one[0].cause is other[0].cause:
            continue
        prior = (1 - _PRIOR_NONE) * _TOGETHER * one[0].share * other[0].share / whole**2
        for angle in _PROPORTIONS:
            parts = (one[0], one[1] * math.cos(angle)), (other[0], other[1] * math.sin(angle))
            size = math.sqrt(float(np.mean(combined(parts, settings) ** 2)))
            if size > 1e-9:
                scaled = tuple((kind, factor * half / size) for kind, factor in parts)
                found.append((scaled, prior / len(_PROPORTIONS)))
    return found


def _odds(found: Sequence[Explanation], one_sided: float) -> tuple[dict[Cause, float], dict[tuple[Cause, ...], float]]:
    odds: dict[Cause, float] = {}
    together: dict[tuple[Cause, ...], float] = {}
    for each in found:
        if not each.leans or one_sided <= 0:
            continue
        share = each.share / one_sided
        for cause in each.causes:
            odds[cause] = odds.get(cause, 0.0) + share / len(each.causes)
        if len(each.causes) > 1:
            key = tuple(sorted(each.causes))
            together[key] = together.get(key, 0.0) + share
    by_share = lambda pair: -pair[1]  # noqa: E731
    return dict(sorted(odds.items(), key=by_share)), dict(sorted(together.items(), key=by_share))


def _bias(
    found: Sequence[Explanation], settings: Settings, *, causes: tuple[Cause, ...] | None = None
) -> tuple[float, float, float]:
    """Return the mean error over the shots with its 95 % interval: low, mean, high, mm of defocus.

    As if it were one-sided, so that no error is what the interval may hold and not what it is drawn to. Of ``causes``
    only the shots in which they show are counted. Amounts are read by one eye against one ruler, and written in round
    figures: what that puts them off by, all of them alike, no number of frames narrows.
    """
    leaning = [each for each in found if each.leans and each.share > 0]
    shots = settings.shots
    if causes:
        touched = np.zeros(len(shots), dtype=bool)
        for each in leaning:
            if set(each.causes) <= set(causes):
                touched |= each.shape(settings) != 0
        shots = np.where(touched, shots, 0.0) if touched.any() else shots
    weights = shots / shots.sum()
    means = np.array([float(weights @ each.bias(settings)) for each in leaning])
    sds = np.array([abs(float(weights @ each.shape(settings))) * each.fit.size_sd for each in leaning])
    read = _READ_SHARE * np.abs(means) if settings.exact.sum() else 0.0
    mixture = Mixture.of(np.array([each.share for each in leaning]), means, sds**2 + read**2)
    low, high = mixture.interval()
    return low, mixture.mean, high


def _scatter(found: Sequence[Explanation], settings: Settings) -> float:
    """Return the scatter over what the aids show, as a mean over settings and explanations."""
    weights = settings.shots / settings.shots.sum()
    return sum(each.share * float(weights @ (each.fit.scatter / settings.defocus)) for each in found)


def _verdict(
    found: Sequence[Explanation], settings: Settings, one_sided: float, hits: Proportion, count: int
) -> FocusPattern:
    if count < LEAST_SHOTS:
        return FocusPattern.NOT_ENOUGH
    good = hits.share >= _GOOD_SHARE and hits.low >= _GOOD_LOW
    if one_sided >= CARRIED:
        leaning = [each for each in found if each.leans and each.share > _NEGLIGIBLE]
        weights = settings.shots / settings.shots.sum()
        off = sum(each.share * float(weights @ np.abs(each.bias(settings) / settings.half_windows)) for each in leaning)
        small = off / sum(each.share for each in leaning) < _SMALL_BIAS
        return FocusPattern.ON_TARGET if good and (small or hits.share > CARRIED) else FocusPattern.ONE_SIDED
    if good:
        return FocusPattern.ON_TARGET
    if count < LEAST_FOR_MISSES or one_sided > 0.5 or hits.high >= _GOOD_SHARE:
        return FocusPattern.NOT_ENOUGH
    beyond = float(settings.shots @ (settings.defocus > settings.half_windows)) / count
    well_used = _scatter(found, settings) <= _STEADY_USE
    return FocusPattern.WINDOW if beyond >= 0.5 and well_used else FocusPattern.SCATTERED
