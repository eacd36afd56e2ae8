"""Every address answers only for the signed-in person's own studio."""

from datetime import date

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import TestCase
from django.test.utils import CaptureQueriesContext
from django.urls import NoReverseMatch, get_resolver, reverse

from chorograph_core.tests import long
from studio.bookings.stock import reserve
from studio.charting.tracing import begin
from studio.finishing.billing import bill
from studio.jobs.revisions import core_job
from studio.photos.keeping import keep_photo
from studio.quotes.documents import issue
from studio.shelf.models import OwnMotif
from studio.shelf.starting import stock
from studio.tests.helpers import make_job, make_plan, make_studio
from studio.tests.pictures import png
from studio.tests.test_blocks import keep

OPEN = {"sign-in", "sign-out", "client", "begin", "stitch-worker", "stitch-manifest", "sign-in-later",
        "health", "ready", "calendar-feed", "password-forgotten", "password-sent", "password-new",
        "join", "sign-in-code", "schema-archive", "schema-route"}  # fmt: skip
OWN_LISTS = {"help", "help-page", "help-picture", "first-step",
             "carrying", "table", "table-quotes", "threads-in", "studio-data", "studio-data-in",
             "calendar-key",
             "jobs", "resting", "notices-seen",
             "new-job", "preview-job", "import-job", "new-consult", "find", "outbox", "prices",
             "calendar", "calendar-ics", "shelf", "shelf-new", "blocks", "block-new", "block-act",
             "block-round", "sums", "arc-template", "practice", "motifs", "own-motif-new",
             "own-motif-look", "motif", "motif-attempt", "lesson", "take-lesson", "password", "yourself",
             "codes", "codes-change",
             "end-sessions", "leave-studio", "choose-studio", "people", "member-role", "member-out",
             "invitation-back", "house", "house-ways", "house-rates"}  # fmt: skip
CHOICES = {
    "key": "A",
    "which": "undo",
    "what": "join",
    "kind": "thread",
    "number": 1,
    "signed": "x",
    "act": "touch",
    "uidb64": "MQ",
    "token": "x-y",
    "member_id": 1,
    "invitation_id": 1,
    "name": "jobs",
}
PDF = {
    "consult-sheet-pdf",
    "quote-pdf",
    "arc-template",
    "zone-template",
    "audition-pdf",
    "paper",
    "practice",
}


def addresses(job_id, **more) -> list[tuple[str, str]]:
    """(name, address) of every named route, for a job."""
    found = []
    rooms = get_resolver().url_patterns
    for pattern in [each for room in rooms for each in getattr(room, "url_patterns", [room])]:
        if not pattern.name:
            continue
        if pattern.name == "drop-day-off":
            more = {**more, "item_id": more.get("off_id", 0)}
        elif "item_id" in more:
            more = {**more, "item_id": more["thread_id"]}
        if pattern.name in ("motif", "motif-attempt", "practice"):
            more = {**more, "key": "swirls"}
        elif more.get("key") in ("swirls", job_id):
            more = {**more, "key": CHOICES["key"]}
        if pattern.name in ("help-picture", "table"):
            more = {**more, "name": "jobs.png" if pattern.name == "help-picture" else "jobs"}
        if pattern.name == "help-page":
            more = {**more, "key": "route"}
        elif more.get("key") == "route":
            more = {**more, "key": CHOICES["key"]}
        if pattern.name == "calendar-feed":
            more = {**more, "key": job_id}
        arguments = {
            name: {**CHOICES, **more}.get(name, job_id) for name in pattern.pattern.converters
        }
        try:
            found.append((pattern.name, reverse(pattern.name, kwargs=arguments)))
        except NoReverseMatch:  # pragma: no cover
            raise AssertionError(
                f"{pattern.name} takes an argument this test does not know"
            ) from None
    return found


