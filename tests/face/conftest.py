"""One started studio with the full-size demo frame, and one browser, for all face tests."""

import pathlib
import shutil

import pytest
from playwright.sync_api import Page

from fieldworld.outing import find
from tests.coast import shoot
from tests.face.running import Running, chromium, photographer, studio


@pytest.fixture(scope="session")
def demo_frames(tmp_path_factory):
    """The backlit stack at its full demo size, made once, with its truth."""
    folder = tmp_path_factory.mktemp("demo")
    shot = find("stack-backlit")
    return folder, {shot.name: shoot(shot, folder / f"{shot.name}.dng")}


@pytest.fixture(scope="session")
def running(tmp_path_factory) -> Running:
    """One studio for all files that leave it running, with an empty outing: the story uploads its own frame."""
    empty = tmp_path_factory.mktemp("empty")
    with studio(tmp_path_factory.mktemp("data"), empty) as started:
        yield started


@pytest.fixture(scope="module")
def with_frames(running, request):
    """The same studio for a photographer of the file's own: given a folder, with its frames in an outing."""
    name = request.module.__name__.rpartition(".")[2]
    return lambda folder: photographer(running, folder, name)


@pytest.fixture(scope="module")
def browser(running):
    """Chromium. Its driver's event loop must not outlive the file: Django's own tests would refuse to run beside it."""
    with chromium() as started:
        yield started


@pytest.fixture(scope="module")
def signed_in(browser, running):
    """A browser context in which the demo photographer is signed in, by the one-time link."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, accept_downloads=True)
    page = context.new_page()
    page.goto(running.link)
    page.wait_for_url(f"{running.url}/")
    page.close()
    return context


@pytest.fixture
def page(signed_in) -> Page:
    """A fresh page that fails the test on any script error."""
    errors: list[str] = []
    opened = signed_in.new_page()
    opened.on("pageerror", lambda error: errors.append(str(error)))
    yield opened
    opened.close()
    assert not errors, errors


@pytest.fixture(scope="session")
def spoiled(demo_frames, tmp_path_factory) -> pathlib.Path:
    """A frame cut in half."""
    path = tmp_path_factory.mktemp("bad") / "cut-short.dng"
    whole = demo_frames[0] / "stack-backlit.dng"
    shutil.copyfile(whole, path)
    with path.open("rb+") as file:
        file.truncate(whole.stat().st_size // 2)
    return path
