"""Django's settings; what a person may set is in conf.py."""

from __future__ import annotations

import os
import secrets

from server.project.conf import PROJECT, conf
from server.project.static import add_headers
from server.queue.outage import wait_for_the_database
from tray_core.marks.fonts import FOLDERS as MARKS
from tray_core.photo.profile_files import FOLDERS

# The core looks for color profiles, fonts and mark pictures there, in this process and in those that it starts.
os.environ.setdefault(FOLDERS, str(conf.profiles))
os.environ.setdefault(MARKS, str(conf.marks))
for folder in (conf.media, conf.cache, conf.media / "incoming"):
    folder.mkdir(parents=True, exist_ok=True)


def _secret() -> str:
    path = conf.var / "secret"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(50))
    return path.read_text()


BASE_DIR = PROJECT
SECRET_KEY = conf.secret or _secret()
DEBUG = conf.debug
ALLOWED_HOSTS = conf.hosts.split(",")
INSTALLED_APPS = [
    "axes",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "ninja",
    "procrastinate.contrib.django",
    "server.studios",
    "server.live",
    "server.photos",
    "server.recipes",
    "server.trays",
    "server.framings",
    "server.runs",
    "server.guests",
    "server.board",
    "server.outlets",
    "server.deliveries",
    "server.inlets",
    "server.demo",
]
MIDDLEWARE = [
    "server.http.connections.let_go_before_streams",
    "django.middleware.security.SecurityMiddleware",
    "server.http.headers.more_headers",
    "csp.middleware.CSPMiddleware",
    "servestatic.middleware.ServeStaticMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.studios.middleware.find_studio",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "server.project.urls"
ASGI_APPLICATION = "server.project.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [PROJECT / "server" / "project" / "templates"],
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
            ]
        },
    }
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": conf.database,
        "USER": conf.database_user,
        "HOST": conf.database_host,
        "PORT": conf.database_port,
        "CONN_MAX_AGE": 0,
        # A connection from before the database was started again is no use to anybody.
        "CONN_HEALTH_CHECKS": True,
        "OPTIONS": {
            "passfile": str(conf.var / "pgpass"),
            # Connecting costs more than most queries do.
            "pool": {"min_size": 1, "max_size": 32, "timeout": 3},
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "server.studios.sign_in.SignIn"]
# Ten wrong passwords for a name from one address, then a quarter of an hour of nothing for these two together.
AXES_FAILURE_LIMIT = 10
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_LOCKOUT_CALLABLE = "server.studios.sign_in.locked_out"
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator"},
    {"NAME": "django.contrib.auth.password_validation.NumericPasswordValidator"},
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
LOGIN_URL = "/sign-in"
LOGIN_REDIRECT_URL = "/"
LOGOUT_REDIRECT_URL = "/sign-in"
LANGUAGE_CODE = "en-us"
TIME_ZONE = "UTC"
USE_TZ = True

MEDIA_ROOT = conf.media
STATIC_URL = "/static/"
STATIC_ROOT = PROJECT / "web" / "dist"
WEB_DIST = STATIC_ROOT
SERVESTATIC_ADD_HEADERS_FUNCTION = add_headers
SERVESTATIC_ALLOW_ALL_ORIGINS = False

FILE_UPLOAD_TEMP_DIR = str(conf.media / "incoming")
FILE_UPLOAD_MAX_MEMORY_SIZE = 1 << 20
DATA_UPLOAD_MAX_MEMORY_SIZE = 16 << 20  # a choice of all cells of a large tray
DATA_UPLOAD_MAX_NUMBER_FILES = 4

# In the database alone: a session that is ended there is ended everywhere, at once.
SESSION_ENGINE = "django.contrib.sessions.backends.db"
SESSION_COOKIE_SAMESITE = "Lax"
CSRF_COOKIE_SAMESITE = "Lax"
X_FRAME_OPTIONS = "DENY"
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        # Components set sizes and colors of single elements.
        "style-src": ["'self'", "'unsafe-inline'"],
        "img-src": ["'self'", "blob:", "data:"],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "form-action": ["'self'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
    }
}
# Where others than this machine's people are served, it is by HTTPS, whether here or at a proxy in front.
if conf.https:
    SECURE_SSL_REDIRECT = True
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = True
    SECURE_HSTS_PRELOAD = True
    SESSION_COOKIE_SECURE = True
    CSRF_COOKIE_SECURE = True
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
if conf.proxy:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    AXES_IPWARE_META_PRECEDENCE_ORDER = ["HTTP_X_FORWARDED_FOR", "REMOTE_ADDR"]

PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "tasks"
PROCRASTINATE_WORKER_DEFAULTS = {
    "update_heartbeat_interval": conf.heartbeat_seconds,
    "stalled_worker_timeout": conf.stalled_seconds,
    "delete_jobs": "successful",
    "fetch_job_polling_interval": 2.0,
    "worker_middleware": [wait_for_the_database],
}
TEST_RUNNER = "server.tests.runner.Runner"
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "{levelname} {name}: {message}", "style": "{"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "plain"}},
    # Refused requests are told to whoever asked; only faults of ours belong into the log.
    "loggers": {"django.request": {"level": "ERROR"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
