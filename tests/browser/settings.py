"""As the application is set, but that a password is kept in no time: nobody guesses these."""

from calmsquare.settings import *  # noqa: F403

PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
