"""Where an end may be: which hosts, which networks; asked when an address is entered and again at every connection.

What a name leads to is looked up once for each connection, all of it is judged, and the connection goes to what
was judged: a name that leads elsewhere a moment later cannot be used to reach into the operator's own network.
"""

from __future__ import annotations

import ipaddress
import socket
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from fnmatch import fnmatchcase
from typing import Any

import httpcore

from inkwell_bridge.ends.errors import Refused

Network = ipaddress.IPv4Network | ipaddress.IPv6Network
IpAddress = ipaddress.IPv4Address | ipaddress.IPv6Address
# All that is handed out on the internet (IANA, IPv6 Global Unicast Address Assignments); what else there is, translated
# addresses (RFC 6052, RFC 8215), site-local ones (RFC 3879) and loopback among it, lies outside.
_GLOBAL_UNICAST = ipaddress.IPv6Network("2000::/3")
# Inside it: protocol assignments with Teredo (RFC 4380), documentation, 6to4 (RFC 3056), and segment routing's own.
_NOT_GLOBAL = tuple(map(ipaddress.ip_network, ("2001::/23", "2001:db8::/32", "2002::/16", "3fff::/20",
    # 6to4 relays (RFC 7526), and the metadata of a platform that stands on a public address.
    "192.88.99.0/24", "168.63.129.16/32")))  # fmt: skip


class Unresolved(OSError):
    """A name leads nowhere."""


def looked_up(host: str, port: int) -> list[str]:
    """Every address that a name leads to.

    Raises:
        Unresolved: there is none.
    """
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise Unresolved(f"the name {host!r} leads nowhere") from error
    return list(dict.fromkeys(str(entry[4][0]) for entry in found))


@dataclass(frozen=True, slots=True, kw_only=True)
class Guard:
    """What an operator allows.

    Shape: ``hosts`` are patterns such as ``*.shop.example``; ``networks`` are those allowed besides the public
    internet. Without any, loopback, link-local, private and reserved addresses are refused.
    """

    hosts: tuple[str, ...] = ("*",)
    networks: tuple[Network, ...] = ()
    look_up: Callable[[str, int], Sequence[str]] = looked_up

    @classmethod
    def of(cls, *, hosts: Iterable[str], networks: Iterable[str]) -> Guard:
        """From the texts of settings."""
        return cls(
            hosts=tuple(host.lower() for host in hosts),
            networks=tuple(ipaddress.ip_network(network) for network in networks),
        )

    def addresses(self, host: str, port: int) -> tuple[str, ...]:
        """Where ``host`` may be reached.

        Raises:
            Refused: with ``why`` address, where the host is not allowed or leads into a network that is not.
            Unresolved: the name leads nowhere.
        """
        name = host.lower().rstrip(".").strip("[]")
        if not any(fnmatchcase(name, pattern) for pattern in self.hosts):
            raise Refused(
                f"the host {name} is not among those that the operator allows ({', '.join(self.hosts)})", why="address"
            )
        found = tuple(self.look_up(name, port))
        if not found:
            raise Unresolved(f"the name {name!r} leads nowhere")
        for address in found:
            if not self._allowed(address):
                raise Refused(
                    f"{name} leads to {address}, which is no public address; "
                    "the operator's settings name the networks that are allowed besides",
                    why="address",
                )
        return found

    def _allowed(self, text: str) -> bool:
        address: IpAddress = ipaddress.ip_address(text.partition("%")[0])
        # The same IPv4 address in the dress of the other version, as sockets of both versions show it.
        mapped = address.ipv4_mapped if isinstance(address, ipaddress.IPv6Address) else None
        if any(_within(mapped or address, network) for network in self.networks):
            return True
        return mapped is None and _is_global_unicast(address)


def _within(address: IpAddress, network: Network) -> bool:
    return address.version == network.version and address in network


def _is_global_unicast(address: IpAddress) -> bool:
    """Whether an address belongs to one place on the internet. What stands for another address does not, whatever that
    other is: who translates it, and where to, is not ours to know."""
    if address.version == 6 and address not in _GLOBAL_UNICAST:
        return False
    return address.is_global and not address.is_multicast and not any(_within(address, one) for one in _NOT_GLOBAL)


class GuardedBackend(httpcore.NetworkBackend):
    """Opens connections for HTTP, to what the guard allows and nothing else."""

    def __init__(self, guard: Guard) -> None:
        self._guard = guard
        self._plain = httpcore.SyncBackend()

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Any = None,
    ) -> httpcore.NetworkStream:
        """See httpcore's ``NetworkBackend``; certificates are still checked against the name."""
        try:
            addresses = self._guard.addresses(host, port)
        except Unresolved as error:
            raise httpcore.ConnectError(str(error)) from error
        for address in addresses[:-1]:
            try:
                return self._plain.connect_tcp(address, port, timeout, local_address, socket_options)
            except httpcore.ConnectError:
                continue
        return self._plain.connect_tcp(addresses[-1], port, timeout, local_address, socket_options)

    def connect_unix_socket(self, path: str, timeout: float | None = None, socket_options: Any = None) -> Any:
        """No end is reached through a file."""
        raise httpcore.ConnectError("sockets in the file system are not used")
