"""A code besides the password."""

from __future__ import annotations

import re
from datetime import timedelta
from unittest.mock import patch

from django.core.management import CommandError, call_command
from django.test import TestCase
from django.urls import reverse
from django.utils import timezone
from django_otp.oath import totp
from django_otp.plugins.otp_totp.models import TOTPDevice

from studio.accounts import codes
from studio.tests.helpers import make_studio

PASSWORD = "thread-and-needle"


class CodeTests(TestCase):
    def setUp(self):
        _, (self.anna, self.berta) = make_studio("Loft", "anna", "berta")
        for person in (self.anna, self.berta):
            person.set_password(PASSWORD)
            person.save()

    def shown(self, drift: int = 0) -> str:
        """What the app shows, reckoned from its secret alone."""
        device = TOTPDevice.objects.get(user=self.anna)
        return f"{totp(device.bin_key, drift=drift):06d}"

    def in_use(self) -> list[str]:
        self.client.force_login(self.anna)
        self.client.get(reverse("codes"))
        answer = self.client.post(reverse("codes"), {"code": self.shown()})
        found = re.findall(r'text-center">([a-z0-9]+)<', answer.content.decode())
        self.client.logout()
        return found

    def sign_in(self, name: str = "", **more):
        values = {"username": name or self.anna.username, "password": PASSWORD, **more}
        return self.client.post(reverse("sign-in"), values)

    def give(self, code: str, **more):
        return self.client.post(reverse("sign-in-code"), {"code": code, **more})

    def test_the_password_alone_gets_nobody_in_any_more(self):
        reserve = self.in_use()
        self.assertEqual(len(set(reserve)), codes.RESERVE)
        answer = self.sign_in(next=reverse("shelf"))
        self.assertRedirects(answer, f"{reverse('sign-in-code')}?next={reverse('shelf')}")
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 302, "not in yet")
        self.assertEqual(self.give("000000").status_code, 401)
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 302)

    def test_the_apps_code_lets_in_once(self):
        self.in_use()
        self.sign_in()
        code = self.shown(drift=1)
        self.assertRedirects(self.give(code, next=reverse("shelf")), reverse("shelf"))
        self.client.logout()
        self.sign_in()
        self.assertEqual(self.give(code).status_code, 401, "whoever looked over her shoulder")

    def test_a_reserve_code_works_once(self):
        first, *_ = self.in_use()
        self.sign_in()
        self.assertRedirects(self.give(first), reverse("jobs"))
        self.assertEqual(codes.reserve_left(self.anna), codes.RESERVE - 1)
        self.client.logout()
        self.sign_in()
        self.assertEqual(self.give(first).status_code, 401)

    def test_guessing_has_to_wait(self):
        self.in_use()
        self.sign_in()
        for _ in range(4):
            self.give("000000")
        self.assertEqual(self.give(self.shown(drift=1)).status_code, 401, "right, but too soon")

    def test_the_code_is_waited_for_only_a_while_and_only_after_a_password(self):
        self.in_use()
        self.assertRedirects(self.client.get(reverse("sign-in-code")), reverse("sign-in"))
        self.sign_in()
        later = timezone.now() + codes.OPEN_FOR + timedelta(seconds=1)
        with patch("studio.accounts.codes.timezone.now", return_value=later):
            self.assertRedirects(self.give(self.shown(drift=1)), reverse("sign-in"))

    def test_it_leads_nowhere_else(self):
        first, *_ = self.in_use()
        self.sign_in()
        self.assertRedirects(self.give(first, next="https://elsewhere.example/"), reverse("jobs"))

    def test_a_wrong_first_code_takes_nothing_into_use(self):
        self.client.force_login(self.anna)
        self.client.get(reverse("codes"))
        self.assertEqual(self.client.post(reverse("codes"), {"code": "12"}).status_code, 422)
        self.assertFalse(codes.has_codes(self.anna))
        self.client.logout()
        self.assertRedirects(self.sign_in(), reverse("jobs"))

    def test_others_are_asked_for_nothing(self):
        self.in_use()
        self.assertRedirects(self.sign_in(self.berta.username), reverse("jobs"))

    def test_only_who_knows_the_password_gives_it_up(self):
        first, *_ = self.in_use()
        self.client.force_login(self.anna)
        change = reverse("codes-change")
        for what in ("off", "reserve"):
            answer = self.client.post(change, {"what": what, "password": "guessed"})
            self.assertEqual(answer.status_code, 422)
        self.assertTrue(codes.has_codes(self.anna))
        self.client.post(change, {"what": "reserve", "password": PASSWORD})
        self.assertFalse(codes.right_code(self.anna, first), "those of before work no more")
        self.client.post(change, {"what": "off", "password": PASSWORD})
        self.assertFalse(codes.has_codes(self.anna))

    def test_other_sessions_end_when_it_is_taken_into_use(self):
        other = self.client_class()
        other.force_login(self.anna)
        self.in_use()
        self.assertEqual(other.get(reverse("jobs")).status_code, 302)

    def test_who_runs_the_installation_can_help(self):
        self.in_use()
        with self.assertRaises(CommandError):
            call_command("password_alone", "nobody")
        call_command("password_alone", self.anna.username, verbosity=0)
        self.assertRedirects(self.sign_in(), reverse("jobs"))
