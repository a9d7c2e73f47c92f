"""Who reckons when. Python computes in one thread at a time: twenty requests that all reckon at once hold one another up at each look
into the database, and each takes longer than if they had come one after the other. So each waits for its turn."""

from __future__ import annotations

import functools
import inspect
from collections.abc import Callable
from typing import Any, ParamSpec, TypeVar

from fastapi import APIRouter
from fastapi.routing import APIRoute

from jolly_clerk.store.turns import TimedTurns
from jolly_clerk.web.problems import RESPONSES

#: how many requests reckon at once, and the seconds after which one that still does lets the next one begin beside it: much longer than
#: any that people wait for, or a moment in which the machine is slow would end in a crowd that holds itself up
AT_ONCE, TURN = 1, 1.0


TURNS = TimedTurns(AT_ONCE, TURN)
_Asked = ParamSpec("_Asked")
_Answer = TypeVar("_Answer")


class InTurn(APIRoute):
    """A route whose function, unless it is asynchronous, waits for its turn."""

    def __init__(self, path: str, endpoint: Callable[..., Any], **options: Any) -> None:  # noqa: ANN401 - as the library
        super().__init__(path, endpoint if inspect.iscoroutinefunction(endpoint) else _in_turn(endpoint), **options)


def _in_turn(endpoint: Callable[_Asked, _Answer]) -> Callable[_Asked, _Answer]:
    @functools.wraps(endpoint)
    def asked(*values: _Asked.args, **named: _Asked.kwargs) -> _Answer:
        with TURNS.taken():
            return endpoint(*values, **named)

    return asked


def router_of(prefix: str, tag: str) -> APIRouter:
    """A router for routes of one subject: each in turn, each with the same problem documents."""
    return APIRouter(prefix=prefix, tags=[tag], responses=RESPONSES, route_class=InTurn)
