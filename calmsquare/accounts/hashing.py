"""Passwords are slow to try on purpose: a few at a time, so that the rest of the shed goes on."""

from __future__ import annotations

from calmsquare.turns import Turns

PASSWORDS = Turns("Many are signing in just now. Wait a few seconds, then try again.")
a_turn = PASSWORDS.one
"""While a password is tried or made: one that tries, one that waits for it."""
