"""What tests set before the studio's settings are read: a plugin, as they are read before any conftest."""

import os
import tempfile

os.environ.setdefault("SUNLATCH_DATA", tempfile.mkdtemp(prefix="sunlatch-test-"))
# machines are busy when tests run: what is given up there would not be elsewhere
os.environ.setdefault("SUNLATCH_PATIENCE", "300")
# what nobody asks for is not looked for ahead, but where that is what is tried
os.environ.setdefault("SUNLATCH_SKY_AHEAD", "0")
