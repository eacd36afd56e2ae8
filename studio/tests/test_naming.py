"""Groups of zones with a name: kept through cuts, joins and new charts, and with the archive."""

from django.urls import reverse

from chorograph_core.formats import read_archive, write_archive
from studio.jobs.models import Job
from studio.routes.planning import plan_of
from studio.tests.helpers import ChangingCase, make_plan


class NamingTests(ChangingCase):
    def groups(self) -> dict:
        return {group.name: list(group.zones) for group in self.core.groups}

    def test_named_shown_and_dropped(self):
        names = [zone.id for zone in self.core.zones[:3]]
        self.change("name", zones=",".join(names), name="corner squares")
        self.assertEqual(self.groups(), {"corner squares": names})
        page = self.client.get(reverse("work", args=[self.job.pk]), {"stage": "zones"})
        self.assertContains(page, "corner squares, <b>3</b>")
        self.change("name", zones=names[0], name="corner squares")
        self.assertEqual(self.groups(), {"corner squares": names[:1]})
        self.assertEqual(read_archive(write_archive(self.core)), self.core)
        self.change("unname", name="corner squares")
        self.assertEqual(self.groups(), {})
        for act, values in (("unname", {"name": "x"}), ("name", {"zones": names[0], "name": " "}),
                            ("name", {"zones": "", "name": "x"}),
                            ("name", {"zones": "z:0", "name": "x"})):  # fmt: skip
            with self.subTest(act, **values):
                self.change(act, 422, **values)

    def test_a_name_goes_on_to_the_pieces_and_leaves_what_is_gone(self):
        big = max(self.core.zones, key=lambda zone: zone.polygon.area).id
        other = next(zone.id for zone in self.core.zones if zone.id != big)
        self.change("name", zones=f"{big},{other}", name="wide ones")
        self.change("cut", zones=big, tool="centre")
        self.assertEqual(set(self.groups()["wide ones"]), {other, f"{big}/1", f"{big}/2"})
        self.client.post(reverse("step-back", args=[self.job.pk, "undo"]), {"base": 3})
        self.assertEqual(set(self.groups()["wide ones"]), {big, other})
        zone = next(z for z in self.core.zones if z.id == other)
        touching = next(z.id for z in self.core.zones if z.id not in (other, big)
                        and z.polygon.boundary.intersection(zone.polygon).length > 0.5)  # fmt: skip
        self.change("join", zones=f"{other},{touching}")
        self.assertEqual(self.groups()["wide ones"], [big])

    def test_a_name_leaves_the_route_standing(self):
        make_plan(self.job)
        self.change("name", zones=self.core.zones[0].id, name="first")
        job = Job.objects.select_related("head").get(pk=self.job.pk)
        self.assertEqual(plan_of(job).state, "done")
