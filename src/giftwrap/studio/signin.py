"""Signing in: Django's own, slowed down after failures, and by itself in the demo."""

from __future__ import annotations

import ipaddress
from collections.abc import Callable
from importlib import import_module
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user, get_user_model
from django.contrib.auth.models import AnonymousUser
from django.http import HttpRequest, HttpResponse
from django.http.cookie import parse_cookie
from django.shortcuts import render

DEMO_USER = "designer"
TOO_OFTEN = "That name or password was wrong too often. Wait a minute and try again."


class DemoSignIn:
    """Takes visitors from the loopback address for the demo's designer. No session is kept of them."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        if settings.DEMO and not request.user.is_authenticated:
            user = demo_user(request.META.get("REMOTE_ADDR", ""))
            if user is not None:
                request.user = user
        return self.get_response(request)


def demo_user(address: str) -> Any:
    """The demo's designer for a visitor from this machine; None for others and outside the demo."""
    if not (settings.DEMO and is_loopback(address)):
        return None
    return get_user_model().objects.filter(username=DEMO_USER).first()


def signed_in_user(scope: dict[str, Any]) -> Any:
    """Who has opened an ASGI connection, by its session cookie or as the demo's visitor."""
    request = HttpRequest()
    cookies = parse_cookie(dict(scope["headers"]).get(b"cookie", b"").decode("latin-1"))
    engine = import_module(settings.SESSION_ENGINE)
    request.session = engine.SessionStore(cookies.get(settings.SESSION_COOKIE_NAME))
    user = get_user(request)
    if not user.is_authenticated:
        user = demo_user((scope.get("client") or ("",))[0]) or AnonymousUser()
    return user


def is_loopback(address: str) -> bool:
    """Whether a connection comes from this machine itself."""
    try:
        return ipaddress.ip_address(address).is_loopback
    except ValueError:
        return False


def locked_out(request: HttpRequest, *_: Any, **__: Any) -> HttpResponse:
    """The answer to a sign-in that comes too soon after many that failed."""
    return render(request, "registration/login.html", {"refusal": TOO_OFTEN}, status=429)
