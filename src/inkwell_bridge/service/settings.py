"""Django's settings; everything that differs between places comes from ``environment``."""

from pathlib import Path

from inkwell_bridge import __version__
from inkwell_bridge.ends.guard import Guard
from inkwell_bridge.service import environment

SECRET_KEY = environment.signing_key()
DEBUG = False
# Hosts of clients, under which payment links are opened and nothing else.
PAYMENT_HOSTS = environment.names("INKWELL_PAYMENT_HOSTS", "")
ALLOWED_HOSTS = [*environment.names("INKWELL_HOSTS", "127.0.0.1,localhost,[::1]"), *PAYMENT_HOSTS]
# How often payment links may be opened from one address.
OPENINGS_PER_MINUTE = environment.number("INKWELL_OPENINGS_PER_MINUTE", 30)
SECURE = environment.number("INKWELL_SECURE", 0) == 1

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "procrastinate.contrib.django",
    "rest_framework",
    "django_filters",
    "drf_spectacular",
    "drf_spectacular_sidecar",
    "inkwell_bridge.service.people",
    "inkwell_bridge.service.connections",
    "inkwell_bridge.service.reference",
    "inkwell_bridge.service.bridges",
    "inkwell_bridge.service.links",
    "inkwell_bridge.service.exchange_rates",
    "inkwell_bridge.service.carriage",
    "inkwell_bridge.service.bank",
    "inkwell_bridge.service.clearing",
    "inkwell_bridge.service.completeness",
    "inkwell_bridge.service.requests",
    "inkwell_bridge.service.incoming",
    "inkwell_bridge.service.rehearsals",
    "inkwell_bridge.service.proposals",
    "inkwell_bridge.service.tieout",
    "inkwell_bridge.service.closing",
    "inkwell_bridge.service.notices",
]
MIDDLEWARE = [
    "inkwell_bridge.service.api.long_addresses.long_addresses_middleware",
    "inkwell_bridge.service.turns.turns_middleware",
    "inkwell_bridge.service.requests.hosts.payment_hosts_middleware",
    "django.middleware.security.SecurityMiddleware",
    "inkwell_bridge.service.console.policy_middleware",
    "inkwell_bridge.service.people.authentication.token_ends_middleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
ROOT_URLCONF = "inkwell_bridge.service.urls"
WSGI_APPLICATION = "inkwell_bridge.service.wsgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES = {"default": environment.database()}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_USER_MODEL = "people.Person"
# Those after the first are of earlier versions: a password kept by one of them is kept anew at the next sign-in.
PASSWORD_HASHERS = [
    "inkwell_bridge.service.people.hashing.Argon2id",
    "django.contrib.auth.hashers.ScryptPasswordHasher",
    "django.contrib.auth.hashers.PBKDF2PasswordHasher",
]
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 12}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
    {
        "NAME": "django.contrib.auth.password_validation.UserAttributeSimilarityValidator",
        "OPTIONS": {"user_attributes": ("email", "name")},
    },
]

PASSWORD_RESET_TIMEOUT = 3600

# So many tries to sign in to an account may fail from one address in a quarter of an hour.
FAILED_SIGN_INS = int(environment.number("INKWELL_FAILED_SIGN_INS", 10))
# Who else people can sign in through, where whoever runs the service names one.
OPENID = environment.openid()
# Without a mail server, the links of invitations are shown to whoever invites.
EMAIL_HOST, EMAIL_PORT, EMAIL_HOST_USER, EMAIL_HOST_PASSWORD, EMAIL_USE_TLS, EMAIL_USE_SSL = environment.mail_server()
EMAIL_TIMEOUT = 15
DEFAULT_FROM_EMAIL = environment.names("INKWELL_MAIL_FROM", "inkwell-bridge@localhost")[0]

LANGUAGE_CODE = "en-gb"
USE_I18N = False
USE_TZ = True
TIME_ZONE = "UTC"

CONSOLE = Path(environment.names("INKWELL_CONSOLE", str(Path(__file__).parents[3] / "console" / "dist"))[0])
STATIC_URL = "/static/"
WHITENOISE_USE_FINDERS = True
# The build puts a digest of each file's content into its name.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/.+-[\w-]{8}\.\w+$"
WHITENOISE_ROOT = CONSOLE if CONSOLE.is_dir() else None

SESSION_ENGINE = "inkwell_bridge.service.people.browser_sessions"
SESSION_COOKIE_HTTPONLY = True
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE
SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "inkwell_session", "inkwell_csrf"
SESSION_COOKIE_AGE = 12 * 3600
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
SECURE_HSTS_SECONDS = 31_536_000 if SECURE else 0
# The proxy that speaks HTTPS says so; who comes around it is sent there, but for who only asks whether we live.
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if SECURE else None
SECURE_SSL_REDIRECT, SECURE_REDIRECT_EXEMPT = SECURE, [r"^alive$"]
DATA_UPLOAD_MAX_MEMORY_SIZE = 2_000_000

REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": [
        "inkwell_bridge.service.people.authentication.BearerAuthentication",
        "rest_framework.authentication.SessionAuthentication",
    ],
    "DEFAULT_PERMISSION_CLASSES": ["rest_framework.permissions.IsAuthenticated"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": ["inkwell_bridge.service.api.parsing.BoundedJSONParser"],
    "DEFAULT_FILTER_BACKENDS": ["django_filters.rest_framework.DjangoFilterBackend"],
    "DEFAULT_PAGINATION_CLASS": "inkwell_bridge.service.api.paging.CursorPages",
    "DEFAULT_SCHEMA_CLASS": "inkwell_bridge.service.api.schema.RoleSchema",
    "DEFAULT_THROTTLE_RATES": {"sign-in": f"{environment.number('INKWELL_SIGN_INS_PER_MINUTE', 30):.0f}/min"},
    # Whoever asks could write anything into X-Forwarded-For; only what our own proxies added is believed.
    "NUM_PROXIES": int(environment.number("INKWELL_PROXIES", 0)),
    "EXCEPTION_HANDLER": "inkwell_bridge.service.api.problem.answer",
    "COERCE_DECIMAL_TO_STRING": True,
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Inkwell Bridge",
    "DESCRIPTION": "Carries storefront orders onto accounting documents, once, whole and provably. "
    "Errors are Problem Details (RFC 9457); lists are paged by cursor.",
    "VERSION": __version__,
    "OAS_VERSION": "3.1.0",
    "SERVE_INCLUDE_SCHEMA": False,
    "SCHEMA_PATH_PREFIX": "/api/v1",
    "COMPONENT_SPLIT_REQUEST": True,
    "SWAGGER_UI_DIST": "SIDECAR",
    "SWAGGER_UI_FAVICON_HREF": "SIDECAR",
    "ENUM_NAME_OVERRIDES": {
        "PartEnum": "inkwell_bridge.service.reference.models.Part",
        "RoleEnum": "inkwell_bridge.service.people.roles.Role",
        "CrossingStateEnum": "inkwell_bridge.service.carriage.states.CrossingState",
        "DocumentStateEnum": "inkwell_bridge.service.carriage.states.DocumentState",
        "RunStateEnum": "inkwell_bridge.service.carriage.states.RunState",
        "WorkStateEnum": "inkwell_bridge.service.asked_work.WorkState",
        "OutcomeEnum": [("carry", "carry"), ("hold", "hold"), ("left out", "left out")],
        "ConnectionStateEnum": "inkwell_bridge.service.connections.models.ConnectionState",
    },
}

END_TIMEOUT_SECONDS = environment.number("INKWELL_END_TIMEOUT_SECONDS", 15)
END_GUARD = Guard.of(
    hosts=environment.names("INKWELL_END_HOSTS", "*"), networks=environment.names("INKWELL_END_NETWORKS", "")
)
HEARTBEAT_SECONDS = environment.number("INKWELL_HEARTBEAT_SECONDS", 5)
STALLED_AFTER_SECONDS = environment.number("INKWELL_STALLED_AFTER_SECONDS", 20)
PAUSE_SECONDS = environment.number("INKWELL_PAUSE_SECONDS", 4)
# How often a worker looks for jobs whose time has come; new ones it is told of at once.
POLL_SECONDS = environment.number("INKWELL_POLL_SECONDS", 2)
# While an end is away it is asked so often whether it is back, by one document for all.
PROBE_SECONDS = environment.number("INKWELL_PROBE_SECONDS", 60)
# Where people and ends reach the service: it stands in messages that nobody's request is behind.
PUBLIC_ADDRESS = environment.names("INKWELL_PUBLIC_ADDRESS", "http://127.0.0.1:8642")[0].rstrip("/")
# A new trouble is watched so long before it is told, told again so soon when it has doubled, and when it lasts so long.
NOTICE_BUNDLE_SECONDS = environment.number("INKWELL_NOTICE_BUNDLE_SECONDS", 60)
NOTICE_GREW_SECONDS = environment.number("INKWELL_NOTICE_GREW_SECONDS", 3600)
NOTICE_LASTS_SECONDS = environment.number("INKWELL_NOTICE_LASTS_SECONDS", 86_400)
UPKEEP_SECONDS = environment.number("INKWELL_UPKEEP_SECONDS", 2)
# Run entries, records of calls and superseded snapshots are kept so long.
KEEP_DAYS = environment.number("INKWELL_KEEP_DAYS", 400)
REPORT_FONTS = environment.report_fonts()
# Statements are dropped into this folder, in one for each workspace and account.
BANK_FOLDER = environment.folder("INKWELL_BANK_FOLDER", "bank-statements")
# Modules that register further kinds of document.
KINDS = environment.names("INKWELL_KINDS", "")
PROCRASTINATE_AUTODISCOVER_MODULE_NAME = "jobs"
PROCRASTINATE_ON_APP_READY = "inkwell_bridge.service.logs.ready"

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"json": {"()": "inkwell_bridge.service.logs.formatter"}},
    "handlers": {"stderr": {"class": "logging.StreamHandler", "formatter": "json"}},
    "root": {"handlers": ["stderr"], "level": "WARNING"},
    "loggers": {"inkwell": {"level": "INFO"}},
}
