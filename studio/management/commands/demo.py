"""Set up the demo photographer, and bring the frames of a folder into an outing."""

from pathlib import Path
from typing import Any

from django.contrib.auth.models import User
from django.core.management.base import BaseCommand

from studio import darkroom
from studio.api.gather import make_scene, receive
from studio.models import Frame, Outing
from sunlatch.frame import hash_file

NAME, PASSWORD = "demo", "ammerlin coast"
OUTING = "The Ammerlin coast"


class Command(BaseCommand):
    """`manage.py demo FOLDER`"""

    help = "Create the demo photographer and outing."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("folder", type=Path)

    def handle(self, **options: Any) -> None:
        user, fresh = User.objects.get_or_create(username=NAME)
        if fresh:
            user.set_password(PASSWORD)
            user.save()
        outing, _ = Outing.objects.get_or_create(user=user, name=OUTING)
        for path in sorted(options["folder"].glob("*.dng")):
            if Frame.objects.filter(outing=outing, name=path.name).exists():
                continue
            with path.open("rb") as source:
                frame = receive(outing, path.name, source)
            darkroom.store().whole(frame.sha256, darkroom.frame_path(frame.sha256))
            make_scene(frame)
            self.stdout.write(f"  {path.name} arrived ({hash_file(path)[:8]})")
        darkroom.store().decoder.close()
