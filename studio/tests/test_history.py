"""What happened on a job goes out with its studio and comes in on another installation."""

from __future__ import annotations

import io
import json
import uuid
import zipfile
from datetime import date, timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.urls import reverse
from django.utils import timezone

from chorograph_core.route import State
from chorograph_core.steering.standing import as_it_is_now
from chorograph_core.tests import long
from studio.agenda.models import Week
from studio.finishing.billing import bill
from studio.finishing.models import Measured
from studio.job_log.recording import record
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.prices.lists import prices_of
from studio.progress.models import last_told
from studio.quotes.documents import issue
from studio.quotes.models import Acceptance
from studio.stitching.following import facts_of, followed
from studio.stitching.job_times import log_of_job
from studio.stitching.models import Tap
from studio.tests.helpers import ChangingCase, make_plan, make_studio
from studio.workbench.linework import DRAWINGS

LONG_AGO = timezone.now() - timedelta(days=400)


class HistoryTests(ChangingCase):
    def setUp(self):
        super().setUp()
        make_plan(self.job)
        now = followed(self.job, "in")
        for number, leg in enumerate(now.legs[:6]):
            Tap.objects.create(
                job=self.job, key=uuid.uuid4(), device="tablet", seq=number, kind="done",
                at=LONG_AGO + timedelta(minutes=5 * number), plan=now.plan.pk, leg=number,
                lasted=60.0 + number, facts=facts_of(leg, self.core), author=self.anna,
            )  # fmt: skip
        self.client.post(
            reverse("standing-here", args=[self.job.pk]),
            {"seconds": str(int(now.plan.figures["seconds"] / 2)), "plan": now.plan.pk},
        )
        record(self.job, "note", "shade the second border", self.anna)
        first = issue(self.job, self.anna, ["light", "full"])
        self.quote = issue(self.job, self.anna, ["light", "full"])
        self.assertEqual(self.quote.supersedes, first)
        Acceptance.objects.create(quote=self.quote, level="full", name="Odalys")
        bill(self.job, {"extra0": "quilting", "amount0": "90"}, self.anna)
        Measured.objects.create(job=self.job, widths=[24.0, 24.5, None], heights=[24.0, 24.0, 24.0])
        Week.objects.update_or_create(studio=self.studio, defaults={"hours": [3.0] * 7})
        self.studio.days_off.create(first=date(2030, 5, 1), last=date(2030, 5, 9), why="the sea")
        Job.objects.filter(pk=self.job.pk).update(closed=date(2026, 3, 4), level="full")

    def whole(self) -> bytes:
        return self.client.get(reverse("studio-data")).content

    def taken_in(self, data: bytes, name: str = "Barn"):
        barn, (berta,) = make_studio(name)
        self.client.force_login(berta)
        file = SimpleUploadedFile("studio.zip", data)
        answer = self.client.post(reverse("studio-data-in"), {"whole": file})
        self.assertEqual(answer.status_code, 200)
        return Job.objects.select_related("head", "studio").get(studio=barn), answer

    @long
    def test_all_of_it_is_there_again(self):
        job, answer = self.taken_in(self.whole())
        self.assertEqual(answer.context["faults"], [])
        old, new = self.job, job
        self.assertEqual((new.closed, new.level), (date(2026, 3, 4), "full"))
        self.assertEqual(
            list(new.quotes.values_list("number", "document", "at")),
            list(old.quotes.values_list("number", "document", "at")),
        )
        newest = new.quotes.first()
        self.assertEqual(newest.supersedes, new.quotes.last())
        self.assertEqual((newest.accepted.level, newest.accepted.name), ("full", "Odalys"))
        self.assertEqual(
            list(new.invoices.values_list("number", "document", "at")),
            list(old.invoices.values_list("number", "document", "at")),
        )
        self.assertEqual(new.measured.get().widths, [24.0, 24.5, None])
        mine, theirs = log_of_job(old), log_of_job(new)
        self.assertEqual(theirs.pieces, mine.pieces)
        self.assertTrue(theirs.pieces)
        notes = [entry for entry in new.book.all() if entry.kind == "note"]
        self.assertIn("shade the second border", [entry.text for entry in notes])
        self.assertIn("anna", " ".join(entry.who for entry in notes))
        # What is stitched is stitched: planning goes on from there.
        states = [
            as_it_is_now(core_job(job), told.standing(), told.layers, DRAWINGS)[0]
            for job, told in ((old, last_told(old)), (new, last_told(new)))
        ]
        self.assertEqual(states[0], states[1])
        self.assertNotEqual(states[1], State())
        self.assertEqual(Week.objects.get(studio=job.studio).hours, [3.0] * 7)
        self.assertEqual(job.studio.days_off.get().why, "the sea")
        # The next ones get the next numbers.
        self.assertEqual(prices_of(job.studio).last_number, self.quote.number)
        self.assertEqual(prices_of(job.studio).last_invoice, 1)
        for name in ("quotes", "log", "finish", "book"):
            self.assertEqual(self.client.get(reverse(name, args=[job.pk])).status_code, 200, name)

    def changed(self, change) -> bytes:
        """The file with what happened changed by somebody."""
        out = io.BytesIO()
        old = zipfile.ZipFile(io.BytesIO(self.whole()))
        with zipfile.ZipFile(out, "w") as box:
            for name in old.namelist():
                data = old.read(name)
                if name.startswith("history/"):
                    past = json.loads(data)
                    data = json.dumps(change(past) or past).encode()
                box.writestr(name, data)
        return out.getvalue()

    @long
    def test_what_is_not_sound_is_left_out_and_the_rest_is_there(self):
        def spoil(past):
            del past["quotes"][0]["document"]["levels"]
            past["quotes"][1]["accepted"]["level"] = "velvet"
            past["invoices"][0]["document"].pop("currency")
            past["taps"][2]["facts"] = "none"
            past["measured"][0]["widths"] = [9000, 2, 3]
            past["stands"]["state"] = {"done": 7}
            past["book"] += [{"kind": "note", "text": "no day"}, 7, None]

        job, answer = self.taken_in(self.changed(spoil))
        self.assertTrue(answer.context["faults"])
        self.assertFalse(job.quotes.exists() or job.invoices.exists() or job.taps.exists())
        self.assertFalse(job.measured.exists())
        self.assertIsNone(last_told(job))
        self.assertTrue(job.book.filter(text="shade the second border").exists())
        self.assertFalse(job.book.filter(text="no day").exists())
        for name in ("quotes", "log", "finish", "book", "stitch"):
            self.assertEqual(self.client.get(reverse(name, args=[job.pk])).status_code, 200, name)

    @long
    def test_junk_in_place_of_what_happened(self):
        odd = {"book": 3, "taps": [[]], "quotes": {}, "stands": [1], "closed": "never", "level": 9}
        files = [self.changed(lambda past, junk=junk: junk) for junk in ("x", [1], odd)]
        for number, data in enumerate(files):
            with self.subTest(number):
                job, _ = self.taken_in(data, f"Barn{number}")
                self.assertEqual(self.client.get(reverse("book", args=[job.pk])).status_code, 200)

    @long
    def test_a_number_that_is_here_already_is_not_given_twice(self):
        data = self.whole()
        self.taken_in(data)
        file = SimpleUploadedFile("studio.zip", data)
        answer = self.client.post(reverse("studio-data-in"), {"whole": file})
        self.assertIn("here already", " ".join(answer.context["faults"]))
