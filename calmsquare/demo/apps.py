"""The demo app: no tables of its own."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """Holds the command that loads the demo data."""

    name = "calmsquare.demo"
