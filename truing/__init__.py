"""The rules of the job: geometry, uncertainty, verdicts and advice, without web or database."""

VERSION = "3.28"
"""Stored with every finding, so that an old one can be told from a new one."""
