"""A new installation: the first studio is made once, with a stocked shelf."""

from concurrent.futures import ThreadPoolExecutor

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.urls import reverse

from studio.accounts.models import Studio
from studio.tests.helpers import make_studio

FORM = {"studio": "Loft", "units": "cm", "username": "anna", "password": "thread-and-needle"}


class BeginTests(TestCase):
    def test_the_first_visit_leads_there_and_then_never_again(self):
        self.assertRedirects(self.client.get(reverse("sign-in")), reverse("begin"))
        self.assertRedirects(self.client.post(reverse("begin"), FORM), reverse("jobs"))
        studio = Studio.objects.get()
        self.assertEqual((studio.units, studio.threads.count() > 3), ("cm", True))
        self.assertEqual(self.client.get(reverse("shelf")).status_code, 200)
        for method in (self.client.get, self.client.post):
            self.assertEqual(method(reverse("begin"), FORM).status_code, 404)
        self.client.logout()
        self.assertEqual(self.client.get(reverse("sign-in")).status_code, 200)

    def test_faults_are_named_and_nothing_is_made(self):
        for change, field in (({"password": "short"}, "password"), ({"password": "password"}, "password"),
                              ({"username": "an na!"}, "username"), ({"studio": " "}, "studio"),
                              ({"units": "ells"}, "units")):  # fmt: skip
            answer = self.client.post(reverse("begin"), {**FORM, **change})
            self.assertEqual(answer.status_code, 400)
            self.assertIn(field, answer.context["form"].errors)
        self.assertFalse(Studio.objects.exists())

    def test_where_somebody_works_it_is_not_there(self):
        make_studio("Barn")
        self.assertEqual(self.client.get(reverse("begin")).status_code, 404)


class AtOnceTests(TransactionTestCase):
    def test_two_browsers_make_one_studio(self):
        def go(k):
            try:
                return Client().post(reverse("begin"), {**FORM, "username": f"anna{k}"}).status_code
            finally:
                connection.close()

        with ThreadPoolExecutor(3) as pool:
            answers = sorted(pool.map(go, range(3)))
        self.assertEqual(answers, [302, 404, 404])
        self.assertEqual(Studio.objects.count(), 1)
