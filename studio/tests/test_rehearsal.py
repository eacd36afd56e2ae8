"""The simulated machine: a process of its own, put a plan in, and its log kept as a tablet's is."""

from __future__ import annotations

import json
import urllib.error
import urllib.request
from datetime import timedelta
from io import StringIO

from django.core.management import CommandError, call_command
from django.test import SimpleTestCase
from django.utils import timezone

from chorograph_core.stitching.rehearsing import Quilter
from chorograph_core.tests import long
from simulated_machine.machine import Machine
from studio.stitching.models import Tap
from studio.stitching.rehearsal import keep, machine, rehearse
from studio.tests.test_stitching import TapCase


class ProtocolTests(SimpleTestCase):
    def test_what_cannot_be_read_is_answered_with_a_sentence(self):
        good = {"kind": "fill", "seconds": 5, "parts": {"ditch": 5}}
        odd = [{"kind": "x"}, {**good, "parts": [1]}, {**good, "ends": ["a", "b"]}, 3]
        for bad in (None, [], {}, {"legs": []}, *({"legs": [each]} for each in odd)):
            with self.subTest(bad), self.assertRaisesRegex(ValueError, r"\.$"):
                Machine().put_in(bad)
        one = Machine()
        with self.assertRaises(ValueError):
            one.go({})
        one.put_in({"legs": [good]})
        for bad in ([], {"quilter": {"wings": 2}}, {"seed": "x"}, {"stands": "..."}, {"pace": {}}):
            with self.subTest(bad), self.assertRaisesRegex(ValueError, r"\.$"):
                one.go(bad)

    @long
    def test_over_the_wire_at_a_pace_and_left_off(self):
        with machine() as address:

            def ask(path, values=None):
                data = json.dumps(values).encode() if values is not None else None
                with urllib.request.urlopen(f"{address}{path}", data, timeout=10) as answer:
                    return json.load(answer)

            leg = {"kind": "fill", "seconds": 60, "parts": {"ditch": 60}, "ends": [3, 4]}
            self.assertEqual(ask("/plan", {"legs": [leg] * 50}), {"legs": 50})
            ask("/go", {"pace": 1})
            self.assertEqual(ask("/events?after=0")["events"], [])
            ask("/stop", {})
            ask("/go", {"pace": 0})
            told = ask("/events?after=0")
            while not told["finished"]:
                told = ask("/events?after=0")
            self.assertEqual(sum(e["kind"] == "done" for e in told["events"]) >= 50, True)
            self.assertEqual(told["position"], [3, 4])
            later = ask("/events?after=10")["events"]
            self.assertEqual(later[0]["n"], 10)
            for path, values in (("/nothing", {}), ("/events?after=x", None), ("/plan", [])):
                with self.subTest(path), self.assertRaises(urllib.error.HTTPError):
                    ask(path, values)


class RehearsalTests(TapCase):
    @long
    def test_a_job_is_rehearsed_and_kept_when_it_is_wished(self):
        said = StringIO()
        call_command("rehearse", "A small", stdout=said)
        self.assertIn("laying the ruler", said.getvalue())
        self.assertFalse(Tap.objects.exists())
        call_command("rehearse", "A small", "--keep", "--hours", "0.2", stdout=said)
        self.assertEqual(Tap.objects.filter(kind="stop").count(), 1)
        now = self.now
        self.assertEqual(
            now.stands.count("x"), Tap.objects.filter(kind="done").values("leg").distinct().count()
        )
        for name in ("Nothing", "A small"):
            if name == "A small":
                self.change("ban", zones=self.core.zones[0].id)
            with self.assertRaisesRegex(CommandError, r"\."):
                call_command("rehearse", name, stdout=said)

    @long
    def test_what_the_machine_did_stands_as_it_did_it(self):
        now = self.now
        made = rehearse(self.job, self.core, now, Quilter(skips=0.1, others=0.1), 4)
        keep(self.job, now, made.events, timezone.now() - timedelta(days=3), self.anna, "in")
        stands = self.now
        self.assertEqual(set(stands.stands) - set("xo"), set())
        self.assertEqual({e["leg"] for e in made.events if e["kind"] == "other"},
                         {k for k, s in enumerate(stands.stands) if s == "o"})  # fmt: skip
        self.job.refresh_from_db()
        self.assertAlmostEqual(self.job.planned["behind"], self.job.planned["minutes"], delta=0.5)
