"""Requests that are meant for this server: another site's name that leads here could read it all for that site's pages.

A browser gives pages of one name the responses of any server of that name, wherever it is ("DNS rebinding"). So the Host of a
request must be a name of this server (RFC 9110, section 7.2), and the Origin of one that has it the same (RFC 6454, section 7).
"""

from __future__ import annotations

import urllib.parse
from collections.abc import Collection

from starlette.datastructures import Headers
from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Receive, Scope, Send

from sarvel.browser.site_server import LOOPBACK, host_of


class OwnHost:
    """An application that answers requests for its own names alone."""

    def __init__(self, app: ASGIApp, hosts: Collection[str] = ()) -> None:
        """Wraps an application.

        Args:
            hosts: its names besides those of loopback, and the address that a request came in at.
        """
        self._app, self._hosts = app, LOOPBACK | {host.lower() for host in hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Answers a request; another host's with 421, another origin's with 403."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        hosts, origin = headers.getlist("host"), headers.get("origin")
        came_in_at = (scope.get("server") or ("", 0))[0]
        if len(hosts) != 1 or host_of(hosts[0]) not in {*self._hosts, came_in_at}:
            refused = PlainTextResponse("this server has another name\n", 421)
            await refused(scope, receive, send)
        elif origin is not None and origin.partition("://")[2] != hosts[0]:
            refused = PlainTextResponse("only pages of this server may ask that\n", 403)
            await refused(scope, receive, send)
        else:
            await self._app(scope, receive, send)


def is_asked_by_page(headers: Headers) -> bool:
    """Tells whether a page of this server asks for a file, by what the browser says (Fetch Metadata; else the Referer)."""
    site = headers.get("sec-fetch-site")
    if site is not None:
        return site == "same-origin"
    return urllib.parse.urlsplit(headers.get("referer", "")).netloc == headers.get("host")
