"""Settings: environment over defaults."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """What can be set from outside.

    Attributes:
        database_url: any MariaDB from 10.11 on; empty for the private one.
        data: directory of the private database.
        host: address to serve on.
        hosts: further names under which tablets may ask for it, with blanks between them.
        proxies: addresses of proxies in front of it, with blanks between them: of these alone it believes from where
            a request comes; of nobody, when empty.
        port: port to serve on.
        certificate: certificate file for TLS; needs ``certificate_key``.
        certificate_key: its key.
        self_made: serve over TLS with a certificate made here, for trials.
        site_key: file with the key that the site log is signed with; empty for ``site.key`` in the data directory. All
            servers of a site share one, and no backup holds it.
        metrics_port: port on which operators' programs read what is counted; 0 for none.
        metrics_host: address of that port: everybody who reaches it reads along.
        log_level: "warning", or "info" for a line for every request.
        base_url: address that printed codes lead back to; empty for host and port.
        site_zone: time zone of the site.
        web: the built front end.
    """

    model_config = SettingsConfigDict(env_prefix="JORVEK_")

    database_url: str = ""
    data: Path = ROOT / ".jorvek"
    host: str = "127.0.0.1"
    hosts: str = ""
    proxies: str = ""
    port: int = 8071
    certificate: Path | None = None
    certificate_key: Path | None = None
    self_made: bool = False
    site_key: Path | None = None
    metrics_port: int = 0
    metrics_host: str = "127.0.0.1"
    log_level: Literal["info", "warning"] = "warning"
    base_url: str = ""
    site_zone: str = "UTC"
    web: Path = ROOT / "web" / "dist"

    def address(self) -> str:
        """Return the address that people open."""
        secure = self.self_made or self.certificate is not None
        return self.base_url or f"{'https' if secure else 'http'}://{self.host}:{self.port}"

    def beyond_this_machine(self) -> bool:
        """Tell whether others on the network can reach it."""
        return self.host not in ("127.0.0.1", "localhost", "::1")
