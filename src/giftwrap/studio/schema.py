"""The API's schema as OpenAPI 3.1: what the library says of each address, and what may go wrong there."""

from __future__ import annotations

import copy
from typing import Any

REFUSAL = "ErrorOut"
REFUSAL_SCHEMA = {
    "title": REFUSAL,
    "description": "What went wrong, in words, and the place in the document that it concerns; on a "
    "stale save, the current revision and the one that was kept aside.",
    "type": "object",
    "required": ["message", "place"],
    "properties": {
        "message": {"type": "string", "title": "Message"},
        "place": {"type": "string", "title": "Place"},
        "current": {"anyOf": [{"type": "integer"}, {"type": "null"}], "title": "Current"},
        "kept": {"anyOf": [{"type": "integer"}, {"type": "null"}], "title": "Kept"},
    },
}
MEANINGS = {
    400: "The request could not be read.",
    401: "Nobody is signed in.",
    403: "The page's token is missing.",
    404: "It is not here.",
    409: "Somebody changed it meanwhile, or there is nothing to step to.",
    413: "It is too large.",
    422: "It cannot be done, for the reason that is given.",
    503: "The studio is busy.",
    507: "The disk is full.",
}
CHANGES = ("post", "put", "patch", "delete")


def answers(*kinds: str) -> dict[str, Any]:
    """What the schema says of an address that answers with a file of one of some kinds; of JSON, anything."""
    binary = {"type": "string", "format": "binary"}
    content = {kind: {"schema": {} if kind == "application/json" else binary} for kind in kinds}
    return {"responses": {200: {"description": "OK", "content": content}}}


def completed(schema: Any) -> Any:
    """The schema with every status that each address may answer besides what it is asked for."""
    schema["components"].setdefault("schemas", {})[REFUSAL] = copy.deepcopy(REFUSAL_SCHEMA)
    for path, methods in schema["paths"].items():
        for method, operation in methods.items():
            for status in _refusals(path, method, operation):
                content = {"application/json": {"schema": {"$ref": f"#/components/schemas/{REFUSAL}"}}}
                operation["responses"][status] = {"description": MEANINGS[status], "content": content}
    if not schema.get("servers"):
        schema.pop("servers", None)  # an empty list is not valid
    return schema


def _refusals(path: str, method: str, operation: dict[str, Any]) -> list[int]:
    found = [503]
    if operation.get("security"):
        found.append(401)
    if operation.get("parameters"):
        found.append(422)
    if "{" in path:
        found.append(404)
    if method in CHANGES:
        found += [400, 403, 413, 422, 507]
    if 409 in operation["responses"]:
        found.append(409)
    return sorted(set(found))
