"""Why focus misses: where it lands, and which cause carries the evidence.

Explanations are compared by how likely the shots are under each (:mod:`evidence`), and none is called before its odds
carry it: a lean to one side at 9 to 1 against none, a cause at 9 to 1 against all others.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from welotrope.core.hand.causes import Cause, CauseShape, possible
from welotrope.core.hand.evidence import Fit, fit_all
from welotrope.core.hand.shot import Settings
from welotrope.core.optics.elementwise import FloatArray
from welotrope.core.stats.mixture import Mixture
from welotrope.core.stats.proportions import Proportion, wilson

CARRIED = 0.9  # what must be believed of something before it is called
LEAST_SHOTS, LEAST_FOR_MISSES = 5, 8
_PRIOR_NONE = 0.5
_SMALL_BIAS = 0.25  # in half windows: smaller leaves hits alone
_GOOD_SHARE, _GOOD_LOW = 0.8, 0.6
_STEADY_USE = 1.5  # times what the aid shows, up to which a hand uses it well
_NEGLIGIBLE = 1e-4


class Verdict(StrEnum):
    """Where focus lands."""

    NOT_ENOUGH = "not enough"
    ON_TARGET = "on target"
    ONE_SIDED = "one-sided"
    SCATTERED = "scattered"
    WINDOW = "window"


@dataclass(frozen=True, kw_only=True)
class Explanation:
    """A shape of a cause, or None for no lean: how much it is believed, and what it makes of the shots.

    ``factor`` makes the shape half a window large on the whole.
    """

    kind: CauseShape | None
    factor: float
    share: float
    fit: Fit

    @property
    def cause(self) -> Cause | None:
        """The cause, or None for no lean."""
        return None if self.kind is None else self.kind.cause

    def shape(self, settings: Settings) -> FloatArray:
        """Return its error at settings for a size of one, mm of extension."""
        return np.zeros(len(settings.stops)) if self.kind is None else self.factor * self.kind.over(settings)

    def bias(self, settings: Settings) -> FloatArray:
        """Return the error it tells at settings, mm of extension, positive behind."""
        found: FloatArray = self.fit.size * self.shape(settings)
        return found


@dataclass(frozen=True, kw_only=True)
class Diagnosis:
    """Where focus lands, and why.

    Parameters
    ----------
    verdict
        Where it lands.
    cause
        What does it, when it is one-sided and the odds carry one; None else.
    odds
        How much each cause is believed, given that it is one-sided: shares of one, the likeliest first.
    one_sided
        How much it is believed that it is one-sided at all, 0 to 1.
    bias_mm, bias_low_mm, bias_high_mm
        Mean error over the shots, mm of extension, positive behind, with its 95 % interval.
    shown_mm
        The same where the likeliest cause shows, such as with one aid only.
    hits
        Share of hits with its interval; None without any shot.
    scatter_z
        Scatter of the hand over what the aids show.
    shots
        How many it rests on.
    explanations
        What it was held against.
    """

    verdict: Verdict
    cause: Cause | None
    odds: Mapping[Cause, float]
    one_sided: float
    bias_mm: float
    bias_low_mm: float
    bias_high_mm: float
    shown_mm: float
    hits: Proportion | None
    scatter_z: float
    shots: int
    explanations: tuple[Explanation, ...]


NOTHING = Diagnosis(
    verdict=Verdict.NOT_ENOUGH, cause=None, odds={}, one_sided=0.5, bias_mm=0.0, bias_low_mm=-math.inf,
    bias_high_mm=math.inf, shown_mm=0.0, hits=None, scatter_z=1.0, shots=0, explanations=(),
)  # fmt: skip


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
    one_sided = sum(each.share for each in found if each.cause is not None)
    odds = _odds(found, one_sided)
    low, mean, high = _bias(found, settings)
    share = wilson(hits, count)
    if share is None:
        raise ValueError(f"{hits} hits of {count} shots")
    verdict = _verdict(found, settings, one_sided, share, count)
    likeliest = next(iter(odds), None)
    carried = likeliest is not None and odds[likeliest] >= CARRIED and verdict is Verdict.ONE_SIDED
    return Diagnosis(
        verdict=verdict, cause=likeliest if carried else None, odds=odds, one_sided=one_sided, bias_mm=mean,
        bias_low_mm=low, bias_high_mm=high,
        shown_mm=_shown(found, settings, likeliest), hits=share, scatter_z=_scatter(found, settings), shots=count,
        explanations=tuple(found),
    )  # fmt: skip


def _weighed(settings: Settings) -> list[Explanation]:
    """Return every explanation with how much it is believed, the likeliest first."""
    shapes = possible(settings)
    whole = sum(each.share for each, _ in shapes)
    priors = [(None, 0.0, _PRIOR_NONE)]
    priors += [(each, factor, (1 - _PRIOR_NONE) * each.share / whole) for each, factor in shapes]  # type: ignore[misc]
    fits = fit_all(settings, [None if each is None else factor * each.over(settings) for each, factor, _ in priors])
    rows = [
        (each, factor, math.log(prior) + one.log_evidence, one)
        for (each, factor, prior), held in zip(priors, fits, strict=True)
        for one in held
    ]
    logs = np.array([log for _, _, log, _ in rows])
    shares = np.exp(logs - logs.max())
    shares /= shares.sum()
    found = [
        Explanation(kind=each, factor=factor, share=float(share), fit=one)
        for (each, factor, _, one), share in zip(rows, shares, strict=True)
    ]
    return sorted(found, key=lambda each: -each.share)


def _odds(found: Sequence[Explanation], one_sided: float) -> dict[Cause, float]:
    odds: dict[Cause, float] = {}
    for each in found:
        if each.cause is not None and one_sided > 0:
            odds[each.cause] = odds.get(each.cause, 0.0) + each.share / one_sided
    return dict(sorted(odds.items(), key=lambda pair: -pair[1]))


def _bias(found: Sequence[Explanation], settings: Settings) -> tuple[float, float, float]:
    """Return the mean error over the shots with its 95 % interval: low, mean, high, mm of extension.

    As if it were one-sided, so that no error is what the interval may hold and not what it is drawn to.
    """
    leaning = [each for each in found if each.cause is not None and each.share > 0]
    weights = settings.shots / settings.shots.sum()
    means = np.array([float(weights @ each.bias(settings)) for each in leaning])
    sds = np.array([abs(float(weights @ each.shape(settings))) * each.fit.size_sd for each in leaning])
    mixture = Mixture.of(np.array([each.share for each in leaning]), means, sds**2)
    low, high = mixture.interval()
    return low, mixture.mean, high


def _shown(found: Sequence[Explanation], settings: Settings, cause: Cause | None) -> float:
    """Return the mean error over the shots in which a cause shows, mm of extension."""
    held = [each for each in found if each.cause is cause and each.share > 0]
    total = sum(each.share for each in held)
    shown = 0.0
    for each in held:
        touched = settings.shots * (each.shape(settings) != 0)
        shown += each.share / total * float(touched @ each.bias(settings)) / max(float(touched.sum()), 1.0)
    return shown


def _scatter(found: Sequence[Explanation], settings: Settings) -> float:
    """Return the scatter over what the aids show, as a mean over settings and explanations."""
    weights = settings.shots / settings.shots.sum()
    return sum(each.share * float(weights @ (each.fit.scatter / settings.defocus)) for each in found)


def _verdict(
    found: Sequence[Explanation], settings: Settings, one_sided: float, hits: Proportion, count: int
) -> Verdict:
    if count < LEAST_SHOTS:
        return Verdict.NOT_ENOUGH
    good = hits.share >= _GOOD_SHARE and hits.low >= _GOOD_LOW
    if one_sided >= CARRIED:
        leaning = [each for each in found if each.cause is not None and each.share > _NEGLIGIBLE]
        weights = settings.shots / settings.shots.sum()
        off = sum(each.share * float(weights @ np.abs(each.bias(settings) / settings.halves)) for each in leaning)
        small = off / sum(each.share for each in leaning) < _SMALL_BIAS
        return Verdict.ON_TARGET if good and (small or hits.share > CARRIED) else Verdict.ONE_SIDED
    if good:
        return Verdict.ON_TARGET
    if count < LEAST_FOR_MISSES or one_sided > 0.5 or hits.high >= _GOOD_SHARE:
        return Verdict.NOT_ENOUGH
    beyond = float(settings.shots @ (settings.defocus > settings.halves)) / count
    well_used = _scatter(found, settings) <= _STEADY_USE
    return Verdict.WINDOW if beyond >= 0.5 and well_used else Verdict.SCATTERED
