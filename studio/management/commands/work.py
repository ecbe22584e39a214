"""The worker: takes up what was left, then runs jobs until it is told to stop."""

import threading
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from huey.contrib.djhuey import HUEY

from studio.keeping import end_with_parent, held
from studio.tasks import arrivals, be_nice, put_back, stopping, take_up_again

LONGEST_END = 2.5
"""Seconds that what is under way has to see that it is not wanted any more."""
CONSUMER: dict[str, Any] = {
    "workers": 1, "worker_type": "thread", "periodic": False, "initial_delay": 0.05, "backoff": 1.0, "max_delay": 0.2,
}  # fmt: skip


class Command(BaseCommand):
    """`manage.py work`"""

    help = "Run jobs."
    requires_system_checks: list[str] = []  # tests ask for them; here they cost seconds, and the whole API

    def handle(self, **options: Any) -> None:
        end_with_parent()
        be_nice()
        with held("worker.lock", wait=True):  # one worker to a data folder: another takes over when it ends
            if not settings.REDIS_URL:  # elsewhere others may be at work on the same queue
                HUEY.flush()
                arrivals.flush()
                take_up_again()
            threading.current_thread().name = "worker"
            long, quick = (queue.create_consumer(**CONSUMER) for queue in (HUEY, arrivals))
            quick.start()
            long.run()  # until it is told to stop
            stopping.set()
            put_back()
            quick.stop()
            # compiled work looks up whether it is wanted now and then; the interpreter must not be taken down under it
            for thread in threading.enumerate():
                if thread.name.startswith("Worker"):
                    thread.join(LONGEST_END)
