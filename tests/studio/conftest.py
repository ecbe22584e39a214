"""The server's tests keep their files to themselves and run jobs at once."""

import pytest
from huey.contrib.djhuey import HUEY


@pytest.fixture(autouse=True)
def _own_files(settings, tmp_path):
    settings.FRAME_FOLDER = tmp_path / "frames"
    settings.EXPORT_FOLDER = tmp_path / "exports"
    HUEY.immediate = True
    yield
    HUEY.immediate = False
