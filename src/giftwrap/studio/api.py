"""The API: one router an app, its schema, and the words in which it refuses."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.http import HttpRequest, HttpResponse, JsonResponse
from ninja import NinjaAPI
from ninja.errors import ValidationError as RequestInvalid
from ninja.errors import ValidationErrorContext
from ninja.security import django_auth

from giftwrap.core.model.document import describe_invalid
from giftwrap.studio.jobs.api import router as jobs_router
from giftwrap.studio.jobs.drawings import router as drawings_router
from giftwrap.studio.jobs.forming import router as forming_router
from giftwrap.studio.library.api import router as library_router
from giftwrap.studio.library.checks import router as checks_router
from giftwrap.studio.library.colours import router as colours_router
from giftwrap.studio.library.materials import router as materials_router
from giftwrap.studio.library.own_set_ups import router as set_ups_router
from giftwrap.studio.library.received import router as received_router
from giftwrap.studio.library.sending import router as sending_router
from giftwrap.studio.ranges.api import router as ranges_router
from giftwrap.studio.ranges.around import router as around_router
from giftwrap.studio.ranges.props import router as props_router
from giftwrap.studio.ranges.staging import router as staging_router
from giftwrap.studio.refusals import WORDS, refuse_by
from giftwrap.studio.rendering.api import router as rendering_router
from giftwrap.studio.review.api import client_router
from giftwrap.studio.review.api import router as review_router
from giftwrap.studio.schema import completed

WRAPPERS = ("data", "document", "pack", "panel", "file")
"""Names of request parameters, which are no part of the document they carry."""


class StudioAPI(NinjaAPI):
    """Tells what is wrong with a request in the words of core, with the document's own places."""

    def validation_error_from_error_contexts(
        self, error_contexts: list[ValidationErrorContext]
    ) -> RequestInvalid:
        invalid = error_contexts[0].pydantic_validation_error
        message, place = describe_invalid(invalid, wrapped_in=WRAPPERS)
        return RequestInvalid([{"message": message, "place": place}])

    def get_openapi_schema(self, **how: Any) -> Any:
        """The schema, with every status that an address may answer."""
        return completed(super().get_openapi_schema(**how))


def signed_in_only(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """A view for people of the studio."""

    def guarded(request: HttpRequest, *all_: Any, **more: Any) -> HttpResponse:
        if not request.user.is_authenticated:
            return JsonResponse({"message": WORDS[401], "place": ""}, status=401)
        return view(request, *all_, **more)

    return guarded


api = StudioAPI(title="Giftwrap", version="1", auth=django_auth, docs_url=None, docs_decorator=signed_in_only)
api.add_router("", jobs_router)
api.add_router("", forming_router)
api.add_router("", drawings_router)
api.add_router("", ranges_router)
api.add_router("", staging_router)
api.add_router("", around_router)
api.add_router("", props_router)
api.add_router("", library_router)
api.add_router("", materials_router)
api.add_router("", set_ups_router)
api.add_router("", colours_router)
api.add_router("", received_router)
api.add_router("", checks_router)
api.add_router("", sending_router)
api.add_router("", rendering_router)
api.add_router("", review_router)
api.add_router("/client", client_router, auth=None)
refuse_by(api)
