"""Headers that every answer carries."""

from __future__ import annotations

from collections.abc import Callable

from django.conf import settings
from django.http import HttpRequest, HttpResponse


class SafeHeaders:
    """Pictures and pages are for this origin alone, and no page gets more of the browser than it needs."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        response = self.get_response(request)
        for name, value in settings.SAFE_HEADERS.items():
            response.headers.setdefault(name, value)
        return response
