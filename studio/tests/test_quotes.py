"""Quotes are frozen, numbered, accepted once; a link shows one of them and nothing else."""

import re
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from datetime import timedelta
from decimal import Decimal
from unittest import mock

from django.db import IntegrityError, connection, transaction
from django.test import Client, TestCase, TransactionTestCase
from django.urls import reverse
from django.utils import timezone

from chorograph_core.estimating import Measures
from chorograph_core.tests import long
from studio.agenda.diary import promises_of
from studio.agenda.models import Week
from studio.jobs.models import Job
from studio.jobs.revisions import change_job, core_job
from studio.outbox.models import Letter
from studio.prices.lists import core_prices, prices_of
from studio.quotes import documents
from studio.quotes.documents import QuoteError, accept, issue, make_link, revoke, signed
from studio.quotes.holding import DAYS_HELD, held_until
from studio.quotes.models import Acceptance, ClientLink, Quote
from studio.quotes.pricing import dated_offers
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_plan, make_studio


class QuoteCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft", "anna")
        cls.other, (cls.berta,) = make_studio("Barn", "berta")
        cls.job = make_job(cls.studio, cls.anna)

    def setUp(self):
        self.client.force_login(self.anna)

    def fresh(self):
        return Job.objects.select_related("head", "studio").get(pk=self.job.pk)


