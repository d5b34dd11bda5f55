"""The library of materials as pages ask for it."""

from __future__ import annotations

import io

from PIL import Image

from giftwrap.core.materials.library import library
from giftwrap.studio.tests.base import StudioTestCase


class LibraryTests(StudioTestCase):
    def asked(self, **query: str) -> list[dict]:
        response = self.client.get("/api/material-library", query)
        self.assertEqual(response.status_code, 200, response.content[:200])
        return response.json()

    def test_all_of_it_and_what_is_sought(self) -> None:
        self.assertEqual([one["key"] for one in self.asked()], [one.key for one in library()])
        (amber, *_) = self.asked(words="amber", family="Glass")
        self.assertEqual((amber["name"], amber["finish"]), ("Amber glass", "clear"))
        self.assertEqual(amber["material"]["kind"], "clear")
        self.assertIn("from memory", amber["source"])
        near = self.asked(near="#101113", finish="gloss")
        self.assertEqual(near[0]["name"], "Gloss black ABS")

    def test_what_is_not_understood_is_said(self) -> None:
        for query, place in (({"near": "blue"}, "near"), ({"finish": "shiny"}, "finish")):
            response = self.client.get("/api/material-library", query)
            self.assertEqual(response.status_code, 422)
            self.assertIn(place, response.json()["place"])

    def test_a_picture_and_none(self) -> None:
        response = self.client.get("/api/material-library/amber-glass.webp")
        self.assertEqual((response.status_code, response["Content-Type"]), (200, "image/webp"))
        self.assertEqual(Image.open(io.BytesIO(response.content)).size, (168, 126))
        for wrong in ("no-such", "..%2Fsecret"):
            response = self.client.get(f"/api/material-library/{wrong}.webp")
            self.assertIn(response.status_code, (404, 422))
