"""What tests of the core share."""

import pytest

from sunlatch.blobs import Blobs


@pytest.fixture(scope="module")
def blobs(tmp_path_factory):
    """Where scenes keep what they are too large to hold."""
    return Blobs(tmp_path_factory.mktemp("blobs"))
