"""A reading whose worker died is not "running" for ever."""

from datetime import timedelta

from django.test import TestCase
from django.urls import reverse
from django.utils import timezone

from studio.charting.models import Reading
from studio.jobs.in_hand import SILENCE
from studio.tests.helpers import make_job, make_studio


class LostTests(TestCase):
    def test_it_says_so_and_asks_no_more(self):
        studio, (anna,) = make_studio("Loft", "anna")
        job = make_job(studio, anna)
        self.client.force_login(anna)
        reading = Reading.objects.create(job=job, name="a.svg", tolerance=0.1, state="running",
                                         progress=0.2, message="finding what is enclosed")  # fmt: skip
        address = reverse("drawing-state", args=[job.pk, reading.pk])
        self.assertContains(self.client.get(address), "hx-trigger")
        silent = timezone.now() - timedelta(seconds=SILENCE + 5)
        Reading.objects.filter(pk=reading.pk).update(heard_of=silent)
        page = self.client.get(address)
        self.assertNotContains(page, "hx-trigger")
        self.assertNotContains(page, "20%")
