"""The key of a site: made at installation, kept outside the database and every backup, shared by the site's servers."""

from __future__ import annotations

import hmac
import os
from contextlib import suppress
from dataclasses import dataclass, field
from hashlib import sha256
from pathlib import Path
from tempfile import NamedTemporaryFile

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

_SEED_BYTES = 32


class SiteKeyError(Exception):
    """The key cannot be used; says why."""


@dataclass(frozen=True)
class SiteKey:
    """The key: it signs roots of the site log (Ed25519, RFC 8032) and vouches for what this program has written.

    Attributes:
        seed: 32 bytes; the secret.
        mark: file beside the key that says that this site has sealed before; None where the key lies in no file.
    """

    seed: bytes
    mark: Path | None = field(default=None, compare=False)

    @property
    def has_sealed(self) -> bool:
        """Tell whether this site has sealed before: a site log that is empty then was taken away."""
        return self.mark is not None and self.mark.exists()

    def note_sealed(self) -> None:
        """Say beside the key that this site has sealed; on a full disk it is said the next time."""
        if self.mark is not None and not self.mark.exists():
            with suppress(OSError):
                self.mark.write_text(f"{self.id}\n")

    @property
    def public(self) -> str:
        """Return the public key, as 64 hex digits."""
        return Ed25519PrivateKey.from_private_bytes(self.seed).public_key().public_bytes_raw().hex()

    @property
    def id(self) -> str:
        """Return its fingerprint."""
        return fingerprint(self.public)

    def sign(self, text: str) -> str:
        """Return the signature over a text, in hex."""
        return Ed25519PrivateKey.from_private_bytes(self.seed).sign(text.encode()).hex()

    def vouch(self, text: str) -> str:
        """Return the mark that a row gets which this program writes; nobody makes it without the key."""
        secret = sha256(b"jorvek-vouched\n" + self.seed).digest()
        return hmac.new(secret, text.encode(), sha256).hexdigest()


def fingerprint(public: str) -> str:
    """Return the fingerprint of a public key: its SHA-256, the first 16 hex digits."""
    return sha256(bytes.fromhex(public)).hexdigest()[:16]


def signed(public: str, text: str, signature: str) -> bool:
    """Tell whether a signature over a text was made with the counterpart of a public key."""
    try:
        Ed25519PublicKey.from_public_bytes(bytes.fromhex(public)).verify(bytes.fromhex(signature), text.encode())
    except (InvalidSignature, ValueError):
        return False
    return True


def kept_key(file: Path) -> SiteKey:
    """Return the key in a file; where there is none it is made, readable by its owner alone.

    Beside it stands its public part, which may go anywhere.

    Raises:
        SiteKeyError: when the file is no key, or cannot be read or written.
    """
    try:
        made = _made(file)
        seed = made or bytes.fromhex(file.read_text().strip())
    except (OSError, ValueError) as error:
        raise SiteKeyError(f"the site's key in {file} cannot be read: {error}") from error
    if len(seed) != _SEED_BYTES:
        raise SiteKeyError(f"{file} is not the key of a site")
    return SiteKey(seed, file.with_suffix(".sealed"))


def _made(file: Path) -> bytes | None:
    seed = os.urandom(_SEED_BYTES)
    file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    # The file is made with its final rights: at no moment could another user read it.
    with NamedTemporaryFile("w", dir=file.parent, prefix=file.name) as part:
        part.write(f"{seed.hex()}\n")
        part.flush()
        os.fsync(part.fileno())
        try:
            # When two programs make the file at once, the first one is kept by both.
            os.link(part.name, file)
        except FileExistsError:
            return None
    file.with_suffix(".pub").write_text(f"{SiteKey(seed).public}\n")
    return seed
