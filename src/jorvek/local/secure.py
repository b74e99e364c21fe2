"""Serving on the workshop's network over TLS: with the house's certificate, or a self-made one for trials."""

from __future__ import annotations

import fcntl
import ipaddress
import socket
import struct
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Final

import trustme

from jorvek.local.mariadb import ServerFailedError
from jorvek.settings import Settings


@dataclass(frozen=True)
class Certificate:
    """Files of a certificate and its key; ``root`` is what a tablet has to trust, for a self-made one."""

    certificate: Path
    key: Path
    root: Path | None = None


def certificate_of(settings: Settings) -> Certificate | None:
    """Return the certificate to serve with, or None to serve without TLS.

    Raises:
        ServerFailedError: when only one of the two files is named, or one is not there.
    """
    if settings.self_made:
        return self_made(settings.data / "tls", settings.host)
    named = (settings.certificate, settings.certificate_key)
    if named == (None, None):
        return None
    certificate, key = named
    if certificate is None or key is None:
        raise ServerFailedError("a certificate needs its key, and a key its certificate: name both files")
    for file in (certificate, key):
        if not file.is_file():
            raise ServerFailedError(f"{file} is not there")
    return Certificate(certificate, key)


def self_made(place: Path, host: str) -> Certificate:
    """Make a certificate of one's own for trials, or return the one made before for the same names.

    Its root has to be put on each tablet by hand; nothing else vouches for it.
    """
    names = names_of(host)
    made = Certificate(place / "server.pem", place / "server.key", place / "root.pem")
    note = place / "names"
    if note.exists() and note.read_text().split() == names:
        return made
    place.mkdir(parents=True, exist_ok=True, mode=0o700)
    authority = trustme.CA(organization_name="Jorvek trial")
    issued = authority.issue_cert(*names)
    made.key.touch(mode=0o600)
    issued.private_key_pem.write_to_path(made.key)
    chain = b"".join(part.bytes() for part in issued.cert_chain_pems)
    made.certificate.write_bytes(chain)
    authority.cert_pem.write_to_path(place / "root.pem")
    note.write_text(" ".join(names))
    return made


def names_of(host: str) -> list[str]:
    """Return the names and addresses under which tablets reach this machine."""
    own = socket.gethostname()
    found = ["localhost", "127.0.0.1", own]
    found += own_addresses() if everywhere(host) else [host]
    return sorted({str(name) for name in found})


def everywhere(host: str) -> bool:
    """Tell whether an address to serve on stands for all of this machine's."""
    try:
        return ipaddress.ip_address(host).is_unspecified
    except ValueError:
        return False


_ASK_ADDRESS: Final = 0x8915
"""SIOCGIFADDR of Linux: the IPv4 address of a network interface (netdevice(7))."""


def own_addresses() -> list[str]:
    """Return the IPv4 addresses of this machine on all its networks, as tablets would type them."""
    found: list[str] = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as asked:
        for _, name in socket.if_nameindex():
            # An interface without an address answers with an error.
            with suppress(OSError):
                answer = fcntl.ioctl(asked.fileno(), _ASK_ADDRESS, struct.pack("256s", name.encode()[:15]))
                found.append(socket.inet_ntoa(answer[20:24]))
    return found
