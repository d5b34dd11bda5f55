"""Django settings. What differs between installations comes from the environment:

GIFTWRAP_HOME       where the database, files and logs live (default: var/ beside the code)
GIFTWRAP_SCHEDULER  address of the scheduler that spreads rendering work
GIFTWRAP_DEMO       "1" signs visitors from this machine in as the demo designer
GIFTWRAP_PROOF_PASSES  how often a proof is refined at most
GIFTWRAP_HOSTS      further host names to answer to, separated by commas
"""

import os
import secrets
from datetime import timedelta
from pathlib import Path

from csp.constants import NONCE, NONE, SELF

BASE_DIR = Path(__file__).resolve().parents[3]
HOME = Path(os.environ.get("GIFTWRAP_HOME") or BASE_DIR / "var").resolve()
os.umask(0o077)
HOME.mkdir(mode=0o700, parents=True, exist_ok=True)
HOME.chmod(0o700)
FILES_DIR = HOME / "files"
RENDERS_DIR = HOME / "renders"
INCOMING_DIR = HOME / "incoming"
INCOMING_DIR.mkdir(mode=0o700, exist_ok=True)
DISK_WARNING_BYTES = 2_000_000_000
DISK_RESERVE_BYTES = 150_000_000
"""Kept free for documents: nothing else is taken in when less is left."""
WEB_DIST = BASE_DIR / "web" / "dist"

DEMO = os.environ.get("GIFTWRAP_DEMO") == "1"
PROOF_PASSES = int(os.environ.get("GIFTWRAP_PROOF_PASSES", "99"))
SCHEDULER_ADDRESS = os.environ.get("GIFTWRAP_SCHEDULER", "tls://127.0.0.1:8786")


def _secret_key() -> str:
    path = HOME / "secret-key"
    if not path.exists():
        path.touch(mode=0o600)
        path.write_text(secrets.token_urlsafe(48))
    return path.read_text()


SECRET_KEY = _secret_key()
DEBUG = False
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
ALLOWED_HOSTS += filter(None, os.environ.get("GIFTWRAP_HOSTS", "").split(","))

INSTALLED_APPS = [
    "giftwrap.studio.commands",
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "channels",
    "giftwrap.studio.jobs",
    "giftwrap.studio.library",
    "giftwrap.studio.rendering",
    "giftwrap.studio.review",
]
MIDDLEWARE = [
    "giftwrap.studio.headers.SafeHeaders",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "giftwrap.studio.signin.DemoSignIn",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "axes.middleware.AxesMiddleware",
]
ROOT_URLCONF = "giftwrap.studio.urls"
ASGI_APPLICATION = "giftwrap.studio.asgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR / "src" / "giftwrap" / "studio" / "templates"],
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
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": HOME / "giftwrap.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
CHANNEL_LAYERS = {"default": {"BACKEND": "channels.layers.InMemoryChannelLayer"}}

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
WHITENOISE_INDEX_FILE = False

LOGIN_URL = "/sign-in/"
LOGIN_REDIRECT_URL = "/"
LOGOUT_REDIRECT_URL = "/sign-in/"
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
FILE_UPLOAD_TEMP_DIR = INCOMING_DIR
DATA_UPLOAD_MAX_MEMORY_SIZE = 80 * 1024 * 1024
SECURE_CONTENT_TYPE_NOSNIFF = True
X_FRAME_OPTIONS = "DENY"
SAFE_HEADERS = {
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=(), payment=(), usb=()",
}
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "base-uri": [NONE],
        "connect-src": [SELF],
        "font-src": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "img-src": [SELF, "blob:", "data:"],
        "script-src": [SELF],
        "style-src": [SELF, NONCE],
        "worker-src": [SELF, "blob:"],
    }
}
"""Nothing inline. Styles that the interface's components add carry the page's nonce."""
CSRF_FAILURE_VIEW = "giftwrap.studio.refusals.forbidden"

AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = timedelta(minutes=1)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_LOCKOUT_CALLABLE = "giftwrap.studio.signin.locked_out"
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True
AXES_VERBOSE = False

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"plain": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "plain"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
    "loggers": {"giftwrap": {"level": "INFO"}, "django.request": {"level": "ERROR"}},
}
