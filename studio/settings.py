"""Django settings. What differs from place to place comes from the environment."""

import hashlib
import os
from pathlib import Path
from urllib.parse import unquote, urlsplit

HOME = Path(__file__).resolve().parent.parent
HERE = HOME / "studio"

SECRET_KEY = os.environ.get("CHOROGRAPH_SECRET", "only-for-building-and-linting")
DEBUG = os.environ.get("CHOROGRAPH_DEBUG") == "1"
_host = os.environ.get("CHOROGRAPH_HOST", "127.0.0.1")
ALLOWED_HOSTS = ["*"] if _host == "0.0.0.0" else ["127.0.0.1", "localhost", "[::1]", _host]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.humanize",
    "django.contrib.postgres",
    "procrastinate.contrib.django",
    "django_htmx",
    "studio.accounts",
    "studio.shelf",
    "studio.blocks",
    "studio.prices",
    "studio.jobs",
    "studio.job_log",
    "studio.outbox",
    "studio.bookings",
    "studio.photos",
    "studio.progress",
    "studio.charting",
    "studio.workbench",
    "studio.agenda",
    "studio.quotes",
    "studio.intake",
    "studio.routes",
    "studio.schools",
    "studio.stitching",
    "studio.finishing",
    "studio.sums",
    "studio.audition",
    "studio.motifs",
    "studio.demo",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "studio.headers.ContentSecurity",
    "studio.plausible.plausible",
    "django.middleware.gzip.GZipMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
]
ROOT_URLCONF = "studio.urls"
WSGI_APPLICATION = "studio.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [HERE / "templates"],
        "APP_DIRS": False,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
            "builtins": ["studio.templatetags.measures"],
            "libraries": {
                "measures": "studio.templatetags.measures",
                "log": "studio.templatetags.log",
            },
        },
    }
]

_address = urlsplit(os.environ.get("DATABASE_URL", "postgresql://127.0.0.1/chorograph"))
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": _address.path.lstrip("/"),
        "USER": unquote(_address.username or ""),
        "PASSWORD": unquote(_address.password or ""),
        "HOST": _address.hostname,
        "PORT": _address.port or "",
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "jobs"
LOGOUT_REDIRECT_URL = "sign-in"

LANGUAGE_CODE = "en"
TIME_ZONE = os.environ.get("TZ", "UTC")
USE_TZ = True
USE_I18N = False

STATIC_URL = "static/"
STATICFILES_DIRS = [HERE / "static"]
# Collected by the start command under names that hold a digest of the contents, so that an upgrade
# serves no browser yesterday's script. Tests serve the files from where they lie.
STATIC_ROOT = os.environ.get("CHOROGRAPH_STATIC") or None
_STATIC_STORAGE = (
    "whitenoise.storage.CompressedManifestStaticFilesStorage" if STATIC_ROOT
    else "django.contrib.staticfiles.storage.StaticFilesStorage"
)  # fmt: skip
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": _STATIC_STORAGE},
}
WHITENOISE_USE_FINDERS = not STATIC_ROOT
WHITENOISE_AUTOREFRESH = DEBUG
WHITENOISE_MAX_AGE = 0

# Photographs of clients' tops. Served only through a view that knows whose they are.
MEDIA_ROOT = Path(os.environ.get("CHOROGRAPH_MEDIA", HOME / ".local" / "media"))
LARGEST_PHOTO = 30_000_000
LARGEST_UPLOAD = 20_000_000
DATA_UPLOAD_MAX_MEMORY_SIZE = 4_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 2_000_000
# Browsers keep cookies by host, not by port: two checkouts on one machine need names of their own.
_own = hashlib.sha256(SECRET_KEY.encode()).hexdigest()[:8]
SESSION_COOKIE_NAME = f"chorograph-{_own}"
CSRF_COOKIE_NAME = f"chorograph-csrf-{_own}"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

TEST_RUNNER = "studio.testing.Runner"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
