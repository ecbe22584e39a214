"""The worker: takes up what was left, then runs jobs until it is told to stop."""

import threading
from typing import Any

from django.core.management.base import BaseCommand
from huey.contrib.djhuey import HUEY

from studio.tasks import be_nice, take_up_again


class Command(BaseCommand):
    """`manage.py work`"""

    help = "Run jobs."

    def handle(self, **options: Any) -> None:
        be_nice()
        HUEY.flush()
        take_up_again()
        threading.current_thread().name = "worker"
        consumer = HUEY.create_consumer(
            workers=1, worker_type="thread", periodic=False, initial_delay=0.05, backoff=1.0, max_delay=0.2
        )
        consumer.run()
