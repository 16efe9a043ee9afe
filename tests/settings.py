"""The application's settings, for tests: quick passwords, plain static files, a pinned day."""

from jaded_ledger.settings import *  # noqa: F403
from jaded_ledger.settings import CACHES, DATABASES, LOGGING, MIDDLEWARE, PROCRASTINATE_WORKER_DEFAULTS, ROOT, TEMPLATES
from tests.support.clock import follow_parent

follow_parent()
TEST_RUNNER = "tests.runner.Runner"
PINNED_TODAY = None
ALLOWED_HOSTS = ["*"]
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.InMemoryStorage"},
    "staticfiles": {"BACKEND": "django.contrib.staticfiles.storage.StaticFilesStorage"},
}
# Copies of a database have the same version of the facts, and not the same sales.
CACHES["sales"] = {"BACKEND": "django.core.cache.backends.dummy.DummyCache"}
# Those that a worker writes are thrown away with the databases.
READING_COPIES = ROOT / "var" / "reading-copies-of-tests"
# What a test refuses or forbids on purpose is no news.
LOGGING["loggers"]["django.request"] = {"level": "CRITICAL"}
# A face of Find's results that only the tests have.
TEMPLATES[0]["DIRS"] = [ROOT / "tests" / "templates"]
# A worker that a test kills is soon given up.
PROCRASTINATE_WORKER_DEFAULTS = PROCRASTINATE_WORKER_DEFAULTS | {"update_heartbeat_interval": 1.0, "stalled_worker_timeout": 4.0}
# Tests run side by side on whatever machine there is: what is measured in seconds here are the tests of these limits, which set their own.
STATEMENT_SECONDS = {"read": 60, "act": 300}
REQUEST_SECONDS = {"read": 120, "act": 600}
# Databases are cloned and dropped between classes, so that no connection may linger.
DATABASES["default"]["CONN_MAX_AGE"] = 0
# The live server serves static files itself; nothing was collected.
MIDDLEWARE = [name for name in MIDDLEWARE if "whitenoise" not in name]
