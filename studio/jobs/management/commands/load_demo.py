"""Load the demo studio, once."""

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from django.db import transaction

from studio.accounts.models import Membership, Studio
from studio.jobs import demo
from studio.jobs.revisions import create_job
from studio.routes.models import Plan
from studio.routes.planning import carry_out


class Command(BaseCommand):
    """Makes the demo studio with its people and jobs unless some studio exists already."""

    help = __doc__

    def handle(self, *args, **options) -> None:
        """Load it, and plan the sampler's route."""
        if Studio.objects.exists():
            return
        self.stdout.write("Loading the demo studio ...")
        with transaction.atomic():
            studio = Studio.objects.create(name=demo.STUDIO)
            people = []
            for name, first in demo.PEOPLE:
                person = get_user_model().objects.create_user(
                    name, password=demo.PASSWORD, first_name=first
                )
                Membership.objects.create(studio=studio, person=person)
                people.append(person)
            job = create_job(studio, people[0], demo.sampler(), "Charted and designed")
            create_job(studio, people[1], demo.pinwheels(), "Charted and half designed")
            create_job(studio, people[0], demo.nursery(), "Charted from the form")
            plan = Plan.objects.create(job=job, digest=job.head.body_id)
            carry_out(plan)
