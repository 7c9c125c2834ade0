"""Load the demo workshop if it is not there; --reset puts it back to its start."""

from __future__ import annotations

from argparse import ArgumentParser
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from calmsquare.demo.services import demo_user, load, reset_demo


class Command(BaseCommand):
    """See the module."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--reset", action="store_true")
        parser.add_argument("--migrate", action="store_true", help="bring the tables up first")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["migrate"]:
            call_command("migrate", verbosity=0)
        workshop = load()
        if options["reset"]:
            reset_demo(demo_user())
        self.stdout.write(f"Demo workshop “{workshop.name}” is there.")
