"""An order of one's own: all sisters follow, it is proved, and it costs what is said."""

from dataclasses import replace
from unittest import TestCase

from chorograph_core.designs.caching import DrawingCache
from chorograph_core.designs.legend import Entry, Layer
from chorograph_core.formats import read_archive, write_archive
from chorograph_core.job import Job, job_linework, order_price, replayed_job
from chorograph_core.layouts import Border, StraightSet
from chorograph_core.tests import long
from chorograph_core.tests.plans import planned_job
from chorograph_core.tests.shapes import designed
from chorograph_core.zones import zones_from_patches


def visits(route, key: str) -> list[list[str]]:
    """The runs of each place where a path is followed, in order."""
    found: list[list[str]] = []
    now: list[str] | None = None
    for step in route.steps:
        if step.kind == "path":
            now = [] if step.path == key else None
            if now is not None:
                found.append(now)
        elif now is not None and step.kind == "stitch" and step.run not in now:
            now.append(step.run)
    return found


class WishTests(TestCase):
    @classmethod
    def setUpClass(cls):
        cls.job = designed(StraightSet(2, 3, 9, ("nine_patch",), 1, borders=(Border(3),)))
        cls.cache = DrawingCache()
        cls.route = planned_job(cls.job, cls.cache)
        cls.key = next(p.key for p in cls.route.paths if p.title == "nine patch")
        cls.runs = visits(cls.route, cls.key)[0]

    def wished(self, order):
        policy = replace(self.job.policy, orders=(tuple(order),))
        job = replace(self.job, policy=policy)
        return job, planned_job(job, self.cache)

    @long
    def test_all_sisters_follow_the_order_turned_as_they_lie(self):
        order = [self.runs[3], *self.runs[:3], *self.runs[4:]]
        job, route = self.wished(order)
        self.assertEqual(replayed_job(job, route), [])
        key = next(p.key for p in route.paths if p.title == "nine patch")
        found = visits(route, key)
        self.assertEqual(len(found), 6)
        mine = next(names for names in found if set(names) == set(order))
        self.assertIn(mine, (order, order[::-1]))
        self.assertEqual(len([p for p in route.paths if p.title == "nine patch"]), 1)
        # The planner's own route is not in this order, and the replay says so.
        self.assertTrue(any("order that was wanted" in f for f in replayed_job(job, self.route)))

    def test_the_price_is_never_less_than_nothing(self):
        same = order_price(self.job, tuple(self.runs), self.cache)
        self.assertEqual(same.places, 6)
        worse = order_price(self.job, tuple(self.runs[::2] + self.runs[1::2]), self.cache)
        for price in (same, worse):
            self.assertGreaterEqual(price.wished, price.best - 1e-6)
        self.assertGreater(worse.wished, same.wished)

    def test_what_it_costs_is_what_the_route_loses_more_on_the_path(self):
        order = self.runs[::2] + self.runs[1::2]
        price = order_price(self.job, tuple(order), self.cache)
        _, route = self.wished(order)
        key = next(p.key for p in route.paths if p.title == "nine patch")
        lost = 0.0
        for step in route.steps:
            if step.path == key and step.kind in ("travel", "start") and not step.run:
                lost += step.price
        self.assertAlmostEqual(lost, price.places * price.wished, delta=0.05 * lost)

    def test_runs_that_are_gone_and_circles_are_told(self):
        self.assertIn("no longer", order_price(self.job, ("z:a/1/0", "z:b/1/0"), self.cache).fault)

    @long
    def test_an_inner_layer_first_is_refused(self):
        chart = StraightSet(1, 1, 8, ("nine_patch",)).chart()
        zones = tuple(zones_from_patches(chart))
        layers = (
            Layer("inset_echo", {"count": 1}, "indigo"),
            Layer("meander", {"gap": 0.4}, "indigo"),
        )
        job = Job(
            "Layers", chart, zones, legend=(Entry("e", "", tuple(z.id for z in zones), layers),)
        )
        names = [one.key(k) for one in job_linework(job) for k in range(len(one.linework.runs))]
        backwards = tuple(sorted(names, key=lambda name: -int(name.rsplit("/", 2)[1])))
        price = order_price(job, backwards, DrawingCache())
        self.assertIn("before it is framed", price.fault)
        quick = replace(job.policy, effort=1)
        policy = replace(quick, orders=(backwards,))
        # Stored all the same, it is left aside and the route is as it would be.
        route = planned_job(replace(job, policy=policy))
        self.assertEqual(
            [s.run for s in route.steps if s.kind == "stitch"],
            [s.run for s in planned_job(replace(job, policy=quick)).steps if s.kind == "stitch"],
        )

    def test_the_archive_keeps_it(self):
        job, _ = self.wished(self.runs)
        self.assertEqual(read_archive(write_archive(job)).policy.orders, job.policy.orders)
