"""Systems on the web, asked over HTTP: within a time in all, at the very address that was checked, and nowhere private."""

import asyncio
import ipaddress
import threading
from collections.abc import Collection, Coroutine
from typing import Any, TypeVar

import httpx

from .work.house.ports import Unreachable

Answer = TypeVar("Answer")

LARGEST = 64_000
NAT64 = ipaddress.ip_network("64:ff9b::/96")
SIX_TO_FOUR = ipaddress.ip_network("2002::/16")
"""Networks whose addresses lead to an IPv4 address that they hold (RFC 6052, RFC 3056), so possibly to a private one."""


def is_public(address: str) -> bool:
    """Whether an IP address is one of the public internet's: global by the registries of special addresses, no group of
    receivers, and none that stands for another address."""
    one = ipaddress.ip_address(address)
    if isinstance(one, ipaddress.IPv6Address):
        if one.ipv4_mapped is not None:
            return is_public(str(one.ipv4_mapped))
        if one in NAT64 or one in SIX_TO_FOUR or one.teredo is not None:
            return False
    return one.is_global and not one.is_multicast


class WebOverHttp:
    """Asks by GET. Only public addresses are asked, and the hosts of the stand-ins, which `allowed` names with their ports;
    redirections are not followed."""

    def __init__(self, allowed: Collection[str] = ()) -> None:
        self.allowed = allowed
        self.loop: asyncio.AbstractEventLoop | None = None
        self.starting = threading.Lock()

    def get(self, url: str, sent: dict[str, str], seconds: float) -> tuple[int, str]:
        """The status and the body. `seconds` is the time for all of it, from the look-up of the name to the last byte."""
        try:
            return self._wait(self._get(httpx.URL(url).copy_merge_params(sent), seconds))
        except TimeoutError as error:
            raise Unreachable(f"no answer within {seconds:g} s") from error
        except (httpx.HTTPError, httpx.InvalidURL, OSError, ValueError) as error:
            raise Unreachable(str(error)) from error

    def _wait(self, asked: Coroutine[Any, Any, Answer]) -> Answer:
        """Runs it on the loop that all questions of this process share; a name that cannot be looked up blocks nobody."""
        with self.starting:
            if self.loop is None:
                self.loop = asyncio.new_event_loop()
                threading.Thread(target=self.loop.run_forever, daemon=True, name="web").start()
        return asyncio.run_coroutine_threadsafe(asked, self.loop).result()

    async def _get(self, url: httpx.URL, seconds: float) -> tuple[int, str]:
        async with asyncio.timeout(seconds):
            there = await self._address(url)
            headers = {"Host": url.netloc.decode("ascii"), "Accept": "application/json"}
            extensions = {"sni_hostname": url.host}
            async with (
                httpx.AsyncClient(timeout=seconds, trust_env=False) as client,
                client.stream("GET", url.copy_with(host=there), headers=headers, extensions=extensions) as answer,
            ):
                body = b""
                async for part in answer.aiter_bytes():
                    body += part
                    if len(body) > LARGEST:
                        raise Unreachable("the answer is too large")
                return answer.status_code, body.decode("utf-8", "replace")

    async def _address(self, url: httpx.URL) -> str:
        """The IP address that is connected to: one that was looked at, so that no second look-up can lead elsewhere."""
        if url.scheme not in ("http", "https") or not url.host:
            raise Unreachable("this is no web address")
        port = url.port or (443 if url.scheme == "https" else 80)
        found = await asyncio.get_running_loop().getaddrinfo(url.host, port, type=1)
        addresses = [str(one[4][0]) for one in found]
        if f"{url.host}:{url.port or ''}" not in self.allowed and not all(map(is_public, addresses)):
            raise Unreachable("the address is a private one")
        return addresses[0]
