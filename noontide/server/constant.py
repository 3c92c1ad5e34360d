"""Answers that are the same for everybody while a server runs: made once, and kept by browsers, which ask whether they still hold."""

import gzip
import hashlib
import json
from collections.abc import Callable
from functools import lru_cache
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.utils.cache import get_conditional_response, patch_vary_headers


def constant(request: HttpRequest, make: Callable[[], Any]) -> HttpResponseBase:
    """The answer of a function without arguments, whose values JSON can write; 304 to whoever has it."""
    body, packed, tag = _made(make)
    takes_packed = "gzip" in request.headers.get("Accept-Encoding", "")
    answer = HttpResponse(packed if takes_packed else body, content_type="application/json")
    if takes_packed:
        answer.headers["Content-Encoding"] = "gzip"
    answer.headers["Cache-Control"] = "no-cache"  # kept, and asked about each time
    answer.headers["ETag"] = tag
    patch_vary_headers(answer, ("Accept-Encoding",))
    found = get_conditional_response(request, etag=tag, response=answer)
    assert found is not None
    return found


def make_ready(make: Callable[[], Any]) -> None:
    """Make an answer before anybody asks for it."""
    _made(make)


@lru_cache(maxsize=32)
def _made(make: Callable[[], Any]) -> tuple[bytes, bytes, str]:
    body = json.dumps(make(), ensure_ascii=False, separators=(",", ":")).encode()
    return body, gzip.compress(body, mtime=0), f'W/"{hashlib.sha256(body).hexdigest()[:24]}"'