class AccessTests(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.studio, (cls.anna,) = make_studio("Loft")
        cls.other, (cls.berta,) = make_studio("Barn")
        cls.job = make_job(cls.studio, cls.anna)
        stock(cls.studio)
        make_plan(cls.job)
        photo = keep_photo(cls.job, cls.anna, SimpleUploadedFile("a.png", png()), "whole", "")
        issue(cls.job, cls.anna, ["light", "full"])
        bill(cls.job, {"extra0": "quilting", "amount0": "9"}, cls.anna)
        tracing = begin(cls.job, photo, [(0.1, 0.1), (0.9, 0.1), (0.9, 0.9), (0.1, 0.9)], cls.anna)
        day = date(2030, 1, 1)
        off = cls.studio.days_off.create(first=day, last=day)
        thread = cls.studio.threads.first()
        own = keep(cls.studio).pk
        OwnMotif.objects.create(pk=own, studio=cls.studio, name="gate", stroke="0,1 .5,-1 1,1")
        cls.more = {
            "tracing_id": tracing.pk,
            "photo_id": photo.pk,
            "item_id": 0,
            "thread_id": thread.pk,
            "off_id": off.pk,
            "reading_id": cls.job.readings.create(tolerance=0.1, name="a.svg", state="failed").pk,
            "own_id": own,
        }

    def test_nobody_gets_in_without_signing_in(self):
        for name, address in addresses(self.job.pk, **self.more):
            if name not in OPEN:
                for answer in (self.client.get(address), self.client.post(address)):
                    with self.subTest(name):
                        self.assertRedirects(
                            answer,
                            f"{reverse('sign-in')}?next={address}",
                            fetch_redirect_response=False,
                        )

    def test_another_studios_job_is_not_there(self):
        self.client.force_login(self.berta)
        checked = 0
        for name, address in addresses(self.job.pk, **self.more):
            if name in OPEN | OWN_LISTS:
                continue
            checked += 1
            for method in (self.client.get, self.client.post):
                answer = method(address, {"base": "1"})
                with self.subTest(name, method=method.__name__):
                    self.assertIn(answer.status_code, (404, 405))
                    self.assertNotContains(answer, "small top", status_code=answer.status_code)
            # Whatever the method, at least one of the two really looked for the job.
            statuses = {
                m(address, {"base": "1"}).status_code for m in (self.client.get, self.client.post)
            }
            self.assertIn(404, statuses, name)
        self.assertGreater(checked, 10)
        self.job.refresh_from_db()
        self.assertEqual(self.job.head.number, 1)

    def test_lists_show_only_the_own_studio(self):
        self.client.force_login(self.berta)
        self.assertNotContains(self.client.get(reverse("jobs")), "A small top")

    def test_somebody_without_a_studio_sees_nothing(self):
        from django.contrib.auth import get_user_model

        self.client.force_login(get_user_model().objects.create_user("carla"))
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 404)

    @long
    def test_own_addresses_answer(self):
        self.client.force_login(self.anna)
        for name, address in addresses(self.job.pk, **self.more):
            # PDFs take seconds each and are printed in tests of their own.
            if name in OPEN | PDF | {"plan-state"}:
                continue
            zone = core_job(self.job).zones[0].id if name == "audition" else ""
            answer = self.client.get(address, {"zones": zone} if zone else {})
            with self.subTest(name):
                self.assertIn(answer.status_code, (200, 405))
                if answer.status_code == 200:
                    self.assertIn("Content-Security-Policy", answer.headers)

    def test_pages_that_list_ask_the_database_little(self):
        self.client.force_login(self.anna)
        for _ in range(6):
            make_job(self.studio, self.anna)
        # One of them asks what clients said, one how far somebody new has come.
        with self.assertNumQueries(6):
            self.client.get(reverse("jobs"))
        for name, most in (
            # One of them asks where the work stands.
            ("work", 9),
            ("book", 10),
            # One of these asks for the hours of others, at other machines.
            ("quotes", 19),
            ("intake", 20),
            ("balance", 7),
            ("log", 15),
            ("finish", 14),
        ):
            address = reverse(name, args=[self.job.pk])
            self.client.get(address)
            with self.subTest(name), self.assertNumQueries(most):
                self.client.get(address)

    def test_studio_pages_ask_no_more_for_more(self):
        self.client.force_login(self.anna)
        before = {}
        for round_ in range(2):
            for name in ("shelf", "calendar", "outbox", "prices", "find"):
                # What documents say is read once, and kept.
                self.client.get(reverse(name), {"q": "small top"})
                with CaptureQueriesContext(connection) as asked:
                    self.client.get(reverse(name), {"q": "small top"})
                self.assertLessEqual(len(asked), before.setdefault(name, len(asked)), name)
            if round_ == 0:
                for k in range(4):
                    job = make_job(self.studio, self.anna)
                    reserve(job, {"indigo": 10 + k})
                    self.studio.threads.create(key=f"t{k}", name=f"t{k}", weight=40, cone=9, left=9)