class IssuingTests(QuoteCase):
    def test_numbers_follow_one_another_in_each_studio(self):
        elsewhere = make_job(self.other, self.berta)
        numbers = [issue(self.job, self.anna, ["light", "full"]).number for _ in range(3)]
        self.assertEqual(numbers, [1, 2, 3])
        self.assertEqual(issue(elsewhere, self.berta, ["light", "full"]).number, 1)

    def test_frozen_whatever_happens_to_prices_and_job(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        before = self.client.get(reverse("quote", args=[self.job.pk, 1])).content
        prices_of(self.studio).levels.update(rate=9, name="Dearer")
        change_job(
            self.job.pk, None, self.anna, lambda core: replace(core, title="Renamed"), "renamed"
        )
        self.assertEqual(self.client.get(reverse("quote", args=[self.job.pk, 1])).content, before)
        with self.assertRaises(TypeError):
            quote.save()

    def test_superseded_not_edited(self):
        first = issue(self.job, self.anna, ["light", "full"])
        link = make_link(first, self.anna)
        second = issue(self.job, self.anna, ["allover", "light", "full", "heirloom"])
        self.assertEqual(second.supersedes, first)
        self.assertContains(
            self.client.get(reverse("quote", args=[self.job.pk, 1])), "Superseded by quote 2"
        )
        self.assertIsNotNone(ClientLink.objects.get(pk=link.pk).revoked)
        with self.assertRaisesMessage(QuoteError, "newer quote"):
            accept(first.pk, "light", "Marit")
        with self.assertRaisesMessage(QuoteError, "superseded"):
            make_link(Quote.objects.get(pk=first.pk), self.anna)
        with self.assertRaises(IntegrityError), transaction.atomic():
            Quote.objects.create(
                studio=self.studio, job=self.job, number=9, document={}, supersedes=first
            )

    def test_two_to_four_levels(self):
        for levels in ([], ["full"], ["moon", "full"]):
            answer = self.client.post(reverse("quotes", args=[self.job.pk]), {"levels": levels})
            self.assertContains(answer, "two to four levels", status_code=422)
        self.assertEqual(Quote.objects.count(), 0)

    def test_an_accepted_quote_stands(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        accept(quote.pk, "full", "Marit")
        answer = self.client.post(
            reverse("quotes", args=[self.job.pk]), {"levels": ["light", "full"]}
        )
        self.assertContains(answer, "the accepted one stays as it is", status_code=422)
        self.assertEqual(Quote.objects.count(), 1)
        self.assertEqual(core_job(self.fresh()).intake.wishes.level, "full")
        said = [entry.text for entry in self.job.book.all()]
        self.assertTrue(any("Quote 1 accepted: Full custom" in text for text in said))

    def test_a_client_who_wants_more_gets_a_new_quote_and_the_old_one_is_kept(self):
        first = issue(self.job, self.anna, ["light", "full"])
        accept(first.pk, "light", "Marit")
        form = {"levels": ["full", "heirloom"], "anew": "1"}
        self.client.post(reverse("quotes", args=[self.job.pk]), form)
        second = Quote.objects.get(number=2)
        self.assertEqual(Acceptance.objects.get().quote_id, first.pk)
        self.assertEqual(core_job(self.fresh()).intake.wishes.level, "light")
        accept(second.pk, "full", "Marit")
        self.assertEqual(core_job(self.fresh()).intake.wishes.level, "full")
        page = self.client.get(reverse("quotes", args=[self.job.pk]))
        self.assertContains(page, "Followed by quote 2")
        self.assertEqual(Acceptance.objects.count(), 2)

    def test_the_link_stands_beside_its_quote(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        self.client.post(reverse("make-link", args=[self.job.pk, quote.number]), {"days": "12"})
        address = reverse("client", args=[signed(ClientLink.objects.get())])
        self.assertContains(self.client.get(reverse("quotes", args=[self.job.pk])), address)

    def test_page_and_pdf(self):
        issue(self.job, self.anna, ["light", "full"])
        self.assertContains(
            self.client.get(reverse("quotes", args=[self.job.pk])), "Light custom $140"
        )
        pdf = self.client.get(reverse("quote-pdf", args=[self.job.pk, 1]))
        self.assertTrue(pdf.content.startswith(b"%PDF"))
        self.assertEqual(self.client.get(reverse("quote", args=[self.job.pk, 7])).status_code, 404)


class HoldingTests(QuoteCase):
    """A date that was promised is kept free until it lapses; who accepts in time has it."""

    def held(self):
        prices = core_prices(prices_of(self.studio))
        return [p for p in promises_of(self.studio, prices) if p.job == str(self.job.pk)]

    def test_an_open_quote_keeps_the_dates_of_every_level_free(self):
        def large(core):
            measures = Measures((80, 80, 80), (90, 90, 90))
            return replace(core, intake=replace(core.intake, measures=measures))

        change_job(self.job.pk, None, self.anna, large, "measured")
        quote = issue(self.fresh(), self.anna, ["light", "full"])
        levels = {each["key"]: each for each in quote.document["levels"]}
        promises = self.held()
        self.assertTrue(all(promise.held for promise in promises))
        self.assertAlmostEqual(sum(p.hours for p in promises), levels["full"]["booked"], places=1)
        self.assertEqual(max(p.due for p in promises).isoformat(), levels["full"]["earliest"])
        # Another job is not promised into those hours: without the quote it would be ready sooner.
        other = make_job(self.studio, self.anna)
        change_job(other.pk, None, self.anna, large, "measured")
        other = Job.objects.select_related("head", "studio").get(pk=other.pk)
        after = dated_offers(other, core_job(other))
        Job.objects.filter(pk=self.job.pk).update(held={})
        before = dated_offers(other, core_job(other))
        self.assertTrue(all(b.earliest <= a.earliest for a, b in zip(after, before, strict=True)))
        self.assertTrue(any(b.earliest < a.earliest for a, b in zip(after, before, strict=True)))

    def test_it_lapses_with_the_link_and_cannot_be_accepted_then(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        self.assertEqual(held_until(quote), timezone.localdate() + timedelta(days=DAYS_HELD))
        make_link(quote, self.anna, 30)
        self.assertEqual(held_until(quote), timezone.localdate() + timedelta(days=30))
        with mock.patch("django.utils.timezone.now", return_value=timezone.now() + timedelta(40)):
            self.assertFalse(any(promise.held for promise in self.held()))
            with self.assertRaisesMessage(QuoteError, "no longer held"):
                accept(quote.pk, "full", "Marit")
        accept(quote.pk, "full", "Marit")
        (own,) = self.held()
        full = next(each for each in quote.document["levels"] if each["key"] == "full")
        self.assertEqual((own.held, own.due.isoformat()), (False, full["earliest"]))
        # One rule: what the quote booked is what the calendar books.
        self.assertAlmostEqual(own.all_hours, full["booked"], delta=0.01)

    def test_nothing_is_promised_for_what_is_left_of_today_unless_somebody_says_so(self):
        today = timezone.localdate()
        first = dated_offers(self.job, core_job(self.job))[0].earliest
        self.assertGreater(first, today)
        Week.objects.create(
            studio=self.studio, hours=[16.0] * 7, today=today, left_today=16, long_day=16
        )
        self.assertEqual(dated_offers(self.job, core_job(self.job))[0].earliest, today)

    def test_it_is_not_begun_before_the_quilt_is_there_and_binding_counts(self):
        later = timezone.localdate() + timedelta(days=60)

        def here_later(core):
            wishes = replace(core.intake.wishes, bind=True)
            intake = replace(core.intake, at_hand=later.isoformat(), wishes=wishes)
            return replace(core, intake=intake)

        plain = dated_offers(self.job, core_job(self.job))[0]
        change_job(self.job.pk, None, self.anna, here_later, "later")
        job = self.fresh()
        dated = dated_offers(job, core_job(job))[0]
        self.assertGreaterEqual(dated.earliest, later)
        edge = 2 * sum(core_job(job).size)
        self.assertAlmostEqual(dated.hours - plain.hours, edge / 90, places=5)

    def test_a_planned_route_says_hours_and_thread(self):
        stock(self.studio)
        self.job.refresh_from_db()
        plan = make_plan(self.fresh())
        job = self.fresh()
        dated = next(d for d in dated_offers(job, core_job(job)) if d.planned)
        self.assertAlmostEqual(dated.offer.hours[0], plan.figures["minutes"] / 60 + 1.5)
        thread = next(line for line in dated.offer.lines if line.name == "Thread")
        reserved = sum(booking.yards for booking in job.thread_bookings.all())
        self.assertAlmostEqual(float(thread.detail.split()[0].replace(",", "")), float(reserved),
                               delta=1)  # fmt: skip


class PriceListTests(QuoteCase):
    def form(self, **changes):
        page = self.client.get(reverse("prices"))
        form, levels = page.context["form"], page.context["levels"]
        data = {name: form[name].value() for name in form.fields}
        data |= {bound.html_name: bound.value() for bound in levels.management_form}
        for each in levels:
            data |= {bound.html_name: bound.value() for bound in each}
        return {k: v for k, v in {**data, **changes}.items() if v not in (None, False)}

    def test_kept_and_used(self):
        answer = self.client.post(reverse("prices"), self.form(
            currency="EUR", tax="8.1", taxed="all", rounding="0.05", **{"levels-2-rate": "1"}))  # fmt: skip
        self.assertRedirects(answer, reverse("prices"))
        prices = core_prices(prices_of(self.studio))
        self.assertEqual(
            (prices.currency, prices.tax, prices.levels[2].rate), ("EUR", Decimal("0.081"), 1)
        )
        page = self.client.get(reverse("quotes", args=[self.job.pk]))
        total = Decimal(re.search(r"€(\d+\.\d\d)", page.content.decode())[1])
        self.assertEqual(total % Decimal("0.05"), 0)

    @long
    def test_refused_with_its_field(self):
        for name, value in (("tax", "150"), ("wished_hourly", "-1"), ("thread_yard", "cheap"),
                            ("currency", "XXX"), ("levels-0-rate", "NaN"), ("levels-1-slow", "90000"),
                            ("levels-3-minimum", "-5")):  # fmt: skip
            answer = self.client.post(reverse("prices"), self.form(**{name: value}))
            with self.subTest(name):
                self.assertEqual(answer.status_code, 400)
                self.assertContains(
                    answer, f'value="{value}"' if value != "XXX" else "Not kept", status_code=400
                )
        self.assertEqual(core_prices(prices_of(self.studio)).currency, "USD")


class LinkTests(QuoteCase):
    def setUp(self):
        super().setUp()
        self.quote = issue(self.job, self.anna, ["light", "full"])
        self.link = make_link(self.quote, self.anna, 10)
        self.address = reverse("client", args=[signed(self.link)])
        self.outside = Client()

    def test_she_sees_the_drawing_the_levels_and_nothing_else(self):
        page = self.outside.get(self.address)
        self.assertContains(page, "Light custom")
        self.assertContains(page, "<path d=", html=False)
        self.assertEqual(page["Cache-Control"], "no-store")
        self.assertEqual(page["Referrer-Policy"], "same-origin")
        reached = set(re.findall(r'(?:href|src|action|hx-[a-z]+)="([^"]+)"', page.content.decode()))
        self.assertTrue(all(each.startswith("/static/") for each in reached), reached)
        self.assertEqual(self.outside.get(reverse("intake", args=[self.job.pk])).status_code, 302)
        self.assertEqual(self.job.book.first().text, "Quote 1 looked at for the first time.")
        self.outside.get(self.address)
        self.assertEqual(self.job.book.filter(text__contains="looked at").count(), 1)

    def test_accepting_and_asking(self):
        nameless = self.outside.post(self.address, {"do": "accept", "level": "full", "name": " "})
        self.assertContains(nameless, "write your name", status_code=409)
        unchosen = self.outside.post(self.address, {"do": "accept", "name": "Marit"})
        self.assertContains(unchosen, "choose one", status_code=409)
        self.assertContains(unchosen, 'value="Marit"', status_code=409)
        question = {"do": "comment", "text": "<b>May</b> it be sooner?", "name": "M"}
        asked = self.outside.post(self.address, question, follow=True)
        self.assertContains(asked, "Thank you")
        self.assertContains(self.client.get(reverse("book", args=[self.job.pk])),
                            "&lt;b&gt;May&lt;/b&gt; it be sooner?")  # fmt: skip
        empty = self.outside.post(self.address, {"do": "comment", "text": " "})
        self.assertContains(empty, "write something", status_code=409)
        done = self.outside.post(
            self.address, {"do": "accept", "level": "full", "name": "Marit"}, follow=True
        )
        self.assertContains(done, "Accepted")
        again = self.outside.post(
            self.address, {"do": "accept", "level": "light", "name": "Someone"}
        )
        self.assertContains(again, "was accepted by Marit", status_code=409)
        self.assertEqual(Acceptance.objects.get().level, "full")

    def test_altered_expired_and_revoked_links_say_so(self):
        guessed = signed(ClientLink(key="guessed", quote=self.quote))
        for bad in (self.address[:-2] + "x/", *(reverse("client", args=[text])
                                                for text in ("made-up:signature", guessed))):  # fmt: skip
            for method in (self.outside.get, self.outside.post):
                self.assertContains(method(bad), "not right", status_code=404)
        ClientLink.objects.update(expires=timezone.now() - timedelta(days=1))
        self.assertContains(self.outside.get(self.address), "was open until", status_code=410)
        late = self.outside.post(self.address, {"do": "accept", "level": "full", "name": "Marit"})
        self.assertEqual(late.status_code, 410)
        ClientLink.objects.update(expires=timezone.now() + timedelta(days=1))
        self.client.post(reverse("revoke-link", args=[self.job.pk, 1]))
        answer = self.outside.get(self.address)
        self.assertContains(answer, "taken back", status_code=410)
        self.assertNotContains(answer, self.job.title, status_code=410)
        self.assertFalse(Acceptance.objects.exists())

    def test_a_new_link_closes_the_old_one_and_writes_a_letter(self):
        self.client.post(reverse("make-link", args=[self.job.pk, 1]), {"days": "5"})
        self.assertEqual(self.outside.get(self.address).status_code, 410)
        letter = Letter.objects.get()
        address = re.search(r"http://testserver(/for-you/\S+)", letter.text)[1]
        self.assertEqual(self.outside.get(address).status_code, 200)
        self.assertContains(self.client.get(reverse("outbox")), letter.subject)
        for days in ("0", "9999", "soon"):
            answer = self.client.post(reverse("make-link", args=[self.job.pk, 1]), {"days": days})
            self.assertEqual(answer.status_code, 422)

    def test_another_studio_makes_no_links_to_it(self):
        mine = make_job(self.other, self.berta)
        self.client.force_login(self.berta)
        for job in (self.job, mine):
            for name in ("make-link", "revoke-link"):
                self.assertEqual(self.client.post(reverse(name, args=[job.pk, 1])).status_code, 404)
        revoke(self.link, self.anna)
        revoke(self.link, self.anna)
        self.assertEqual(self.job.book.filter(text__contains="revoked").count(), 1)


class AtOnceTests(TransactionTestCase):
    """Real transactions, two at a time."""

    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft", "anna")
        self.job = make_job(self.studio, self.anna)

    def both(self, work, *rows):
        def run(row):
            try:
                return work(*row)
            except QuoteError as error:
                return error
            finally:
                connection.close()

        with ThreadPoolExecutor(len(rows)) as pool:
            return list(pool.map(run, rows))

    def test_two_accept_and_one_is_told(self):
        quote = issue(self.job, self.anna, ["light", "full"])
        results = self.both(accept, *[(quote.pk, level, f"{level} {k}") for k in range(3)
                                      for level in ("light", "full")])  # fmt: skip
        taken = [each for each in results if isinstance(each, Acceptance)]
        told = [each for each in results if isinstance(each, QuoteError)]
        self.assertEqual((len(taken), len(told)), (1, 5))
        self.assertIn(taken[0].name, str(told[0]))
        job = Job.objects.select_related("head").get(pk=self.job.pk)
        self.assertEqual(core_job(job).intake.wishes.level, taken[0].level)

    def test_quotes_issued_at_once_get_numbers_of_their_own(self):
        jobs = [make_job(self.studio, self.anna) for _ in range(4)]
        prices_of(self.studio)
        made = self.both(documents.issue, *[(job, self.anna, ["light", "full"]) for job in jobs])
        self.assertEqual(sorted(quote.number for quote in made), [1, 2, 3, 4])
