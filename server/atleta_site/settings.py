"""Settings of the web application. Everything that differs between machines comes from the environment; the defaults run on one."""

from __future__ import annotations

import os
import secrets
from pathlib import Path

PROJECT_DIR = Path(__file__).resolve().parents[2]
# What is kept here is this user's alone.
os.umask(0o077)
VAR_DIR = Path(os.environ.get("ATLETA_VAR", PROJECT_DIR / "var"))
VAR_DIR.mkdir(parents=True, exist_ok=True)
WEB_DIST = PROJECT_DIR / "web" / "dist"


def _secret_key() -> str:
    """The key from the environment, or one made once and kept beside the database."""
    if key := os.environ.get("ATLETA_SECRET_KEY"):
        return key
    kept = VAR_DIR / "secret-key"
    if not kept.exists():
        kept.touch(mode=0o600)
        kept.write_text(secrets.token_urlsafe(50))
    return kept.read_text()


SECRET_KEY = _secret_key()
DEBUG = os.environ.get("ATLETA_DEBUG") == "1"
ALLOWED_HOSTS = os.environ.get("ATLETA_HOSTS", "localhost,127.0.0.1,[::1]").split(",")
HTTPS = os.environ.get("ATLETA_HTTPS") == "1"
# Where the web server listens, and the one proxy before it, if there is one, that is believed when it says who asks.
LISTEN = os.environ.get("ATLETA_LISTEN", "127.0.0.1")
PROXY = os.environ.get("ATLETA_PROXY", "")

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.staticfiles",
    "rest_framework",
    "django_filters",
    "drf_spectacular",
    "people",
    "clips",
    "jobs",
    "reviews",
    "plans",
    "log",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "atleta_site.heads.Heads",
    "atleta_site.refusals.InWords",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "atleta_site.once.Once",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "atleta_site.urls"
WSGI_APPLICATION = "atleta_site.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "DIRS": [WEB_DIST], "APP_DIRS": True}]

# Readers and one writer at a time: a write transaction takes its lock when it begins and others wait for it, instead of failing
# half-way when two have read and both want to write.
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR_DIR / "atleta.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 30,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;",
        },
        # Each thread keeps its connection, and what it has read lately.
        "CONN_MAX_AGE": None,
        "ATOMIC_REQUESTS": False,
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
# Processes that analyse clips, and how much memory each may take.
WORKERS = int(os.environ.get("ATLETA_WORKERS", "1"))
WORKER_MEMORY_MB = int(os.environ.get("ATLETA_WORKER_MEMORY_MB", "4000"))

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = HTTPS
CSRF_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SECURE = HTTPS
CSRF_TRUSTED_ORIGINS = [origin for origin in os.environ.get("ATLETA_ORIGINS", "").split(",") if origin]
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SECURE_HSTS_SECONDS = 31_536_000 if HTTPS else 0

STATIC_URL = "/static/"
STATICFILES_DIRS = [WEB_DIST] if WEB_DIST.exists() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_IMMUTABLE_FILE_TEST = "atleta_site.heads.immutable"
MEDIA_DIR = VAR_DIR / "media"
FILE_UPLOAD_TEMP_DIR = VAR_DIR / "incoming"
FILE_UPLOAD_TEMP_DIR.mkdir(parents=True, exist_ok=True)
MOST_UPLOAD_BYTES = int(os.environ.get("ATLETA_MOST_UPLOAD_MB", "2048")) * 2**20
# A log of many years fits; films go through files.
DATA_UPLOAD_MAX_MEMORY_SIZE = MOST_PLAIN_BYTES = 8 * 2**20
FILE_UPLOAD_HANDLERS = ["django.core.files.uploadhandler.TemporaryFileUploadHandler"]
DEMO_DIR = PROJECT_DIR / "demo"
# Whether this is the demo world, which the sign-in page then says.
DEMO = os.environ.get("ATLETA_DEMO") == "1"

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-gb"

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["rest_framework.authentication.SessionAuthentication"],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["atleta_site.quick.QuickRenderer"],
    "DEFAULT_PARSER_CLASSES": ["atleta_site.sent.ObjectParser"],
    "DEFAULT_FILTER_BACKENDS": ["django_filters.rest_framework.DjangoFilterBackend"],
    "EXCEPTION_HANDLER": "atleta_site.refusals.answer",
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "DEFAULT_THROTTLE_RATES": {"sign_in": "10/min", "account": "20/hour"},
    # Who asks is the address that the web server saw; what is said of it by anybody but a known proxy it drops.
    "NUM_PROXIES": 0,
    "COERCE_DECIMAL_TO_STRING": False,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Atleta",
    "DESCRIPTION": "Clips, analyses, reviews and hand-overs of a weightlifting coach.",
    "VERSION": "1",
    "COMPONENT_SPLIT_REQUEST": True,
    "OAS_VERSION": "3.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "SERVE_PERMISSIONS": ["rest_framework.permissions.IsAuthenticated"],
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "reviews.openapi.add_document_schema",
        "atleta_site.documented.add_files",
    ],
    "ENUM_NAME_OVERRIDES": {
        "ClipLiftEnum": "clips.models.LIFT_CHOICES",
        "BestLiftEnum": "people.models.Best.LIFTS",
        "UnitEnum": "people.models.UNITS",
    },
}
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"without_tokens": {"()": "atleta_site.heads.WithoutTokens"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "filters": ["without_tokens"]}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"atleta": {"level": "INFO"}},
}
