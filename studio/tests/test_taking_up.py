"""What a killed worker had in hand is begun once more, and not for ever."""

from types import SimpleNamespace

from asgiref.sync import async_to_sync
from django.db import connection
from django.test import TransactionTestCase
from procrastinate.contrib.django import app
from procrastinate.contrib.django.models import ProcrastinateJob

from studio.jobs.tasks import take_up_again
from studio.routes.tasks import plan_route


class TakingUpTests(TransactionTestCase):
    def stands(self, job: int) -> tuple[str, int]:
        found = ProcrastinateJob.objects.get(pk=job)
        return found.status, found.attempts

    def told(self, sql: str, *values) -> None:
        with connection.cursor() as cursor:
            cursor.execute(sql, values)

    def in_hand(self, job: int, since: int) -> None:
        """A worker that gave its last sign of life *since* seconds ago has the job in hand."""
        with connection.cursor() as cursor:
            cursor.execute("insert into procrastinate_workers (last_heartbeat) "
                           "values (now() - %s * interval '1 second') returning id", [since])  # fmt: skip
            worker = cursor.fetchone()[0]
        self.told(
            "update procrastinate_jobs set status = 'doing', worker_id = %s where id = %s",
            worker,
            job,
        )

    def looked(self) -> None:
        async_to_sync(take_up_again.func)(SimpleNamespace(app=app), 0)

    def test_it_is_begun_once_more_by_one_that_lives(self):
        job = plan_route.defer(plan_id=1)
        self.in_hand(job, 5)
        self.looked()
        self.assertEqual(self.stands(job), ("doing", 0))
        self.in_hand(job, 60)
        self.looked()
        self.assertEqual(self.stands(job), ("todo", 1))

    def test_what_kills_its_worker_again_is_let_be(self):
        job = plan_route.defer(plan_id=1)
        for expected in (("todo", 1), ("failed", 2)):
            # The worker is gone, and its row with it.
            self.told(
                "update procrastinate_jobs set status = 'doing', worker_id = null where id = %s",
                job,
            )
            self.looked()
            self.assertEqual(self.stands(job), expected)
