"""What travel and layings of the ruler together cost at least over the ditches of one place: the way that
travels least may break lines that a longer one leaves whole.

All bounds here are on what comes besides the fewest layings (`Fewest.along`), by the node one ends at.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from chorograph_core.route.bound import path_bound
from chorograph_core.route.fewest import Fewest
from chorograph_core.route.ground import Ground
from chorograph_core.route.network import Network, Trail
from chorograph_core.route.subsets import to_each
from chorograph_core.route.travel_costs import costs_by
from chorograph_core.route.walks import far_end

LINKS = 14
"""Links, or lines, up to which all orders of them are gone through."""
BENT = 6
"""Links up to which, where some are bent, all ways to part them into stretches are."""


def by_links(
    fewest: Fewest, links: Sequence[int], at: dict[int, int], table: np.ndarray, laying: float
) -> np.ndarray:
    """Over all orders of the *links*, each gone either way: minutes (k,) by the node one ends at, *at* its
    place in the *table* (k, k) of ways between nodes. *laying* is what a laying costs."""
    network = fewest.network
    ways = [(number, start) for number in links for start in _ends(network, number, at)]
    pairs = [(at[start], at[far_end(network, number, start)]) for number, start in ways]
    entry, leave = np.array(pairs).T
    ahead = table[np.ix_(leave, entry)] - laying * fewest.savings(ways)
    both_ways = [pairs[k : k + 2] for k in range(0, len(pairs), 2)]
    over = fewest.one_by_one(links) - fewest.along(links)
    return to_each(both_ways, table, [0] * len(links), ahead) + laying * over


def by_stretches(
    fewest: Fewest, links: Sequence[int], at: dict[int, int], table: np.ndarray, laying: float
) -> np.ndarray:
    """The same where *links* are bent, so that how often a ruler is laid along some is told only by all that
    is gone in one go: over all ways to part them into such stretches, and all orders of these."""
    network = fewest.network
    number_of = {number: k for k, number in enumerate(links)}
    stretches: dict[tuple[int, int, int], int] = {}
    for way in _stretches(network, links):
        done = sum(1 << number_of[number] for number, _ in way)
        key = (done, at[way[0][1]], at[far_end(network, *way[-1])])
        count = fewest.in_one_go(way)
        stretches[key] = min(count, stretches.get(key, count))
    size, full = len(table), (1 << len(links)) - 1
    best = np.full((full + 1, size), np.inf)
    for (done, _, stop), count in stretches.items():
        best[done, stop] = min(best[done, stop], laying * count)
    for done in range(1, full):
        if np.isfinite(best[done]).any():
            come = (best[done][:, None] + table).min(axis=0)
            for (more, start, stop), count in stretches.items():
                if not done & more:
                    price = come[start] + laying * count
                    best[done | more, stop] = min(best[done | more, stop], price)
    return best[full] - laying * fewest.along(links)


def by_lines(
    fewest: Fewest, links: Sequence[int], at: dict[int, int], table: np.ndarray
) -> np.ndarray | None:
    """The travel alone, of whoever breaks none of the lines that are laid once more when they are broken;
    None where there are too many lines, or it cannot be told which links make up one."""
    network = fewest.network
    whole = fewest.unbroken(links)
    if whole is None or len(whole) > LINKS:
        return None
    ends = [(at[line[0][1]], at[far_end(network, *line[-1])]) for line in whole]
    # Other places have their lines in another order.
    ends.sort(key=lambda pair: (min(pair), max(pair)))
    return to_each([[(a, b), (b, a)] for a, b in ends], table, [0] * len(ends))


def over_lines(
    fewest: Fewest, links: Sequence[int], ground: Ground, cut: float, enough: float
) -> float:
    """Lower bound on the travel alone, *enough* at most, of whoever breaks none of the lines of *links* where
    that lays the ruler once more; 0 where it cannot be told."""
    network = fewest.network
    whole = fewest.unbroken(links)
    if whole is None:
        return 0.0
    ends = np.array([n for line in whole for n in (line[0][1], far_end(network, *line[-1]))])
    nodes, place = np.unique(ends, return_inverse=True)
    table = ground.prices(nodes, cut)[np.ix_(place, place)]
    # Lines that end at one node have each a door of their own there.
    lines = [Trail(str(k), (2 * k,), (2 * k + 1,), False, "", 0, True) for k in range(len(whole))]
    return path_bound(lines, costs_by(range(len(ends)), table, cut), enough=enough)


def _ends(network: Network, number: int, at: dict[int, int]) -> list[int]:
    return sorted(network.ends[number].tolist(), key=at.__getitem__)


def _stretches(network: Network, links: Sequence[int]) -> Iterator[list[tuple[int, int]]]:
    """All ways over some of the *links*, as (link, node it is entered from), each gone once."""
    at: dict[int, list[int]] = {}
    for number in links:
        for node in set(network.ends[number].tolist()):
            at.setdefault(node, []).append(number)
    ahead = [[(number, int(node))] for number in links for node in network.ends[number]]
    while ahead:
        way = ahead.pop()
        yield way
        stop, gone = far_end(network, *way[-1]), {number for number, _ in way}
        ahead += [[*way, (number, stop)] for number in at[stop] if number not in gone]
