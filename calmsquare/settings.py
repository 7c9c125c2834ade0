"""Settings, by environment: DATABASE_URL, SECRET_KEY, DEBUG, ALLOWED_HOSTS, WEB_DIST."""

from __future__ import annotations

from pathlib import Path

import environ
from csp.constants import NONCE, SELF
from django.core.exceptions import ImproperlyConfigured

env = environ.Env()
BASE_DIR = Path(__file__).resolve().parent.parent

DEBUG = env.bool("DEBUG", default=False)
SECRET_KEY = env("SECRET_KEY", default="")
if not SECRET_KEY.strip():
    # one made up here would differ from process to process, and an empty one signs for anybody
    raise ImproperlyConfigured("Set SECRET_KEY to a long random text, and keep it to yourself.")
BEHIND_FRONT = env.bool("BEHIND_FRONT", default=False)
"""Whether requests come by way of deploy/front.conf, which says whose they are."""
if BEHIND_FRONT:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
ALLOWED_HOSTS = env.list("ALLOWED_HOSTS", default=["localhost", "127.0.0.1", "[::1]"])
CSRF_TRUSTED_ORIGINS = env.list("CSRF_TRUSTED_ORIGINS", default=[])
DEMO = env.bool("DEMO", default=False)
"""Whether the demo workshop can be opened with one press and put back to its start."""
DEMO_OPENINGS = env.int("DEMO_OPENINGS", default=30)
"""Sheds that are copied for one address in an hour: a class may come at once."""

SECURE_COOKIES = env.bool("SECURE_COOKIES", default=not (DEMO or DEBUG))
"""Cookies go over TLS alone, and browsers are told to come by TLS alone. A shed whose server speaks
plain HTTP on its own network says SECURE_COOKIES=0."""
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_COOKIES
SECURE_HSTS_SECONDS = 365 * 24 * 3600 if SECURE_COOKIES else 0
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "ninja",
    "csp",
    "calmsquare.accounts",
    "calmsquare.workshop",
    "calmsquare.logbook",
    "calmsquare.jobs",
    "calmsquare.planning",
    "calmsquare.surfacing",
    "calmsquare.demo",
    "procrastinate.contrib.django",
]

MIDDLEWARE = [
    "calmsquare.noted.Noted",
    "calmsquare.front.KnockedFrom",
    "calmsquare.front.KeptByNobody",
    "calmsquare.problems.AlwaysTold",
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
    "calmsquare.problems.DatabaseAway",
    "calmsquare.problems.OnceMore",
]

AUTHENTICATION_BACKENDS = [
    "axes.backends.AxesStandaloneBackend",
    "django.contrib.auth.backends.ModelBackend",
]
# by name and address together: nobody can lock somebody else out from elsewhere
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
# when somebody signed in and out is nobody's business
AXES_DISABLE_ACCESS_LOG = True
AXES_LOCKOUT_CALLABLE = "calmsquare.problems.locked_out"

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {"NAME": "calmsquare.accounts.passwords.NotBlank"},
]

# of a body of JSON; the server in front takes as much
DATA_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024

ROOT_URLCONF = "calmsquare.urls"
WSGI_APPLICATION = "calmsquare.wsgi.application"
TEMPLATES: list[dict[str, object]] = []

DATABASES = {"default": env.db("DATABASE_URL", default="postgres://localhost/calmsquare")}
DATABASES["default"]["CONN_MAX_AGE"] = 60
DATABASES["default"]["CONN_HEALTH_CHECKS"] = True
DATABASES["default"]["ATOMIC_REQUESTS"] = True
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en"

WEB_DIST = Path(env("WEB_DIST", default=str(BASE_DIR / "web" / "dist")))
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
WHITENOISE_INDEX_FILE = False
WHITENOISE_KEEP_ONLY_HASHED_FILES = False


def WHITENOISE_IMMUTABLE_FILE_TEST(path: str, url: str) -> bool:
    """The build puts a hash of the content into every name under /assets/."""
    return url.startswith("/assets/")


CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [SELF],
        "style-src": [SELF, NONCE],
        "img-src": [SELF, "data:"],
        "object-src": ["'none'"],
        "frame-ancestors": ["'none'"],
        "base-uri": ["'none'"],
        "form-action": [SELF],
    }
}

STANDIN_SEED = env.int("STANDIN_SEED", default=0)
"""For tests: what the stand-in shows is scattered alike in every round; 0 for by chance."""

LOG_AS = env.str("LOG_AS", default="text")
"""`text`, or `json`: a line for a program."""
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {
        "text": {"()": "calmsquare.noted.AsText"},
        "json": {"()": "calmsquare.noted.AsJson"},
    },
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": LOG_AS}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    # a trace once, and what was refused in its request's own line
    "loggers": {
        "calmsquare.requests": {"level": "INFO"},
        "django.request": {"level": "ERROR"},
    },
}
