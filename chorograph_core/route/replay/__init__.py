"""Replay a route as a needle would, and list every fault.

Shares nothing with the planner and trusts nothing of it: it is given linework that was drawn anew from
the document, the chart, the policy and the steps. Checked: every run is stitched exactly once, as it was
drawn or, where a design may be drawn again between other doorways, by rules of its own (the zone filled
as the first drawing filled it, begun and ended at doorways); every ditch exactly once; the needle never
jumps without a cut; ditches come before fillings and outer layers before inner ones, where the policy
asks for it; hidden travel really lies in a seam, edge travel on the edge; no step leaves the top or
touches a forbidden zone; what holds the layers is put in and taken out again; every stitch is in its
own thread; rulers are laid as often as the lines need, and inches, seconds and thread add up.
"""

from __future__ import annotations

from collections.abc import Sequence

from chorograph_core.designs.figures import figures_in, wholes
from chorograph_core.designs.legend import LayerLinework
from chorograph_core.route.replay.directions import GOOD, direction_faults
from chorograph_core.route.replay.ditches import ditch_faults
from chorograph_core.route.replay.edges import edge_faults, tuck_faults
from chorograph_core.route.replay.followed import path_faults, wish_faults
from chorograph_core.route.replay.holding import holding_faults
from chorograph_core.route.replay.in_turn import turn_faults
from chorograph_core.route.replay.needle import needle_faults
from chorograph_core.route.replay.places import order_faults, place_faults
from chorograph_core.route.replay.reach import reach_faults
from chorograph_core.route.replay.runs import run_faults
from chorograph_core.route.replay.spools import spool_faults, used_faults
from chorograph_core.route.replay.sums import fading_faults, mark_faults, sum_faults
from chorograph_core.route.replay.wished import wished_faults

__all__ = ["replay"]


def replay(
    chart, zones, asked: Sequence[LayerLinework], policy, steps, machine=None,
    done: frozenset[str] = frozenset(), threaded: str = "", passes=(), tucks=None, since=None,
    unkept=(), used=None, handover=None,
) -> list[str]:  # fmt: skip
    """Return the faults of *steps*, each a sentence; an empty list when the route is clean.

    *asked* is the linework of the document; *steps* are objects with kind, points (n, 2), inches,
    thread, zone, run, how, reach, station and path. What *done* names was stitched before and may not
    come again; *threaded* is in the needle as they begin. With *machine* the sums are checked too, and
    that the *passes* (number, top, bottom) are no deeper than it reaches. *tucks* says how many each side of
    the border takes. Of the state *since* which they go on: lines of runs that were left in their middle,
    lines in the ditch that are sewn, where the needle is down and which pass is under the machine. *unkept*
    are the places of wishes of which the route itself says that it does not keep them, *used* the inches of
    each thread that it says it takes. *handover* is what the document has stitched on another machine.
    """
    over = len(steps)
    if handover is None:
        faults = _replayed(chart, zones, asked, policy, steps, machine, done, threaded, passes, tucks, since,
                           unkept)  # fmt: skip
    else:
        moved = since is not None and "moved" in since.done
        over = next(
            (k for k, step in enumerate(steps) if step.kind == "move"), 0 if moved else over
        )

        def part(asked, policy, steps, machine, done, passes, since):
            needle = "" if since is None else since.thread
            return _replayed(chart, zones, asked, policy, steps, machine, done, needle, passes, tucks, since,
                             unkept, held=False)  # fmt: skip

        faults = turn_faults(
            chart, zones, asked, policy, steps, machine, handover, since, passes, part
        )
    if machine is None:
        return faults
    return faults + used_faults(
        wholes(asked), lambda number: machine if number < over else handover.machine, steps, used
    )


def _replayed(
    chart, zones, asked, policy, steps, machine, done, threaded, passes, tucks, since, unkept, held=True,
) -> list[str]:  # fmt: skip
    """The same for what is stitched on one machine; *held*: what holds the layers is looked at too."""
    faults: list[str] = []
    runs = {}
    # What was drawn over many zones as one is stitched as one.
    asked = wholes(asked)
    for one in asked:
        for number, run in enumerate(one.linework.runs):
            if one.key(number) not in done:
                runs[one.key(number)] = (one, run)
    one_way = machine.directions if machine is not None and machine.directions in GOOD else ""
    rolled = policy.oversized == "roll" and (machine is None or machine.kind == "frame")
    begun = {} if since is None else {each.run: each.stitched for each in since.begun}
    faults += needle_faults(steps, threaded, None if since is None else since.needle)
    shapes = {zone.id: zone.polygon for zone in zones}
    figures = figures_in(asked)
    shapes |= {key: figure.space.polygon for key, figure in figures.items()}
    faults += reach_faults(chart, passes, machine, steps, None if since is None else since.lies)
    faults += edge_faults(chart, passes, policy, machine, steps, done)
    faults += tuck_faults(chart, tucks or {}, passes, steps, done)
    if held:
        faults += holding_faults(chart, zones, figures, policy, machine, steps, done)
    faults += path_faults(steps, one_way)
    faults += direction_faults(steps, one_way)
    faults += wish_faults(policy, steps)
    faults += wished_faults(policy, steps, shapes, figures, unkept)
    left = {} if since is None else {each.run: len(each.rest) for each in since.begun}
    faults += run_faults(runs, shapes, policy, steps, passes, one_way, rolled, begun, left)
    faults += ditch_faults(chart, zones, asked, steps, done, () if since is None else since.sewn)
    faults += order_faults(chart, shapes, runs, policy, steps, passes)
    outlined = {one.zone for one in asked if any(run.in_ditch for run in one.linework.runs)}
    faults += place_faults(chart, zones, outlined, policy, steps)
    if machine is not None:
        # Of what was begun before only a part is ruled now.
        whole = {key: each for key, each in runs.items() if key not in begun}
        faults += sum_faults(whole, machine, steps)
        faults += spool_faults(asked, machine, steps, since)
        faults += fading_faults(runs, policy, steps)
        if since is None or since.fresh:
            faults += mark_faults(runs, policy, machine, steps)
    return faults
