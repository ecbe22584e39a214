"""The ASGI application."""

import os
import warnings

from django.core.asgi import get_asgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "studio.settings")
# the built face is a handful of small files; that they are read whole is as it should be
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous")
django = get_asgi_application()

from .door import Door  # noqa: E402  (settings must be there)

application = Door(django)
