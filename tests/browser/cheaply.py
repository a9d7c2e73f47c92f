"""Waiting for what is to be seen without describing the page meanwhile.

At each look that does not find an element yet, an expectation of the library describes the whole page for the message that it would give
if the time ran out. That took a quarter of what pages worked in these tests. Waiting does no such thing; only if it was in vain the
expectation looks once and tells why.
"""

from __future__ import annotations

import contextlib

from playwright.sync_api import Error, LocatorAssertions

_to_be_visible = LocatorAssertions.to_be_visible


def _seen(self: LocatorAssertions, *, visible: bool | None = None, timeout: float | None = None) -> None:
    """The same as the method that it stands for."""
    told = self._impl_obj
    if visible is not False and not told._is_not:
        with contextlib.suppress(Error):
            self._sync(told._actual_locator.wait_for(state="visible", timeout=timeout or told._timeout))
            return
        timeout = 1
    _to_be_visible(self, visible=visible, timeout=timeout)


def wait_cheaply() -> None:
    """From now on each expectation that something is visible waits in this way."""
    LocatorAssertions.to_be_visible = _seen  # type: ignore[method-assign]
