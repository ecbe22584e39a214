"""Data folders made ready for studios: a process in which the core is loaded once, and which branches off for each folder.
Loading it costs more than all that is then done.

Reads lines of JSON: [data folder, frames' folder, photographer, *more]; writes a line for each: a JSON string, or null where
it failed.
"""

import json
import os
import shutil
import sys
import tempfile
import traceback
from pathlib import Path

import django.core.management
import django.db.models

import sunlatch.merging
import sunlatch.propose
import sunlatch.render  # noqa: F401

MIGRATED = tempfile.TemporaryDirectory(prefix="migrated-")
"""Where a database lies that was made as one of an empty folder is: made once, it is copied."""


def set_up(data: str, frames: str, name: str, *more: str) -> str:
    """Bring the frames in; "migrate": make the database first; "sweep": the sweep comes worked, too; "link": the token of a
    one-time link."""
    os.environ |= {"SUNLATCH_DATA": data, "DJANGO_SETTINGS_MODULE": "studio.settings"}
    django.setup()
    from django.contrib.auth.hashers import PBKDF2PasswordHasher
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.db import connection

    # a password that stands in the README need not be dear to guess
    PBKDF2PasswordHasher.iterations = 1000
    if "migrate" in more and not Path(MIGRATED.name, "done").exists():
        call_command("migrate", verbosity=0)
        connection.cursor().execute("VACUUM INTO %s", [f"{MIGRATED.name}/done"])
    elif "migrate" in more:
        shutil.copyfile(Path(MIGRATED.name, "done"), connection.settings_dict["NAME"])
    call_command("demo", frames, "--name", name, *(["--sweep"] if "sweep" in more else []))
    if "link" not in more:
        return ""
    from studio.views import make_link

    return make_link(User.objects.get(username=name))


def main() -> None:
    """Serve until nobody asks any more."""
    answers = os.fdopen(os.dup(1), "w")
    os.dup2(2, 1)  # what is said on the way is no answer
    for line in sys.stdin:
        branch = os.fork()
        if not branch:
            said = None
            try:
                said = set_up(*json.loads(line))
            except BaseException:
                traceback.print_exc()
            answers.write(json.dumps(said) + "\n")
            answers.flush()
            sys.stderr.flush()
            os._exit(0)  # a decoder it has started ends with it; what all branches share stays
        os.waitpid(branch, 0)


if __name__ == "__main__":
    main()
