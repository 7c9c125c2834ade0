"""As the application is set, but that a password is kept in no time: nobody guesses these; and
that all visitors of the demo come from one address."""

from calmsquare.settings import *  # noqa: F403

DEMO_OPENINGS = 100_000
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
