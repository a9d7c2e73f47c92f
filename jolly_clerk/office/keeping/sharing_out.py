"""Long work on many cases, shared out to processes of their own and told in the order in which it was given."""

from __future__ import annotations

import gc
import os
import threading
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from contextlib import contextmanager
from multiprocessing import connection, get_context, parent_process
from typing import Any, TypeVar

Chunk = TypeVar("Chunk")
Done = TypeVar("Done")


@contextmanager
def shared_out(
    workers: int, begin: Callable[..., None], given: tuple[Any, ...], do: Callable[[Chunk], Done]
) -> Iterator[Callable[[Iterable[Chunk]], Iterator[tuple[Chunk, Done]]]]:
    """What does chunks of work in so many processes, at most two more of them ahead than there are processes.

    Args:
        begin: what each process does first, with what is ``given``; it and ``do`` are functions of a module.
        do: the work on one chunk; what it raises is raised where its turn comes.
    """
    with ProcessPoolExecutor(workers, get_context("spawn"), _begin, (begin, given)) as pool:

        def in_order(chunks: Iterable[Chunk]) -> Iterator[tuple[Chunk, Done]]:
            waiting: deque[tuple[Chunk, Future[Done]]] = deque()
            for chunk in chunks:
                waiting.append((chunk, pool.submit(do, chunk)))
                if len(waiting) > workers + 2:
                    first, done = waiting.popleft()
                    yield first, done.result()
            for first, done in waiting:
                yield first, done.result()

        yield in_order


def _begin(begin: Callable[..., None], given: tuple[Any, ...]) -> None:
    threading.Thread(target=_end_with_parent, daemon=True).start()
    begin(*given)
    clear_seldom()


def clear_seldom() -> None:
    """Next to nothing that is made in such a process hangs in circles; to look for it as often as usual costs a sixth of the time."""
    gc.freeze()
    gc.set_threshold(50_000, 20, 100)


def _end_with_parent() -> None:
    """A process whose parent was killed would wait for work for ever."""
    if (parent := parent_process()) is not None:
        connection.wait([parent.sentinel])
        os._exit(1)
