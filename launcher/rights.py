"""Whom the web server and the workers run as when the launcher was started as root: they read what strangers
send, so they get no more rights than they need."""

from __future__ import annotations

import os
import pwd
import shutil
import subprocess
import sys
from pathlib import Path

USER = "www-data"
"""Debian's own for web servers; who lacks it has ``nobody``."""
SERVES = "import django, subprocess, sys; subprocess.run([sys.executable, '-c', ''], check=True)"
"""What whoever serves must be able to do: read the program, and start a process that reads foreign files."""


def lesser_user() -> pwd.struct_passwd | None:
    """Who serves when we are root; None when we are not."""
    if os.getuid() != 0:
        return None
    try:
        return pwd.getpwnam(USER)
    except KeyError:
        return pwd.getpwnam("nobody")


def dropping(home: Path, python: str) -> list[str]:
    """What a command is started with so that it runs with fewer rights: as another user, or, where the
    checkout lies in a folder that only root may read, as root without any of root's powers. Empty when we
    are not root."""
    user = lesser_user()
    if user is None or shutil.which("setpriv") is None:
        return []
    bare = [
        "setpriv",
        "--no-new-privs",
        "--inh-caps=-all",
        "--bounding-set=-all",
        "--pdeathsig=TERM",
    ]
    other = [*bare, f"--reuid={user.pw_uid}", f"--regid={user.pw_gid}", "--clear-groups"]
    tried = subprocess.run(
        [*other, python, "-c", SERVES], cwd=home, capture_output=True, check=False
    )
    if tried.returncode == 0:
        return other
    print(f"The folder cannot be read by {user.pw_name}: web server and workers run as root, without root's "
          f"powers. Start Chorograph as a user of its own.", file=sys.stderr)  # fmt: skip
    return bare


def hand_over(folder: Path, prefix: list[str]) -> None:
    """Let whoever serves read and write *folder*, whoever served the last time: root without its powers reads
    no more of another user's files than anybody."""
    user = lesser_user()
    folder.mkdir(parents=True, exist_ok=True)
    if user is None:
        return
    other = any(each.startswith("--reuid") for each in prefix)
    uid, gid = (user.pw_uid, user.pw_gid) if other else (os.getuid(), os.getgid())
    for path in (folder, *folder.rglob("*")):
        os.chown(path, uid, gid, follow_symlinks=False)
