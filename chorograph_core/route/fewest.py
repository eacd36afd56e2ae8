"""How often a ruler is laid at least along the ditches, whatever way they are gone."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence

import numpy as np

from chorograph_core.route.network import Network
from chorograph_core.route.passes import EDGE, Pass
from chorograph_core.route.walks import STRAIGHT, Tracing, turn_between
from chorograph_core.rulers import Reach, count_placements
from chorograph_core.rulers.shapes import CURVE, LEG, SHORT


def fewest_layings(
    network: Network, required: Sequence[int], reach: Reach | float, passes: Sequence[Pass] = ()
) -> int:
    """Times that a ruler must be laid along *required* links, however they are gone: each straight line
    once for every length of the ruler on it, and anew where no one of *passes* holds what follows; of
    bent ones each link as often as it takes by itself, less one wherever a laying may go on into the
    next."""
    reach = Reach(reach) if isinstance(reach, int | float) else reach
    tracing = Tracing(network, list(required), joined=False)
    return sum(
        max(
            _fewest_along(_line(network, links), reach.straight, passes),
            _one_by_one(network, links, reach),
        )
        for links in tracing.walks()
    )


def _one_by_one(network: Network, links: Sequence[tuple[int, int]], reach: Reach) -> int:
    """Layings of links one after the other, less what whoever goes over several at once may save where two
    meet."""
    alone = sum(_alone(network.links[number].points, reach) for number, _ in links)
    return alone - sum(_saved(network, *pair) for pair in _meeting(links))


def _alone(line: np.ndarray, reach: Reach) -> int:
    """Layings of one link. What turns little may be taken for straight together with what it goes on
    into, and from its other end a line may fall into fewer pieces."""
    headings = np.unwrap(np.arctan2(*np.diff(line, axis=0).T[::-1]))
    if np.abs(np.diff(headings)).sum() <= CURVE:
        return _fewest_along(line, reach.straight, ())
    return min(count_placements(line, reach), count_placements(line[::-1], reach))


def _saved(network: Network, one: tuple[int, int], two: tuple[int, int]) -> int:
    """Layings that may be saved where one link goes on into the next: none at a corner, one on a straight
    line; of two curves that become one, the piece before or after may go into it too."""
    last, first = (network.links[number].way(start) for number, start in (one, two))
    leg = max(math.dist(last[-2], last[-1]), math.dist(first[0], first[1]))
    turn = turn_between(network, one, two)
    if leg > LEG:
        return int(turn <= STRAIGHT)
    return 2 * (turn <= CURVE)


def _meeting(links: Sequence[tuple[int, int]]) -> Iterator[tuple[tuple[int, int], tuple[int, int]]]:
    """Links that meet: one after the other, and of a closed line the last and the first."""
    yield from itertools.pairwise(links)
    if len(links) > 2:
        yield links[-1], links[0]


def _fewest_along(line: np.ndarray, reach: float, passes: Sequence[Pass]) -> int:
    """Layings along one line: at a sharp corner there is a new one; between corners only the length
    counts, since how a bend is best parted depends on where one begins."""
    steps = np.diff(line, axis=0)
    legs = np.hypot(*steps.T)
    headings = np.arctan2(steps[:, 1], steps[:, 0])
    turns = np.abs((np.diff(headings) + np.pi) % (2 * np.pi) - np.pi)
    # Long legs draw no curve: where they turn at all there is a corner.
    most = np.where(np.maximum(legs[:-1], legs[1:]) > LEG, STRAIGHT, CURVE)
    stops = [0, *(np.flatnonzero(turns > most) + 1).tolist(), len(legs)]
    return sum(
        _fewest_between(line[first : stop + 1], legs[first:stop], reach, passes)
        for first, stop in itertools.pairwise(stops)
    )


def _fewest_between(
    part: np.ndarray, legs: np.ndarray, reach: float, passes: Sequence[Pass]
) -> int:
    """Layings along a part without corners, each as far as ruler and pass allow: none does with fewer,
    since whatever lies within a laying can be laid as well."""
    inches = float(legs.sum())
    if inches < SHORT:
        return 0
    if len(passes) < 2:
        return math.ceil(inches / reach - 1e-9)
    along = np.concatenate([[0.0], np.cumsum(legs)])
    within = [stretch for each in passes for stretch in _within(part[:, 1], along, each)]
    count, at = 0, 0.0
    while at <= inches - SHORT:
        ends = [stop for start, stop in within if start <= at + EDGE and stop > at + EDGE]
        # Beyond the end of a pass a stretch too short for a laying costs nothing.
        at = min(at + reach, max(ends, default=inches) + SHORT)
        count += 1
    return count


def _within(levels: np.ndarray, along: np.ndarray, each: Pass) -> list[tuple[float, float]]:
    """From where to where along a line with these *levels* down the quilt it lies in a pass."""
    found: list[tuple[float, float]] = []
    for k, (one, two) in enumerate(itertools.pairwise(levels.tolist())):
        low, high = 0.0, 1.0
        if abs(two - one) > 1e-9:
            low, high = sorted(((each.top - EDGE - one) / (two - one),
                                (each.bottom + EDGE - one) / (two - one)))  # fmt: skip
            low, high = max(low, 0.0), min(high, 1.0)
        elif not each.top - EDGE <= one <= each.bottom + EDGE:
            continue
        if low > high:
            continue
        start, stop = (float(along[k] + share * (along[k + 1] - along[k])) for share in (low, high))
        if found and start - found[-1][1] < 1e-6:
            found[-1] = (found[-1][0], stop)
        else:
            found.append((start, stop))
    return found


def _line(network: Network, links: Sequence[tuple[int, int]]) -> np.ndarray:
    parts = [network.links[number].way(start) for number, start in links]
    return np.concatenate([parts[0], *(part[1:] for part in parts[1:])])
