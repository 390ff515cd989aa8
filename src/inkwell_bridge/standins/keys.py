"""Idempotency keys (IETF draft, the Idempotency-Key header field): the same call under the same key is done once."""

from __future__ import annotations

import base64
import hashlib
from collections.abc import Callable

from starlette.requests import Request
from starlette.responses import JSONResponse, Response

from inkwell_bridge.standins.store import Store

KEPT_HEADERS = ("etag", "document-id", "document-state", "document-page", "content-type")


def once(store: Store, world: str, request: Request, body: bytes, do: Callable[[], Response]) -> Response:
    """Do it, or give the answer of the first time; another content under the same key is refused."""
    key = request.headers.get("idempotency-key")
    if not key:
        return JSONResponse({"error": "expected an Idempotency-Key"}, 400)
    digest = hashlib.sha256(request.url.path.encode() + body).hexdigest()
    known = store.search(world, "key", key)
    if known:
        if known[0]["digest"] != digest:
            return JSONResponse({"error": "this key was used for something else"}, 422)
        return Response(base64.b64decode(known[0]["body"]), known[0]["status"], known[0]["headers"])
    answer = do()
    if answer.status_code < 300:
        headers = {name: answer.headers[name] for name in KEPT_HEADERS if name in answer.headers}
        kept = {"digest": digest, "status": answer.status_code, "headers": headers,
                "body": base64.b64encode(bytes(answer.body)).decode()}  # fmt: skip
        store.add(world, "key", kept, find=key)
    return answer
