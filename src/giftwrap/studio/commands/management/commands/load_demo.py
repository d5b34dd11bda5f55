"""`load_demo`: the database made ready, and the invented demo job in it."""

from __future__ import annotations

from typing import Any

from django.contrib.auth import get_user_model
from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from giftwrap.studio.jobs.models import Job
from giftwrap.studio.signin import DEMO_USER


class Command(BaseCommand):
    help = "Bring the database up to date and add the demo job if it is not there."
    requires_system_checks = ()

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--signed-in", action="store_true", help="also add the demo's designer")

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0, interactive=False)
        if options["signed_in"]:
            get_user_model().objects.get_or_create(username=DEMO_USER)
        if not Job.objects.filter(slug="velloway").exists():
            # all that makes pictures is loaded for this alone: not at every start
            from giftwrap.studio.rendering.demo import load_demo_job

            load_demo_job()
