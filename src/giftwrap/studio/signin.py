"""Signing in: Django's own, and by itself in the demo."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable

from django.conf import settings
from django.contrib.auth import get_user_model, login
from django.http import HttpRequest, HttpResponse

DEMO_USER = "designer"
PUBLIC_PREFIXES = ("/c/", "/api/client/", "/sign-in/", "/sign-out/", "/assets/")


class DemoSignIn:
    """Signs a visitor in as the demo's designer, from the loopback address and nowhere else."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if (
            settings.DEMO
            and not request.user.is_authenticated
            and not request.path.startswith(PUBLIC_PREFIXES)
            and is_loopback(request.META.get("REMOTE_ADDR", ""))
        ):
            user = get_user_model().objects.filter(username=DEMO_USER).first()
            if user is not None:
                login(request, user, backend="django.contrib.auth.backends.ModelBackend")
        return self.get_response(request)


def is_loopback(address: str) -> bool:
    """Whether a connection comes from this machine itself."""
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False
