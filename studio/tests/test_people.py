"""Who works in a studio and what each may do; signing in, passwords, and where one is signed in."""

from __future__ import annotations

import re
from datetime import timedelta

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings
from django.urls import reverse
from django.utils import timezone

from chorograph_core.tests import long
from studio.accounts.letters import EVERY, MOST_LETTERS
from studio.accounts.models import Invitation, Membership, PasswordLetter, Role, Session
from studio.accounts.people import invite, signed_key
from studio.accounts.roles import KEPT, OWNED, PRICED
from studio.finishing.billing import bill
from studio.jobs.models import Job
from studio.jobs.revisions import core_job
from studio.outbox.models import Mail
from studio.quotes.documents import issue
from studio.shelf.starting import stock
from studio.tests.helpers import intake_form, make_job, make_plan, make_studio
from studio.tests.test_access import OPEN, PDF, addresses

PASSWORD = "thread-and-needle"
MONEY = re.compile(r"[$€£]\s?\d|\d[.,]\d\d\s?[€£]")


@override_settings(EMAIL_BACKEND="studio.outbox.mail.OutboxBackend")
class PeopleCase(TestCase):
    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft")
        self.anna.email = "anna@loft.example"
        self.anna.save()
        self.client.force_login(self.anna)

    def member(self, name: str, role: str):
        person = get_user_model().objects.create_user(name, f"{name}@loft.example", PASSWORD)
        return Membership.objects.create(studio=self.studio, person=person, role=role)


class InvitingTests(PeopleCase):
    def join(self, invitation, **values):
        answer = self.client.post(reverse("join", args=[signed_key(invitation)]), values)
        return answer

    def test_a_link_lets_one_person_in_once_in_its_role(self):
        self.client.post(reverse("people"), {"role": "helper", "email": "mo@loft.example"})
        invitation = Invitation.objects.get()
        letter = Mail.objects.get(to="mo@loft.example")
        link = re.search(r"http://testserver(\S+)", letter.text)[1]
        self.client.logout()
        self.assertContains(self.client.get(link), "Loft")
        newcomer = {"username": "mo", "first_name": "Mo", "password": "rolling-fields-7"}
        self.assertRedirects(self.client.post(link, newcomer), reverse("jobs"))
        mo = Membership.objects.get(person__username="mo")
        self.assertEqual((mo.role, mo.studio), (Role.HELPER, self.studio))
        self.client.logout()
        self.assertEqual(self.client.get(link).status_code, 404)
        self.assertEqual(self.join(invitation, **{**newcomer, "username": "mo2"}).status_code, 404)
        self.assertFalse(get_user_model().objects.filter(username="mo2").exists())

    def test_what_is_wrong_stands_at_its_field_and_nobody_is_made(self):
        invitation = invite(self.studio, self.anna, Role.QUILTER)
        self.client.logout()
        for values, says in (
            ({"username": "loft-anna", "password": "rolling-fields-7"}, "has that name"),
            ({"username": "LOFT-anna", "password": "rolling-fields-7"}, "has that name"),
            ({"username": "rolling", "password": "rolling"}, "too similar"),
            ({"username": "mo", "password": "password"}, "too common"),
            ({"username": "m o!", "password": "rolling-fields-7"}, "valid username"),
        ):
            with self.subTest(says):
                self.assertContains(self.join(invitation, **values), says, status_code=400)
        self.assertEqual(get_user_model().objects.count(), 1)
        invitation.refresh_from_db()
        self.assertTrue(invitation.open)

    def test_an_old_a_strange_and_a_withdrawn_link_work_no_more(self):
        invitation = invite(self.studio, self.anna, Role.QUILTER)
        Invitation.objects.update(expires=timezone.now() - timedelta(minutes=1))
        self.assertEqual(self.join(invitation).status_code, 404)
        self.assertEqual(self.client.get(reverse("join", args=["made-up"])).status_code, 404)
        invitation = invite(self.studio, self.anna, Role.QUILTER)
        self.client.post(reverse("invitation-back", args=[invitation.pk]))
        self.assertEqual(self.join(invitation).status_code, 404)
        self.assertContains(
            self.client.post(reverse("people"), {"role": "queen"}), "Choose", status_code=422
        )
        self.assertContains(self.client.post(reverse("people"), {"role": "helper", "email": "no"}),
                            "no address", status_code=422)  # fmt: skip

    def test_somebody_from_another_studio_joins_with_her_own_name_and_chooses_where_she_works(self):
        barn, (berta,) = make_studio("Barn")
        make_job(self.studio, self.anna)
        invitation = invite(self.studio, self.anna, Role.QUILTER)
        self.client.force_login(berta)
        self.assertRedirects(self.join(invitation), reverse("jobs"))
        self.assertContains(self.client.get(reverse("jobs")), "A small top")
        self.client.post(reverse("choose-studio"), {"studio": barn.pk})
        self.assertNotContains(self.client.get(reverse("jobs")), "A small top")
        third, _ = make_studio("Shed")
        self.client.post(reverse("choose-studio"), {"studio": third.pk})
        self.assertContains(self.client.get(reverse("jobs")), "Barn")


