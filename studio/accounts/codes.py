"""A code besides the password, for whoever wants one: made by an app on her phone (TOTP, RFC 6238), with
reserve codes on paper for the day the phone is gone. The packages are django-otp and segno."""

from __future__ import annotations

import base64
import io
from binascii import unhexlify
from datetime import timedelta

from django.db import transaction
from django.http import HttpRequest
from django.utils import timezone
from django_otp import match_token, user_has_device
from django_otp.plugins.otp_static.models import StaticDevice, StaticToken
from django_otp.plugins.otp_totp.models import TOTPDevice

NAME = "phone"
RESERVE = 8
"""Codes on paper, each of which works once."""
OPEN_FOR = timedelta(minutes=10)
"""How long after the password the code may be given."""
_WAITING = "code-for"


def has_codes(person) -> bool:
    """Whether *person* gives a code besides her password."""
    return user_has_device(person)


def begun(person) -> TOTPDevice:
    """The app's secret, before its first code has shown that the app has it."""
    found = TOTPDevice.objects.filter(user=person, confirmed=False).first()
    return found or TOTPDevice.objects.create(user=person, name=NAME, confirmed=False)


def spelled(device: TOTPDevice) -> str:
    """The secret as it is typed where no picture can be taken, in groups of four."""
    key = base64.b32encode(unhexlify(device.key.encode())).decode().rstrip("=")
    return " ".join(key[k : k + 4] for k in range(0, len(key), 4))


def picture(device: TOTPDevice) -> str:
    """The secret as a picture for the app, as an address that holds all of it."""
    # segno takes a moment to load, which only those who set this up should wait for.
    import segno

    out = io.BytesIO()
    segno.make(device.config_url, error="m").save(
        out, kind="svg", scale=5, border=4, light="#ffffff"
    )
    return f"data:image/svg+xml;base64,{base64.b64encode(out.getvalue()).decode()}"


def confirmed(person, code: str) -> list[str] | None:
    """Take the app into use when its *code* is right: the reserve codes, to be written down; None when it is
    wrong."""
    device = begun(person)
    if not device.verify_token(code.replace(" ", "")):
        return None
    with transaction.atomic():
        TOTPDevice.objects.filter(user=person).exclude(pk=device.pk).delete()
        device.confirmed = True
        device.save(update_fields=["confirmed"])
        return fresh_reserve(person)


def fresh_reserve(person) -> list[str]:
    """New reserve codes; those of before work no more."""
    with transaction.atomic():
        StaticDevice.objects.filter(user=person).delete()
        device = StaticDevice.objects.create(user=person, name="paper", confirmed=True)
        codes = [StaticToken.random_token() for _ in range(RESERVE)]
        StaticToken.objects.bulk_create(StaticToken(device=device, token=code) for code in codes)
    return codes


def reserve_left(person) -> int:
    """How many reserve codes were not used yet."""
    return StaticToken.objects.filter(device__user=person).count()


def taken_away(person) -> None:
    """The password alone again."""
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()


def wait_for_code(request: HttpRequest, person) -> None:
    """Remember in the session of whom the password was right."""
    request.session[_WAITING] = [person.pk, timezone.now().timestamp()]


def waiting(request: HttpRequest) -> int | None:
    """Whose code is waited for; None when nobody's is, any more."""
    number, since = request.session.get(_WAITING, (None, 0))
    late = timezone.now().timestamp() - since > OPEN_FOR.total_seconds()
    return None if late else number


def right_code(person, code: str) -> bool:
    """Whether *code* is one of hers now: the app's, or one of those on paper, which is used up by it. After a
    wrong one each further try has to wait longer (django-otp's throttling)."""
    return match_token(person, code.replace(" ", "").strip()) is not None
