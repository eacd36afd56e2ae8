"""Somebody has lost her phone and her reserve codes: her password alone lets her in again."""

from __future__ import annotations

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand, CommandError

from studio.accounts.codes import taken_away


class Command(BaseCommand):
    """Take the code besides the password away from somebody."""

    help = __doc__

    def add_arguments(self, parser) -> None:
        """Whose it is."""
        parser.add_argument("name")

    def handle(self, *args, name: str, **options) -> None:
        """Take it away."""
        person = get_user_model().objects.filter(username=name).first()
        if person is None:
            raise CommandError(f"Nobody is called {name} here.")
        taken_away(person)
        self.stdout.write(f"{name} signs in with the password alone again.")
