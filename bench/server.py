"""A server on the benchmark's own database, and a browser signed in to its demo studio."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

HOME = Path(__file__).resolve().parent.parent
CHROMIUM = shutil.which("chromium-headless-shell") or shutil.which("chromium")
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]


@contextmanager
def served() -> Iterator[tuple[str, subprocess.Popen]]:
    """The address of a running server with the demo data, and its process."""
    subprocess.run([sys.executable, "manage.py", "migrate", "--verbosity=0"], cwd=HOME, check=True)
    subprocess.run([sys.executable, "manage.py", "load_demo"], cwd=HOME, check=True)
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = subprocess.Popen(
        [str(HOME / ".venv/bin/gunicorn"), "studio.wsgi", "--bind", f"127.0.0.1:{port}", "--workers=1",
         "--threads=12", "--no-control-socket", "--log-level=error"], cwd=HOME,
    )  # fmt: skip
    try:
        time.sleep(3)
        yield f"http://127.0.0.1:{port}", server
    finally:
        server.terminate()
        server.wait(10)


@contextmanager
def signed_in(address: str) -> Iterator:
    """A page of 1280 × 800 in headless Chromium, signed in to the demo studio."""
    from playwright.sync_api import sync_playwright

    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=FLAGS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{address}/sign-in/")
        page.fill("#id_username", "rosalind")
        page.fill("#id_password", "linen-and-thread")
        page.click("button")
        page.wait_for_url("**/jobs/")
        yield page
        browser.close()
