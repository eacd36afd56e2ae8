"""Another job like one, a job put away, deleted and taken back; what clients said, and how much."""

from __future__ import annotations

from datetime import timedelta

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from chorograph_core.tests import long
from studio.bookings.models import Booking
from studio.finishing.billing import bill
from studio.job_log.models import Entry
from studio.jobs.keeping import clear_out
from studio.jobs.models import Body, Job, Revision
from studio.jobs.revisions import change_job, core_job, undo
from studio.photos.keeping import keep_photo
from studio.quotes.documents import accept, comment, issue, make_link, signed
from studio.quotes.models import Acceptance
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_plan, make_studio, path_of
from studio.tests.pictures import png


class KeepingCase(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        stock(self.studio)
        self.job = make_job(self.studio, self.anna)
        self.client.force_login(self.anna)

    def do(self, what, status=302):
        answer = self.client.post(reverse("job-keep", args=[self.job.pk]), {"what": what})
        self.assertEqual(answer.status_code, status, answer.content[:300])
        self.job.refresh_from_db()
        return answer


class KeepingTests(KeepingCase):
    def test_another_like_it_has_its_top_and_designs_and_none_of_its_promises(self):
        change_job(self.job.pk, 1, self.anna, lambda core: core.__class__(
            **{**core.__dict__, "due": "2030-01-01"}), "due")  # fmt: skip
        self.do("duplicate")
        twin = Job.objects.exclude(pk=self.job.pk).get()
        one, two = (
            core_job(Job.objects.select_related("head").get(pk=pk)) for pk in (self.job.pk, twin.pk)
        )
        self.assertEqual(two.title, "A small top, again")
        self.assertEqual((two.legend, two.zones), (one.legend, one.zones))
        self.assertEqual((one.due, two.due), ("2030-01-01", ""))

    @long
    def test_put_away_it_is_out_of_list_and_calendar_and_its_thread_is_free(self):
        make_plan(self.job)
        self.assertTrue(Booking.objects.filter(job=self.job, state="reserved").exists())
        self.do("away")
        for name in ("jobs", "calendar"):
            self.assertNotContains(self.client.get(reverse(name)), "A small top")
        self.assertContains(self.client.get(reverse("resting")), "A small top")
        self.assertFalse(Booking.objects.filter(job=self.job).exists())
        self.do("away", 422)
        self.do("out")
        self.assertContains(self.client.get(reverse("jobs")), "A small top")
        self.assertTrue(Booking.objects.filter(job=self.job, state="reserved").exists())

    def test_deleted_it_can_be_taken_back_for_a_month_and_then_is_gone_with_its_files(self):
        change_job(self.job.pk, 1, self.anna, lambda core: core.__class__(
            **{**core.__dict__, "client": "Marit"}), "client")  # fmt: skip
        self.job.refresh_from_db()
        undo(self.job.pk, self.job.head.number, self.anna)
        with self.captureOnCommitCallbacks(execute=True):
            photo = keep_photo(self.job, self.anna, SimpleUploadedFile("a.png", png()), "whole", "")
        files = [path_of(photo, small) for small in (False, True)]
        other = make_job(self.studio, self.anna)
        self.do("drop")
        self.assertEqual(clear_out(), 0)
        self.do("back")
        self.do("drop")
        Job.objects.filter(pk=self.job.pk).update(dropped=timezone.now() - timedelta(days=31))
        with self.captureOnCommitCallbacks(execute=True):
            self.assertEqual(clear_out(), 1)
        self.assertFalse(any(file.exists() for file in files))
        # What another job shares with it stays.
        self.assertEqual(Job.objects.get(), other)
        self.assertTrue(Body.objects.filter(pk=other.head.body_id).exists())
        self.assertEqual(
            Body.objects.count(), len(set(Revision.objects.values_list("body", flat=True)))
        )
        self.assertEqual(self.client.get(reverse("work", args=[other.pk])).status_code, 200)

    def test_behind_a_link_to_a_deleted_job_nothing_is_left_until_it_is_taken_back(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        address = reverse("client", args=[signed(make_link(quote, self.anna))])
        self.do("drop")
        answer = self.client.post(address, {"do": "accept", "level": "light", "name": "Marit"})
        self.assertContains(answer, "taken back", status_code=410)
        self.assertFalse(Acceptance.objects.exists())
        self.do("back")
        self.assertContains(self.client.get(address), "A small top")

    @long
    def test_what_rests_twice_rests_until_it_comes_back_from_both(self):
        make_plan(self.job)
        for what, there in (("away", 0), ("drop", 0), ("back", 0), ("out", 1)):
            self.do(what)
            with self.subTest(what):
                self.assertEqual(Booking.objects.filter(job=self.job).count() > 0, bool(there))
        said = list(self.job.book.filter(kind="note").values_list("text", flat=True))
        self.assertEqual(said[::-1], ["Put away.", "Deleted; to be taken back within 30 days.",
                                      "Taken back.", "Taken out again."])  # fmt: skip

    def test_what_was_billed_is_not_deleted(self):
        bill(self.job, {"extra0": "quilting", "amount0": "9"}, self.anna)
        self.assertContains(self.do("drop", 422), "put the job away instead", status_code=422)
        self.assertIsNone(self.job.dropped)
        self.do("dance", 422)


class HeardTests(KeepingCase):
    def test_what_a_client_said_stands_above_the_list_until_it_was_seen(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        comment(quote, "Marit", "Could the border be plainer?")
        accept(quote.pk, "light", "Marit")
        page = self.client.get(reverse("jobs"))
        self.assertContains(page, "Could the border be plainer?")
        self.assertContains(page, "accepted")
        self.client.post(reverse("notices-seen"))
        self.assertNotContains(self.client.get(reverse("jobs")), "plainer")
        _, (berta,) = make_studio("Barn")
        self.client.force_login(berta)
        self.assertNotContains(self.client.get(reverse("jobs")), "plainer")

    def test_a_link_takes_no_flood(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        address = reverse("client", args=[signed(make_link(quote, self.anna))])
        self.client.logout()
        said = [self.client.post(address, {"do": "comment", "name": "M", "text": f"so {k}"}).status_code
                for k in range(12)]  # fmt: skip
        # That it was looked at for the first time stands in the book as well.
        self.assertEqual(said, [302] * 4 + [409] * 8)
        answer = self.client.post(
            address, {"do": "comment", "name": "M", "text": "kept in the field"}
        )
        self.assertContains(answer, "a lot in a short time", status_code=409)
        self.assertContains(answer, "kept in the field", status_code=409)
        Entry.objects.update(at=timezone.now() - timedelta(minutes=5))
        again = self.client.post(address, {"do": "comment", "name": "M", "text": "later"})
        self.assertEqual(again.status_code, 302)
