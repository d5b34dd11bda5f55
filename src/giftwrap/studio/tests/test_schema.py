"""The schema: valid, complete, and what the front end's types are made from."""

from __future__ import annotations

import json
import subprocess

from django.conf import settings
from django.test import SimpleTestCase
from openapi_spec_validator import OpenAPIV31SpecValidator

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

    def test_it_is_valid_openapi_3_1(self) -> None:
        """By openapi-spec-validator, which holds it to the OpenAPI Initiative's own schema."""
        schema = json.loads(json.dumps(api.get_openapi_schema()))
        self.assertEqual([error.message for error in OpenAPIV31SpecValidator(schema).iter_errors()], [])

    def test_every_address_names_what_may_go_wrong(self) -> None:
        for path, methods in api.get_openapi_schema()["paths"].items():
            for method, operation in methods.items():
                answers = {int(status) for status in operation["responses"]}
                self.assertIn(503, answers, path)
                self.assertEqual("{" in path, 404 in answers, path)
                if not path.startswith("/api/client/"):
                    self.assertIn(401, answers, path)
                if method != "get":
                    self.assertLessEqual({400, 403, 413, 422, 507}, answers, path)
