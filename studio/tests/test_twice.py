"""Sent twice, written over, done at once: nothing doubles and nothing is lost."""

import uuid
from concurrent.futures import ThreadPoolExecutor
from decimal import Decimal
from unittest import mock

from django.db import connection
from django.test import Client, TransactionTestCase
from django.urls import reverse

from chorograph_core.tests import long
from studio.accounts.models import Sent
from studio.agenda.models import DayOff
from studio.job_log.models import Entry
from studio.jobs.models import Job
from studio.prices.lists import prices_of
from studio.quotes import documents
from studio.quotes.documents import QuoteError, accept, issue
from studio.quotes.models import ClientLink
from studio.shelf.models import Ruler, Thread
from studio.tests.helpers import make_job, make_studio
from studio.tests.test_jobs import GOOD


class AtOnceCase(TransactionTestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft", "anna")
        self.job = make_job(self.studio, self.anna)
        self.client.force_login(self.anna)

    def all_at_once(self, *works):
        """Do all *works* at the same time, each in a connection of its own."""

        def run(work):
            try:
                return work()
            finally:
                connection.close()

        with ThreadPoolExecutor(len(works)) as pool:
            return list(pool.map(run, works))

    def post_at_once(self, address, values, times=2):
        clients = []
        for _ in range(times):
            client = Client()
            client.force_login(self.anna)
            clients.append(client)
        return self.all_at_once(*[lambda c=c: c.post(address, values) for c in clients])


class TwiceTests(AtOnceCase):
    """The same form, sent a second time while the first is under way or long done."""

    def forms(self):
        book = reverse("book", args=[self.job.pk])
        return {
            "note": (book, {"text": "Client rang."}, lambda: Entry.objects.filter(
                job=self.job, text="Client rang.").count()),
            "job": (reverse("new-job"), GOOD, lambda: Job.objects.filter(
                title=GOOD["title"]).count()),
            "consult": (reverse("new-consult"), {"title": "Quite new", "width": "60", "height": "70"},
                        lambda: Job.objects.filter(title="Quite new").count()),
            "day off": (reverse("calendar"), {"what": "off", "first": "2026-12-24",
                        "last": "2026-12-26", "why": "holidays"}, DayOff.objects.count),
            "quote": (reverse("quotes", args=[self.job.pk]), {"levels": ["light", "full"]},
                      lambda: self.job.quotes.count()),
        }  # fmt: skip

    @long
    def test_one_form_works_once(self):
        for name, (address, values, count) in self.forms().items():
            token = str(uuid.uuid4())
            with self.subTest(name):
                before = count()
                answers = self.post_at_once(address, {**values, "once": token}, 3)
                answers.append(self.client.post(address, {**values, "once": token}))
                self.assertEqual([each.status_code for each in answers], [302] * 4)
                self.assertEqual(len({each["Location"] for each in answers}), 1)
                self.assertEqual(count() - before, 1)
                self.client.post(address, {**values, "once": str(uuid.uuid4())})
                self.assertEqual(count() - before, 2, "another form is another work")

    @long
    def test_the_pages_carry_the_mark(self):
        for address in (reverse("book", args=[self.job.pk]), reverse("new-job"),
                        reverse("new-consult"), reverse("calendar"), reverse("jobs"),
                        reverse("quotes", args=[self.job.pk])):  # fmt: skip
            with self.subTest(address):
                self.assertContains(self.client.get(address), 'name="once"')

    def test_a_refused_form_can_be_sent_again(self):
        token = str(uuid.uuid4())
        address = reverse("book", args=[self.job.pk])
        self.assertEqual(self.client.post(address, {"text": "", "once": token}).status_code, 400)
        self.assertFalse(Sent.objects.filter(token=token).exists())
        self.assertEqual(
            self.client.post(address, {"text": "Now it does.", "once": token}).status_code, 302
        )

    def test_a_mark_that_is_none_does_no_harm(self):
        address = reverse("book", args=[self.job.pk])
        for mark in ("", "7", "x" * 5000):
            self.assertEqual(
                self.client.post(address, {"text": "Hello.", "once": mark}).status_code, 302
            )


class StaleTests(AtOnceCase):
    """A form that shows what is no longer so brings nothing old back."""

    def page_of(self, address):
        form = self.client.get(address).context["form"]
        values = {name: form[name].value() for name in form.fields}
        return {k: v for k, v in values.items() if v is not None and v is not False}

    def test_a_stale_shelf_form_brings_no_yards_back(self):
        thread = Thread.objects.create(studio=self.studio, name="rust 40", key="rust-40",
                                       colour="#a04a20", weight=40, cone=1100, left=250)  # fmt: skip
        address = reverse("shelf-item", args=["thread", thread.pk])
        old = self.page_of(address)
        Thread.objects.filter(pk=thread.pk).update(left=90)
        answer = self.client.post(address, {**old, "name": "rust, 40"})
        self.assertContains(answer, "Somebody changed this", status_code=400)
        self.assertContains(answer, "rust, 40", status_code=400)
        thread.refresh_from_db()
        self.assertEqual((thread.left, thread.name), (90, "rust 40"))
        # She looks at both, and sends what the page now shows.
        fresh = self.page_of(address)
        self.assertRedirects(
            self.client.post(address, {**fresh, "name": "rust, 40"}), reverse("shelf")
        )
        thread.refresh_from_db()
        self.assertEqual((thread.left, thread.name), (90, "rust, 40"))

    def test_what_it_now_says_is_told_in_centimetres_and_only_what_differs(self):
        self.studio.units = "cm"
        self.studio.save()
        ruler = Ruler.objects.create(studio=self.studio, name="Long edge", shape="straight", length=12,
                                     etched="1/2, 1", thickness=Decimal("0.25"))  # fmt: skip
        address = reverse("shelf-item", args=["ruler", ruler.pk])
        old = self.page_of(address)
        Ruler.objects.filter(pk=ruler.pk).update(length=10, etched="1/2, 2")
        answer = self.client.post(address, {**old, "name": "Longer edge"})
        told = answer.context["form"].non_field_errors()[0]
        self.assertIn("Name: Long edge; Length of the edge, cm: 25.4; Etched", told)
        self.assertIn("cm from the edge: 1.27, 5.08.", told)
        self.assertNotIn("Thickness", told)
        self.assertNotIn("inch", told)

    def test_an_older_price_form_does_not_undo_a_newer_one(self):
        prices = prices_of(self.studio)
        address = reverse("prices")
        old = self.page_of(address)
        for bound in (page := self.client.get(address).context["levels"]).management_form:
            old[bound.html_name] = bound.value()
        for each in page:
            old |= {
                bound.html_name: bound.value()
                for bound in each
                if bound.value() not in (None, False)
            }
        newer = {**old, "wished_hourly": "71", "levels-0-rate": "0.09"}
        kept = self.client.post(address, newer)
        self.assertEqual(kept.status_code, 302, kept.context and [
            kept.context["form"].errors, kept.context["levels"].errors])  # fmt: skip
        answer = self.client.post(address, old)
        self.assertContains(answer, "Somebody changed this", status_code=400)
        prices.refresh_from_db()
        self.assertEqual((prices.wished_hourly, prices.levels.first().rate), (71, Decimal("0.09")))
        # Nor does one that only holds older levels.
        fresh = {**old, "wished_hourly": "71", "seen": self.page_of(address)["seen"]}
        self.assertEqual(self.client.post(address, fresh).status_code, 400)
        self.assertEqual(prices.levels.first().rate, Decimal("0.09"))


class AtTheSameMomentTests(AtOnceCase):
    def test_six_links_at_once_leave_one_open(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        address = reverse("make-link", args=[self.job.pk, quote.number])
        answers = self.post_at_once(address, {"days": "30"}, 6)
        self.assertEqual({each.status_code for each in answers}, {302})
        self.assertEqual(ClientLink.objects.filter(quote=quote, revoked__isnull=True).count(), 1)

    def test_six_threads_of_one_name_at_once(self):
        values = {
            "name": "moss 40",
            "colour": "#446633",
            "weight": "40",
            "cone": "1100",
            "left": "500",
        }
        answers = self.post_at_once(reverse("shelf-new", args=["thread"]), values, 6)
        self.assertTrue({each.status_code for each in answers} <= {302, 400})
        made = Thread.objects.filter(studio=self.studio, name="moss 40")
        self.assertEqual(made.count(), sum(each.status_code == 302 for each in answers))
        self.assertEqual(len({thread.key for thread in made}), made.count())

    @long
    def test_an_acceptance_never_lands_on_a_quote_that_was_replaced(self):
        for turn in range(6):
            with self.subTest(turn=turn):
                job = make_job(self.studio, self.anna)
                first = issue(job, self.anna, ["light", "full"])

                def refused(work, *given):
                    try:
                        return work(*given)
                    except QuoteError as error:
                        return error

                self.all_at_once(
                    lambda f=first: refused(accept, f.pk, "full", "Client"),
                    lambda j=job: refused(documents.issue, j, self.anna, ["light", "full"]),
                )
                first = type(first).objects.get(pk=first.pk)
                both = first.accepted is not None and first.newer is not None
                self.assertFalse(both)
                self.assertTrue(first.accepted is not None or first.newer is not None)

    def test_quick_undo_is_no_conflict(self):
        from dataclasses import replace

        from studio.jobs.revisions import change_job

        for title in ("one", "two", "three"):
            change_job(self.job.pk, None, self.anna, lambda c, t=title: replace(c, title=t), title)
        base = Job.objects.get(pk=self.job.pk).head.number
        address = reverse("step-back", args=[self.job.pk, "undo"])
        # Three touches before the page knew of the first: all on the revision it shows.
        for _ in range(3):
            self.assertEqual(self.client.post(address, {"base": base}).status_code, 204)
        self.assertEqual(Job.objects.get(pk=self.job.pk).title, "A small top")

    def test_a_broken_connection_does_not_use_up_the_mark(self):
        token = str(uuid.uuid4())
        address = reverse("book", args=[self.job.pk])
        with mock.patch("studio.job_log.views.record", side_effect=RuntimeError("gone")):
            self.client.raise_request_exception = False
            self.client.post(address, {"text": "Once.", "once": token})
        self.client.post(address, {"text": "Once.", "once": token})
        self.assertEqual(Entry.objects.filter(job=self.job, text="Once.").count(), 1)
