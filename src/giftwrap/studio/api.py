"""The API: one router an app, and the one place where errors become answers."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError as RequestInvalid
from ninja.errors import ValidationErrorContext
from ninja.security import django_auth
from pydantic import ValidationError

from giftwrap.core.errors import GiftwrapError
from giftwrap.core.model.document import describe_invalid
from giftwrap.studio.jobs.api import router as jobs_router
from giftwrap.studio.jobs.forming import router as forming_router
from giftwrap.studio.jobs.revisions import NothingToStepTo, StaleRevision
from giftwrap.studio.library.api import router as library_router
from giftwrap.studio.rendering.api import router as rendering_router
from giftwrap.studio.review.api import client_router
from giftwrap.studio.review.api import router as review_router

WRAPPERS = ("data", "document", "panel", "file")
"""Names of request parameters, which are no part of the document they carry."""


class StudioAPI(NinjaAPI):
    """Tells what is wrong with a request in the words of core, with the document's own places."""

    def validation_error_from_error_contexts(
        self, error_contexts: list[ValidationErrorContext]
    ) -> RequestInvalid:
        invalid = error_contexts[0].pydantic_validation_error
        message, place = describe_invalid(invalid, wrapped_in=WRAPPERS)
        return RequestInvalid([{"message": message, "place": place}])


api = StudioAPI(title="Giftwrap", version="1", auth=django_auth, docs_url=None)
api.add_router("", jobs_router)
api.add_router("", forming_router)
api.add_router("", library_router)
api.add_router("", rendering_router)
api.add_router("", review_router)
api.add_router("/client", client_router, auth=None)


def _answer(request: HttpRequest, status: int, message: str, place: str = "", **more: Any) -> HttpResponse:
    return api.create_response(request, {"message": message, "place": place, **more}, status=status)


@api.exception_handler(GiftwrapError)
def _refused(request: HttpRequest, error: GiftwrapError) -> HttpResponse:
    return _answer(request, 422, error.message, error.place)


@api.exception_handler(StaleRevision)
def _stale(request: HttpRequest, error: StaleRevision) -> HttpResponse:
    return _answer(request, 409, error.message, current=error.current, kept=error.kept)


@api.exception_handler(NothingToStepTo)
def _nothing(request: HttpRequest, error: NothingToStepTo) -> HttpResponse:
    return _answer(request, 409, error.message)


@api.exception_handler(ValidationError)
def _document_invalid(request: HttpRequest, error: ValidationError) -> HttpResponse:
    return _answer(request, 422, *describe_invalid(error))


@api.exception_handler(RequestInvalid)
def _request_invalid(request: HttpRequest, error: RequestInvalid) -> HttpResponse:
    return _answer(request, 422, **error.errors[0])


@api.exception_handler(Http404)
def _missing(request: HttpRequest, error: Http404) -> HttpResponse:
    return _answer(request, 404, "That is not here: it may have been removed, or the address is wrong.")
