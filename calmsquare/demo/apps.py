"""The demo app."""

from django.apps import AppConfig


class DemoConfig(AppConfig):
    """Holds the command that loads the demo data, and who has opened it from where."""

    name = "calmsquare.demo"
