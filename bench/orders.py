"""The order of a stage found in four ways: as one reads, greedily, with 2-opt, by a general solver."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from ortools.constraint_solver import pywrapcp, routing_enums_pb2

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.job import Job, job_linework
from chorograph_core.route.choosing import find_ways, items_of
from chorograph_core.route.following import STARTS
from chorograph_core.route.laying_out import laid_out
from chorograph_core.route.model import State
from chorograph_core.route.tours import Item, Search, Tour, best_tour
from chorograph_core.route.works import works_of

SCALE = 100_000


@dataclass
class Problem:
    """The stations of one stage in one pass, as items of a tour with the prices between their doors."""

    name: str
    items: list[Item]
    table: np.ndarray
    places: np.ndarray


def problems(job: Job, cache: DrawingCache) -> list[Problem]:
    """All of a job's stages that have an order to be found."""
    drawn = job_linework(job, cache)
    machine = job.loaded_machine
    lay = laid_out(job.chart, job.zones, drawn, machine, job.policy, State(), cache)
    cut = machine.cut_seconds / 60
    works = works_of(lay, job.policy)
    kinds: dict[str, list] = {}
    for work in works:
        kinds.setdefault(work.stage.name, []).append(work)
    for members in kinds.values():
        find_ways(members, machine, job.policy.effort)
    found = []
    for work in works:
        if len(work.ways) < 3:
            continue
        options = [[(way.entry, way.leave, way.price) for way in ways] for ways in work.ways]
        items, table, _ = items_of(work.ground, options, cut)
        middles = np.array([bundle.station.middle for bundle in work.bundles])
        found.append(Problem(f"{work.stage.name}, pass {work.stage.reach}", items,
                             table, middles))  # fmt: skip
    return found


def with_doors(problem: Problem, order: Sequence[int]) -> float:
    """The price of an order, each thing by the doors that suit best."""
    return Search(problem.items, problem.table).in_order(order).price


def reading(problem: Problem) -> float:
    """Row by row."""
    rows = np.round(problem.places[:, 1] / 4)
    return with_doors(problem, np.lexsort((problem.places[:, 0], rows)).tolist())


def greedy(problem: Problem) -> list[int]:
    """Always the nearest that is left, by any of its doors."""
    left = set(range(1, len(problem.items)))
    order = [0]
    while left:
        exits = problem.items[order[-1]].exits
        near = {k: problem.table[np.ix_(exits, problem.items[k].entries)].min() for k in left}
        order.append(min(near, key=lambda k: (near[k], k)))
        left.remove(order[-1])
    return order


def greedy_two_opt(problem: Problem) -> float:
    """The greedy order, turned round stretch by stretch until nothing gets cheaper."""
    return Search(problem.items, problem.table).settled(greedy(problem)).price


def ours(problem: Problem, rounds: int) -> Tour:
    """As the planner finds it."""
    return best_tour(problem.items, problem.table, rounds=rounds, starts=STARTS)


def solver(problem: Problem, seconds: float) -> float:
    """OR-Tools routing in the same time: each option a node, one of each thing to be visited."""
    options = [(k, o) for k, item in enumerate(problem.items) for o in range(len(item.entries))]
    entries = np.array([problem.items[k].entries[o] for k, o in options])
    exits = np.array([problem.items[k].exits[o] for k, o in options])
    own = np.array([problem.items[k].prices[o] for k, o in options])
    costs = np.zeros((len(options) + 1, len(options) + 1), np.int64)
    costs[1:, 1:] = np.round((problem.table[np.ix_(exits, entries)] + own[None, :]) * SCALE)
    costs[0, 1:] = np.round(own * SCALE)
    matrix = costs.tolist()
    manager = pywrapcp.RoutingIndexManager(len(matrix), 1, 0)
    model = pywrapcp.RoutingModel(manager)
    call = model.RegisterTransitMatrix(matrix)
    model.SetArcCostEvaluatorOfAllVehicles(call)
    for k in range(len(problem.items)):
        group = [manager.NodeToIndex(n + 1) for n, (j, _) in enumerate(options) if j == k]
        model.AddDisjunction(group, 10**10)
    search = pywrapcp.DefaultRoutingSearchParameters()
    search.first_solution_strategy = routing_enums_pb2.FirstSolutionStrategy.PATH_CHEAPEST_ARC
    search.local_search_metaheuristic = (
        routing_enums_pb2.LocalSearchMetaheuristic.GUIDED_LOCAL_SEARCH
    )
    search.time_limit.FromMilliseconds(max(20, round(seconds * 1000)))
    found = model.SolveWithParameters(search)
    return found.ObjectiveValue() / SCALE if found else float("inf")
