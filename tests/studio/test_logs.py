"""Lines of the log: each says which request or job it belongs to."""

import io
import json
import logging
import logging.config
import sys

import pytest

from studio import tasks
from studio.logs import logging_of
from studio.models import Job
from tests.studio.conftest import post

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def lines():
    """What is written, line by line, as JSON."""
    made = logging_of("INFO", as_json=True)
    formatter = logging.config.DictConfigurator(made).configure_formatter(made["formatters"]["lines"])
    handler = logging.StreamHandler(io.StringIO())
    handler.setFormatter(formatter)
    root = logging.getLogger()
    root.addHandler(handler)
    yield lambda: [json.loads(line) for line in handler.stream.getvalue().splitlines()]
    root.removeHandler(handler)


def test_a_request_that_failed_is_found_by_the_name_in_its_answer(client, scene, lines, monkeypatch):
    def full(*given, **named):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("studio.services.development", full)
    body = {"document": scene["revision"]["document"], "x": 0.5, "y": 0.5}
    answer = post(client, f"/api/scenes/{scene['id']}/spot", body, 503)
    (line,) = [line for line in lines() if line["event"] == "the disk refused"]
    assert line["request"] == answer["X-Request"]
    assert line["path"].endswith("/spot")
    assert line["level"] == "error"
    assert "No space left" in json.dumps(line["exception"])


def test_what_a_job_says_names_the_job(ana, lines):
    job = Job.objects.create(user=ana, settings={})

    def work(at):
        logging.getLogger("studio.tasks").warning("half of it")
        return "Done."

    tasks._run(job.pk, "begun", "Nothing is left.", work)
    logging.getLogger("studio.tasks").warning("after it")
    said = {line["event"]: line.get("job") for line in lines()}
    assert said["half of it"] == job.pk
    assert said["after it"] is None
    assert Job.objects.get(pk=job.pk).state == Job.DONE


def test_a_traceback_tells_no_values():
    """Lines say where it went wrong, not what was held there."""
    made = logging_of("INFO", as_json=False)
    formatter = logging.config.DictConfigurator(made).configure_formatter(made["formatters"]["lines"])
    held = "tide-and-" + "stack"
    try:
        raise OSError(f"refused {len(held)}")
    except OSError:
        record = logging.LogRecord(
            "studio", logging.ERROR, __file__, 1, "the disk refused", (), sys.exc_info()
        )
    said = formatter.format(record)
    assert "OSError: refused 14" in said
    assert held not in said
