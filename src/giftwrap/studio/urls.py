"""Addresses: the API, signing in and out, and the one page whose script does the rest."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.contrib.auth.views import LoginView, LogoutView
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path

from giftwrap.studio.api import api


def page(request: HttpRequest, token: str = "") -> HttpResponse:
    """The built front end. What a client link shows is looked up by its script."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The pages are not built yet: run ./giftwrap demo.", status=503)
    return HttpResponse(index.read_bytes(), headers={"Cache-Control": "no-cache"})


urlpatterns = [
    path("api/", api.urls),
    path("sign-in/", LoginView.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("c/<str:token>", page),
    re_path(r"^(?!api/|assets/|live/)", login_required(page)),
]
