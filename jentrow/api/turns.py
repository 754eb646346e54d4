"""How a route takes its turn at a thread: once, however much there is to do."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from inspect import iscoroutinefunction
from typing import Any

from fastapi.concurrency import run_in_threadpool
from fastapi.routing import APIRoute


class OneTurn(APIRoute):
    """A route whose function runs in a thread, and whose answer is looked over where it arrives.

    FastAPI would take another turn at a thread to look at whether the answer fits its description:
    on a busy server each turn is waited for, and looking takes a few millionths of a second.
    """

    def __init__(self, path: str, endpoint: Callable[..., Any], **more: Any) -> None:
        super().__init__(path, _in_a_thread(endpoint), **more)


def _in_a_thread(endpoint: Callable[..., Any]) -> Callable[..., Any]:
    if iscoroutinefunction(endpoint):
        return endpoint

    @wraps(endpoint)
    async def answered(**asked: Any) -> Any:
        return await run_in_threadpool(endpoint, **asked)

    return answered
