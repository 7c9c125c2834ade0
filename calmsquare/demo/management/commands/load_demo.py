"""Build the pattern of the demo workshop if it is not there; --anew builds it in any case."""

from __future__ import annotations

from argparse import ArgumentParser
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from calmsquare.demo.services import load
from calmsquare.demo.sweeping import make_room, sweep
from calmsquare.workshop.models import Workshop


class Command(BaseCommand):
    """See the module."""

    help = __doc__ or ""

    def add_arguments(self, parser: ArgumentParser) -> None:
        parser.add_argument("--anew", action="store_true")
        parser.add_argument("--migrate", action="store_true", help="bring the tables up first")

    def handle(self, *args: Any, **options: Any) -> None:
        if options["migrate"]:
            call_command("migrate", verbosity=0)
        if options["anew"]:
            Workshop.objects.filter(is_pattern=True).update(pattern_version="")
        workshop = load()
        sweep(1000)
        make_room()
        self.stdout.write(f"Demo workshop “{workshop.name}” is there.")
