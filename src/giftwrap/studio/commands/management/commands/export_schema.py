"""`export_schema`: the API's OpenAPI schema, from which the front end's types are made."""

from __future__ import annotations

import json
from typing import Any

from django.core.management.base import BaseCommand

from giftwrap.studio.api import api


class Command(BaseCommand):
    help = "Print the OpenAPI schema."

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(json.dumps(api.get_openapi_schema(), indent=1, ensure_ascii=False))
