"""`dispatch`: the process that works orders off."""

from __future__ import annotations

import contextlib
import logging
import time
from typing import Any

from distributed import Client
from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import DatabaseError

from giftwrap.crew.keys import crew_security, provide_keys
from giftwrap.studio.rendering.dispatcher import Dispatcher
from giftwrap.studio.upkeep.sweep import sweep_when_due

log = logging.getLogger(__name__)

IDLE_S = 0.3
RECOVERY_S = 1.0


class Command(BaseCommand):
    help = "Work orders off, one after the other, until stopped."
    requires_system_checks = ()

    def handle(self, *args: Any, **options: Any) -> None:
        security = crew_security(provide_keys(settings.HOME))
        while True:
            try:
                client = Client(settings.SCHEDULER_ADDRESS, security=security, timeout=5)
            except (OSError, TimeoutError):
                time.sleep(IDLE_S)
                continue
            dispatcher = Dispatcher(client)
            while client.status == "running":
                self._work(dispatcher)
            with contextlib.suppress(Exception):
                client.close(timeout=1)
            log.warning("The scheduler went away: connecting again.")

    def _work(self, dispatcher: Dispatcher) -> None:
        """Work on the next order, or sweep, or rest. A database that does not answer is asked again."""
        try:
            if not dispatcher.run_next() and not sweep_when_due():
                time.sleep(IDLE_S)
        except (DatabaseError, OSError) as error:
            log.warning("The dispatcher cannot work just now: %s", error)
            time.sleep(RECOVERY_S)
