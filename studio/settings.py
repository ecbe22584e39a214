"""Settings. Everything that differs between machines comes from the environment."""

import os
import secrets
from contextlib import suppress
from pathlib import Path

from .logs import logging_of

ROOT = Path(__file__).resolve().parent.parent
DATA = Path(os.environ.get("SUNLATCH_DATA", ROOT / "data")).resolve()
DATA.mkdir(parents=True, exist_ok=True)
with suppress(OSError):
    DATA.chmod(0o700)  # frames and sessions are nobody else's business


def _secret() -> str:
    """This installation's own key, made on the first start and kept in the data folder."""
    path = DATA / "secret-key"
    if not path.exists():
        part = DATA / f"secret-key.{os.getpid()}.part"
        part.touch(mode=0o600)
        part.write_text(secrets.token_urlsafe(48))
        part.replace(path)
    return path.read_text()


SECRET_KEY = _secret()
DEBUG = False
ALLOWED_HOSTS = os.environ.get("SUNLATCH_HOSTS", "127.0.0.1,localhost,[::1]").split(",")
INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "huey.contrib.djhuey",
    "ninja",
    "studio",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "studio.middleware.while_wanted",
]
ROOT_URLCONF = "studio.urls"
ASGI_APPLICATION = "studio.asgi.application"
TEMPLATES: list[dict[str, object]] = []
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": DATA / "studio.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;",
        },
        "TEST": {"NAME": DATA / "test.sqlite3"},
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
USE_TZ = True
TIME_ZONE = "UTC"
STATIC_URL = "/static/"
WHITENOISE_ROOT = ROOT / "web" / "dist"
WHITENOISE_INDEX_FILE = True
WHITENOISE_ALLOW_ALL_ORIGINS = False
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
# behind a proxy that speaks TLS: cookies go over nothing else, and forms come from nowhere else
if os.environ.get("SUNLATCH_TLS", "") not in ("", "0"):
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
# how many proxies stand before the studio: whose word on a visitor's address is taken
NINJA_NUM_PROXIES = int(os.environ.get("SUNLATCH_PROXIES", 0))
SIGN_IN_PACE = ("10/m", "60/m")
"""Attempts to sign in: of one name from one address, and from one address."""
LINK_HOURS = 24
REMOVED_DAYS = 7
"""What was removed can be taken back for so long; then it is gone."""
PICTURE_SECONDS = float(os.environ.get("SUNLATCH_PATIENCE", 20))
"""A picture that takes longer to compute is given up with a sentence."""
MEND_SECONDS = 120.0
"""What a repair or a new sky may be looked for: nobody else waits for it, and it says that it goes on."""
DATA_UPLOAD_MAX_MEMORY_SIZE = None  # bodies are limited by route before they are read (studio/door.py)

REDIS_URL = os.environ.get("SUNLATCH_REDIS", "")
HUEY = {
    "huey_class": "huey.RedisHuey" if REDIS_URL else "huey.SqliteHuey",
    "name": "sunlatch",
    "immediate": False,
    "results": False,
    "connection": {"url": REDIS_URL} if REDIS_URL else {},
    "consumer": {"workers": 1, "worker_type": "thread", "check_worker_health": True},
} | ({} if REDIS_URL else {"filename": str(DATA / "jobs.sqlite3")})

MAX_UPLOAD_BYTES = 2 << 30
FRAME_FOLDER = DATA / "frames"
ARRIVING_FOLDER = DATA / "arriving"
"""Where what is on its way in lies until it has proved to be a frame."""
# folders that may be read where they lie; anybody who can sign in can look into them
READABLE_FOLDERS = [
    Path(p)
    for p in os.environ.get(
        "SUNLATCH_FOLDERS", f"{Path.home()}{os.pathsep}/media{os.pathsep}{DATA / 'demo'}"
    ).split(os.pathsep)
    if p
]
BLOB_FOLDER = DATA / "blobs"
EXPORT_FOLDER = DATA / "exports"
PYRAMID_FOLDER = DATA / "pyramids"
JOIN_FOLDER = DATA / "joins"
THUMBNAIL_FOLDER = DATA / "thumbnails"
SKY_AHEAD = os.environ.get("SUNLATCH_SKY_AHEAD", "1") != "0"
"""Whether the sky of an opened scene is looked for before anybody asks: seconds of two cores, behind all else."""
PYRAMID_QUOTA = int(os.environ.get("SUNLATCH_PYRAMID_QUOTA", 20 << 30))
LOGGING = logging_of(os.environ.get("SUNLATCH_LOG", "WARNING"), bool(os.environ.get("SUNLATCH_LOG_JSON")))
