"""The one place where what goes wrong becomes an answer with words, for the API and for pages."""

from __future__ import annotations

import logging
from typing import Any

from django.core.exceptions import BadRequest, RequestDataTooBig, SuspiciousOperation
from django.db import OperationalError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.http.multipartparser import MultiPartParserError
from django.shortcuts import render
from ninja import NinjaAPI
from ninja.errors import HttpError
from ninja.errors import ValidationError as RequestInvalid
from pydantic import ValidationError

from giftwrap.core.errors import DiskFull, GiftwrapError
from giftwrap.core.model.document import describe_invalid, shortened
from giftwrap.studio.jobs.revisions import NothingToStepTo, StaleRevision
from giftwrap.studio.review.models import Replaced
from giftwrap.studio.room import says_full

log = logging.getLogger(__name__)

MISSING = "That is not here: it may have been removed, or the address is wrong."
BROKEN = "Something broke inside the studio. What you did stays on this page: try again in a moment."
BUSY = "The studio is busy and did not get to it. What you did stays on this page: try again in a moment."
NOT_YOURS = "This page may not change things any more: reload it and try again."
WORDS = {
    400: "That could not be read: it is no sound request.",
    401: "Sign in first.",
    403: NOT_YOURS,
    404: MISSING,
    405: "That cannot be done here.",
    413: "That is too large.",
    429: "That was tried too often. Wait a minute and try again.",
}


def refuse_by(api: NinjaAPI) -> None:
    """Have an API answer in words whatever goes wrong."""

    def answer(request: HttpRequest, status: int, message: str, place: str = "", **more: Any) -> HttpResponse:
        return api.create_response(request, {"message": message, "place": place, **more}, status=status)

    @api.exception_handler(GiftwrapError)
    def refused(request: HttpRequest, error: GiftwrapError) -> HttpResponse:
        return answer(request, 422, error.message, error.place)

    @api.exception_handler(DiskFull)
    def full(request: HttpRequest, error: DiskFull) -> HttpResponse:
        return answer(request, 507, error.message)

    @api.exception_handler(StaleRevision)
    def stale(request: HttpRequest, error: StaleRevision) -> HttpResponse:
        return answer(request, 409, error.message, current=error.current, kept=error.kept)

    @api.exception_handler(NothingToStepTo)
    @api.exception_handler(Replaced)
    def nothing(request: HttpRequest, error: GiftwrapError) -> HttpResponse:
        return answer(request, 409, error.message)

    @api.exception_handler(ValidationError)
    def document_invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
        return answer(request, 422, *describe_invalid(error))

    @api.exception_handler(RequestInvalid)
    def request_invalid(request: HttpRequest, error: RequestInvalid) -> HttpResponse:
        return answer(request, 422, **error.errors[0])

    @api.exception_handler(Http404)
    def missing(request: HttpRequest, error: Http404) -> HttpResponse:
        return answer(request, 404, MISSING)

    @api.exception_handler(HttpError)
    def http_error(request: HttpRequest, error: HttpError) -> HttpResponse:
        return answer(request, error.status_code, WORDS.get(error.status_code, shortened(str(error))))

    @api.exception_handler(SuspiciousOperation)
    @api.exception_handler(BadRequest)
    @api.exception_handler(MultiPartParserError)
    def suspicious(request: HttpRequest, error: Exception) -> HttpResponse:
        status = 413 if isinstance(error, RequestDataTooBig) else 400
        return answer(request, status, WORDS[status])

    @api.exception_handler(Exception)
    def broken(request: HttpRequest, error: Exception) -> HttpResponse:
        if says_full(error):
            return answer(request, 507, DiskFull().message)
        if isinstance(error, OperationalError) and "locked" in str(error):
            return answer(request, 503, BUSY)
        log.error("%s %s", request.method, request.path, exc_info=error)
        return answer(request, 503 if isinstance(error, OperationalError) else 500, BROKEN)


def page_refused(request: HttpRequest, status: int, words: str) -> HttpResponse:
    """The answer to a request outside the API: words as JSON where scripts ask, or a plain page."""
    if request.path.startswith("/api/"):
        return JsonResponse({"message": words, "place": ""}, status=status)
    return render(request, "plain.html", {"words": words}, status=status)


def bad_request(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Django's handler400."""
    status = 413 if isinstance(exception, RequestDataTooBig) else 400
    return page_refused(request, status, WORDS[status])


def forbidden(request: HttpRequest, exception: Exception | None = None, reason: str = "") -> HttpResponse:
    """Django's handler403, and the answer to a form without the page's token."""
    return page_refused(request, 403, NOT_YOURS)


def not_found(request: HttpRequest, exception: Exception) -> HttpResponse:
    """Django's handler404."""
    return page_refused(request, 404, MISSING)


def broken_page(request: HttpRequest) -> HttpResponse:
    """Django's handler500."""
    return page_refused(request, 500, BROKEN)
