"""Settings: environment over defaults."""

from __future__ import annotations

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict

ROOT = Path(__file__).resolve().parents[2]


class Settings(BaseSettings):
    """What can be set from outside.

    Attributes:
        database_url: any MariaDB from 10.11 on; empty for the private one.
        data: directory of the private database.
        host: address to serve on.
        port: port to serve on.
        base_url: address that printed codes lead back to; empty for host and port.
        site_zone: time zone of the site.
        web: the built front end.
    """

    model_config = SettingsConfigDict(env_prefix="JORVEK_")

    database_url: str = ""
    data: Path = ROOT / ".jorvek"
    host: str = "127.0.0.1"
    port: int = 8071
    base_url: str = ""
    site_zone: str = "UTC"
    web: Path = ROOT / "web" / "dist"

    def address(self) -> str:
        """Return the address that people open."""
        return self.base_url or f"http://{self.host}:{self.port}"
