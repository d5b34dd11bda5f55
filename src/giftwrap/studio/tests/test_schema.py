"""The schema the front end's types are made from is the API's present one."""

from __future__ import annotations

import json
import subprocess

from django.conf import settings
from django.test import SimpleTestCase

from giftwrap.studio.api import api

WEB = settings.BASE_DIR / "web"


class SchemaTests(SimpleTestCase):
    def test_exported_schema_is_current(self) -> None:
        exported = json.loads((WEB / "src" / "api" / "openapi.json").read_text())
        hint = "run: ./giftwrap manage export_schema > web/src/api/openapi.json && npm run schema"
        self.assertEqual(exported, json.loads(json.dumps(api.get_openapi_schema())), hint)

    def test_generated_types_are_current(self) -> None:
        command = ["npx", "openapi-typescript", "src/api/openapi.json"]
        made = subprocess.run(command, cwd=WEB, capture_output=True, text=True, check=True).stdout
        self.assertEqual(made.strip(), (WEB / "src" / "api" / "schema.ts").read_text().strip())
