"""What browser stories share: a server, a Chromium, people signed in."""

import os
import shutil
import time
from unittest import skipUnless

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.core.management.base import CommandError
from django.test import tag
from django.urls import reverse

from studio.tests.helpers import make_studio

# Debian's own build for where there is no screen takes half the time of the whole browser.
CHROMIUM = shutil.which("chromium-headless-shell") or shutil.which("chromium")
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync",
         "--disable-component-update", "--no-first-run"]  # fmt: skip


@tag("browser")
@skipUnless(CHROMIUM, "Debian's chromium is not installed")
class BrowserCase(StaticLiveServerTestCase):
    @classmethod
    def setUpClass(cls):
        # Playwright's own loop runs in this thread; Django's guard against that is not meant here.
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
        super().setUpClass()
        from playwright.sync_api import sync_playwright

        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)

    @classmethod
    def tearDownClass(cls):
        cls.browser.close()
        cls.playwright.stop()
        super().tearDownClass()

    def __getstate__(self):
        """Without the browser, which cannot be sent to the process that gathers what was found."""
        told = {name: value for name, value in self.__dict__.items()
                if not type(value).__module__.startswith("playwright")}  # fmt: skip
        return told | {"_cleanups": []}

    def _fixture_teardown(self):
        """Empty the database; what a page asked for as it was closed may still be under way."""
        for _ in range(4):
            try:
                super()._fixture_teardown()
                return
            except CommandError:
                time.sleep(1)
        super()._fixture_teardown()

    def setUp(self):
        self.studio, (self.anna,) = make_studio("Loft", "anna")
        self.faults = []
        self.page = self.signed_in()

    def new_page(self, width: int = 1280, height: int = 800):
        """A page in a browser of its own, where nobody is signed in."""
        size = {"width": width, "height": height}
        page = self.browser.new_context(viewport=size, has_touch=width < 1000).new_page()
        self.addCleanup(page.context.close)
        page.set_default_timeout(30_000)
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        return page

    def signed_in(self, width: int = 1280, height: int = 800):
        page = self.new_page(width, height)
        page.goto(self.live_server_url + reverse("sign-in"))
        page.fill("#id_username", "anna")
        page.fill("#id_password", "thread-and-needle")
        page.click("button")
        page.wait_for_url("**/jobs/")
        return page

    def choose_design(self, key: str, page=None):
        """Choose a design in the drawer, and wait for the drawer that shows it."""
        page = page or self.page
        if page.input_value("#d-design") == key:
            return
        with page.expect_response("**/drawer/"):
            page.click(f".tile[data-design={key}]")
        page.wait_for_selector(f"#d-design[value={key}]", state="attached")

    def open(self, job, stage, page=None):
        page = page or self.page
        page.goto(self.live_server_url + reverse("work", args=[job.pk]) + f"?stage={stage}")
        page.wait_for_selector("#work[data-drawn]")

    def work_off_the_queue(self):
        import subprocess
        import sys

        from django.conf import settings
        from django.db import connection

        values = connection.settings_dict
        address = (
            f"postgresql://{values['USER']}:{values['PASSWORD']}@{values['HOST']}:{values['PORT']}"
            f"/{values['NAME']}"
        )
        subprocess.run(
            [sys.executable, "manage.py", "procrastinate", "worker", "--one-shot"],
            cwd=settings.HOME, env={**os.environ, "DATABASE_URL": address}, check=True,
            capture_output=True,
        )  # fmt: skip