class RoleTests(PeopleCase):
    @long
    def test_a_helper_sees_no_money_on_any_page_and_runs_nothing(self):
        job = make_job(self.studio, self.anna)
        stock(self.studio)
        make_plan(job)
        issue(job, self.anna, ["light", "full"])
        bill(job, {"extra0": "quilting", "amount0": "9"}, self.anna)
        self.client.force_login(self.member("mo", Role.HELPER).person)
        more = dict.fromkeys(("tracing_id", "photo_id"), job.pk)
        numbers = dict.fromkeys(("item_id", "own_id", "off_id", "reading_id"), 1)
        more |= numbers | {"thread_id": self.studio.threads.first().pk}
        denied, opened = set(), 0
        for name, address in addresses(job.pk, **more):
            if name in OPEN | (PDF - PRICED):
                continue
            answer = self.client.get(address)
            if answer.status_code == 403:
                denied.add(name)
                self.assertEqual(self.client.post(address).status_code, 403, name)
            elif answer.status_code == 200 and answer.headers["Content-Type"].startswith(
                ("text/", "application/json")
            ):
                opened += 1
                with self.subTest(name):
                    self.assertIsNone(MONEY.search(answer.content.decode(errors="replace")))
        self.assertEqual(
            denied, (PRICED | OWNED | KEPT) & {name for name, _ in addresses(job.pk, **more)}
        )
        self.assertGreater(opened, 15)
        # What she cannot see she does not lose for others either.
        core = core_job(job)
        self.assertTrue(core.legend)

    def test_her_intake_keeps_the_budget_that_she_cannot_see(self):
        job = make_job(self.studio, self.anna)
        stock(self.studio)
        page = reverse("intake", args=[job.pk])
        self.assertEqual(self.client.post(page, intake_form(budget="400")).status_code, 302)
        self.client.force_login(self.member("mo", Role.HELPER).person)
        self.assertNotContains(self.client.get(page), 'name="budget"')
        again = intake_form(base="2", style="soft curves")
        again.pop("budget", None)
        self.assertEqual(self.client.post(page, again).status_code, 302)
        wishes = core_job(Job.objects.select_related("head").get(pk=job.pk)).intake.wishes
        self.assertEqual((wishes.budget, wishes.style), ("400", "soft curves"))

    def test_a_quilter_prices_but_does_not_say_who_works_here(self):
        self.client.force_login(self.member("mo", Role.QUILTER).person)
        self.assertEqual(self.client.get(reverse("prices")).status_code, 200)
        self.assertContains(self.client.get(reverse("people")), "its owner", status_code=403)

    def test_the_last_owner_stays_and_others_go(self):
        own = Membership.objects.get(person=self.anna)
        for address, values in (
            (reverse("member-role", args=[own.pk]), {"role": "helper"}),
            (reverse("member-out", args=[own.pk]), {}),
            (reverse("leave-studio"), {}),
        ):
            self.assertContains(
                self.client.post(address, values), "Somebody has to own", status_code=422
            )
        mo = self.member("mo", Role.QUILTER)
        self.client.post(reverse("member-role", args=[mo.pk]), {"role": "owner"})
        self.assertRedirects(self.client.post(reverse("leave-studio")), reverse("jobs"),
                             fetch_redirect_response=False)  # fmt: skip
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 404)
        self.assertEqual([each.person.username for each in self.studio.memberships.all()], ["mo"])

    def test_nobody_reaches_into_another_studio(self):
        _, (berta,) = make_studio("Barn")
        other = Membership.objects.get(person=berta)
        for name, values in (("member-role", {"role": "helper"}), ("member-out", {})):
            answer = self.client.post(reverse(name, args=[other.pk]), values)
            self.assertContains(answer, "does not work here", status_code=422)
        other.refresh_from_db()
        self.assertEqual(other.role, Role.OWNER)
        theirs = invite(other.studio, berta, Role.HELPER)
        self.client.post(reverse("invitation-back", args=[theirs.pk]))
        self.assertTrue(Invitation.objects.filter(pk=theirs.pk).exists())


