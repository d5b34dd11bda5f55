"""A signed-in designer, a job, and files that go to a folder of their own."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path
from typing import Any

from django.contrib.auth import get_user_model
from django.test import TestCase, override_settings

from giftwrap.core.render.files import shelf
from giftwrap.studio.files import read_file
from giftwrap.studio.jobs.models import Job
from giftwrap.studio.jobs.services import start_job


class StudioTestCase(TestCase):
    """Each test starts with the job “Pear cordial” and nobody else about."""

    job: Job

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.home = Path(folder.name)
        settings = override_settings(
            FILES_DIR=self.home / "files",
            RENDERS_DIR=self.home / "renders",
            DEMO=False,
            PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"],  # quick, for tests only
        )
        settings.enable()
        self.addCleanup(settings.disable)
        self.user = get_user_model().objects.create_user("ada", password="pips")
        self.client.force_login(self.user)
        self.job = start_job("Pear cordial", "Velloway Orchard House")
        self.shot = self.job.shots.get()
        shelf.fetch_with(read_file)

    def send(self, method: str, address: str, body: Any = None) -> tuple[int, Any]:
        """Call the API with JSON; returns status and answer."""
        call = getattr(self.client, method)
        response = call(address, data=json.dumps(body), content_type="application/json")
        return response.status_code, response.json()

    def pack(self) -> dict[str, Any]:
        """The job's pack as the API tells it."""
        return self.client.get(f"/api/jobs/{self.job.slug}").json()["packs"][0]
