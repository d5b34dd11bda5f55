"""Addresses: the API, signing in and out, and the one page whose script does the rest."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth.decorators import login_required
from django.contrib.auth.views import LoginView, LogoutView
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path

from giftwrap.studio.api import api
from giftwrap.studio.refusals import MISSING, page_refused


def page(request: HttpRequest, token: str = "") -> HttpResponse:
    """The built front end. What a client link shows is looked up by its script."""
    index = settings.WEB_DIST / "index.html"
    if not index.exists():
        return HttpResponse("The pages are not built yet: run ./giftwrap demo.", status=503)
    nonce = f'<meta name="style-nonce" content="{request.csp_nonce}">'
    text = index.read_text(encoding="utf-8").replace("<head>", f"<head>{nonce}", 1)
    return HttpResponse(text, headers={"Cache-Control": "no-cache"})


def closed(request: HttpRequest) -> HttpResponse:
    """What is under no address of the API."""
    return page_refused(request, 404, MISSING)


urlpatterns = [
    path("api/", api.urls),
    re_path(r"^api/", closed),
    path("sign-in/", LoginView.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("c/<str:token>", page),
    re_path(r"^(?!api/|assets/|live/)", login_required(page)),
]

handler400 = "giftwrap.studio.refusals.bad_request"
handler403 = "giftwrap.studio.refusals.forbidden"
handler404 = "giftwrap.studio.refusals.not_found"
handler500 = "giftwrap.studio.refusals.broken_page"