class SignInTests(PeopleCase):
    def sign_in(self, name="loft-anna", password=PASSWORD, **more):
        return self.client.post(
            reverse("sign-in"), {"username": name, "password": password}, **more
        )

    def test_many_wrong_tries_are_stopped_even_if_the_next_were_right(self):
        self.client.logout()
        answers = [self.sign_in(password=f"wrong {k}").status_code for k in range(15)]
        self.assertEqual(answers, [401] * 7 + [429] * 8)
        stopped = self.sign_in()
        self.assertContains(stopped, "Wait a little", status_code=429)
        self.assertIn("Retry-After", stopped.headers)
        self.assertNotIn("_auth_user_id", self.client.session)
        # From somewhere else the name is stopped as well; another name from there is not.
        self.member("mo", Role.QUILTER)
        self.assertEqual(self.sign_in(REMOTE_ADDR="127.0.0.9").status_code, 429)
        self.assertEqual(self.sign_in("mo", REMOTE_ADDR="127.0.0.9").status_code, 302)

    def test_a_slip_or_two_costs_nothing(self):
        self.client.logout()
        for _ in range(3):
            for k in range(5):
                self.assertEqual(self.sign_in(password=f"wrong {k}").status_code, 401)
            self.assertEqual(self.sign_in().status_code, 302)
            self.client.logout()

    def test_a_forgotten_password_is_chosen_anew_by_a_letter(self):
        self.client.logout()
        for address in ("nobody@loft.example", "anna@loft.example"):
            answer = self.client.post(reverse("password-forgotten"), {"email": address})
            self.assertRedirects(answer, reverse("password-sent"))
        letter = Mail.objects.get()
        self.assertEqual(letter.to, "anna@loft.example")
        link = re.search(r"http://testserver(\S+)", letter.text)[1]
        page = self.client.get(link, follow=True)
        address = page.request["PATH_INFO"]
        alike = {"new_password1": "loft-anna", "new_password2": "loft-anna"}
        self.assertContains(self.client.post(address, alike), "too similar")
        fresh = {"new_password1": "hems-and-corners", "new_password2": "hems-and-corners"}
        self.assertRedirects(self.client.post(address, fresh), reverse("sign-in"))
        self.assertContains(self.client.get(link, follow=True), "works no more")
        self.assertEqual(self.sign_in(password="hems-and-corners").status_code, 302)

    def test_who_asks_again_and_again_for_a_new_password_sends_no_flood(self):
        self.client.logout()
        for _ in range(MOST_LETTERS + 4):
            answer = self.client.post(reverse("password-forgotten"), {"email": self.anna.email})
            self.assertRedirects(answer, reverse("password-sent"))
        self.assertEqual(Mail.objects.count(), MOST_LETTERS)
        PasswordLetter.objects.update(sent=timezone.now() - EVERY - timedelta(seconds=1))
        self.client.post(reverse("password-forgotten"), {"email": self.anna.email})
        self.assertEqual(Mail.objects.count(), MOST_LETTERS + 1)

    def test_a_mail_server_that_is_gone_is_no_fault_of_hers(self):
        gone = {
            "EMAIL_BACKEND": "django.core.mail.backends.smtp.EmailBackend",
            "EMAIL_HOST": "127.0.0.1",
            "EMAIL_PORT": 9,
        }
        with override_settings(**gone), self.assertLogs("studio.accounts.letters", "ERROR"):
            values = {"role": "helper", "email": "mo@loft.example"}
            answer = self.client.post(reverse("people"), values)
            self.assertContains(answer, "give her the link yourself")
            self.assertContains(answer, "/join/")
            self.client.logout()
            answer = self.client.post(reverse("password-forgotten"), {"email": self.anna.email})
            self.assertRedirects(answer, reverse("password-sent"))

    def test_letters_with_keys_are_for_the_owners_eyes(self):
        _, (berta,) = make_studio("Barn")
        berta.email = "berta@barn.example"
        berta.save()
        for address in (self.anna.email, berta.email):
            self.client.post(reverse("password-forgotten"), {"email": address})
        mine, hers = (f"for {each.username} in" for each in (self.anna, berta))
        outbox = lambda: self.client.get(reverse("outbox"))  # noqa: E731
        self.assertContains(outbox(), mine)
        self.assertNotContains(outbox(), hers)
        # Neither by inviting her, nor by taking her address or herself, does one come by the key of another
        # studio.
        invite(self.studio, self.anna, Role.HELPER, berta.email)
        self.anna.email = berta.email
        self.anna.save()
        self.assertNotContains(outbox(), hers)
        Membership.objects.create(studio=self.studio, person=berta, role=Role.HELPER)
        self.assertNotContains(outbox(), hers)
        Membership.objects.filter(person=berta).exclude(studio=self.studio).delete()
        self.assertContains(outbox(), hers)
        self.client.force_login(self.member("mo", Role.QUILTER).person)
        self.assertNotContains(self.client.get(reverse("outbox")), mine)

    def test_where_one_is_signed_in_is_seen_and_ended(self):
        self.client.logout()
        self.sign_in(headers={"user-agent": "Some Browser (Tablet)"})
        other = self.client_class()
        other.post(reverse("sign-in"), {"username": "loft-anna", "password": PASSWORD})
        _, (berta,) = make_studio("Barn")
        stranger = self.client_class()
        stranger.force_login(berta)
        page = self.client.get(reverse("yourself"))
        self.assertContains(page, "a tablet or phone")
        self.assertEqual(len(page.context["sessions"]), 2)
        self.client.post(reverse("end-sessions"), {"which": "all"})
        self.assertEqual(Session.objects.filter(person=self.anna).count(), 1)
        self.assertEqual(self.client.get(reverse("jobs")).status_code, 200)
        self.assertEqual(other.get(reverse("jobs")).status_code, 302)
        self.assertEqual(stranger.get(reverse("jobs")).status_code, 200)

    def test_pages_of_a_studio_are_kept_by_nobody_on_the_way(self):
        header = self.client.get(reverse("jobs")).headers["Cache-Control"]
        self.assertIn("no-store", header)
        self.assertIn("private", header)
        policy = self.client.get(reverse("jobs")).headers["Content-Security-Policy"]
        self.assertNotIn("unsafe-inline", policy)

    def test_a_password_is_changed_by_who_knows_it(self):
        wrong = {
            "old_password": "x",
            "new_password1": "hems-and-corners",
            "new_password2": "hems-and-corners",
        }
        self.assertContains(self.client.post(reverse("password"), wrong), "entered incorrectly")
        right = {**wrong, "old_password": PASSWORD}
        self.assertRedirects(self.client.post(reverse("password"), right), reverse("yourself"))
        self.client.logout()
        self.assertEqual(self.sign_in(password="hems-and-corners").status_code, 302)
