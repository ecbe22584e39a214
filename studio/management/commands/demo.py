"""Set up the demo photographer, bring the frames of a folder into an outing, work some scenes."""

from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand

from studio import services
from studio.api.gather import make_scene, receive
from studio.grouping import regroup
from studio.models import Frame, Outing
from studio.worked import WORKED, work_frame, work_sweep

NAME, PASSWORD = "demo", "ammerlin coast"
OUTING = "The Ammerlin coast"
SORTED = {"stack-backlit": "evening", "pool": "evening", "path": "evening", "beacon": "maybe", "twin-dark": "maybe",
          "sky-2": "leave"}  # fmt: skip


class Command(BaseCommand):
    """`manage.py demo FOLDER`"""

    help = "Create the demo photographer and outing."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("folder", type=Path)
        parser.add_argument("--name", default=NAME, help="of the photographer")
        parser.add_argument("--sweep", action="store_true", help="join, mend and light the sweep, too")

    def handle(self, **options: Any) -> None:
        user, fresh = User.objects.get_or_create(username=options["name"])
        if fresh:
            user.set_password(PASSWORD)
            user.save()
        outing, _ = Outing.objects.get_or_create(user=user, name=OUTING)
        arrived = [self._bring(outing, path) for path in sorted(options["folder"].glob("*.dng"))]
        if any(arrived):
            regroup(outing)
            if options["sweep"]:
                work_sweep(outing)
            self.stdout.write(f"  {sum(arrived)} frames have arrived in {OUTING}")
        services.store().decoder.close()

    def _bring(self, outing: Outing, path: Path) -> bool:
        """One frame and, the first time, what comes with it; whether it is new."""
        if Frame.objects.filter(outing=outing, name=path.name).exists():
            return False
        with path.open("rb") as source:
            frame = receive(outing, path.name, source)
        frame.sorting = SORTED.get(path.stem, "")
        frame.save(update_fields=["sorting"])
        if path.stem == "stack-backlit":
            make_scene(frame)
        elif path.stem in WORKED:
            work_frame(frame)
        return True
