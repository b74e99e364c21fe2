"""Everything an act needs: the store, the clock and the settings."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, date, datetime
from functools import cached_property
from pathlib import Path
from zoneinfo import ZoneInfo

from jorvek.store.database import Database, DatabaseAwayError, DatabaseFullError, DatabaseUnsafeError
from jorvek.store.files import Files
from jorvek.store.overhaullog import OverhaulLog
from jorvek.store.photos import PhotoStore
from jorvek.store.registers import Registers, definition_of
from jorvek.store.run_summaries import RunSummaries
from jorvek.store.runlog import RunLog
from jorvek.store.sheets import Sheets
from jorvek.store.site_key import SiteKey
from jorvek.store.sitelog import SiteLog
from jorvek.store.tablets import Tablets
from jorvek.store.toolstanding import ToolStandings
from jorvek.store.upkeep import Upkeep
from jorvek.work.runs.changes import SentViews

__all__ = ["DatabaseAwayError", "DatabaseFullError", "DatabaseUnsafeError", "Workshop", "system_clock"]


def system_clock() -> datetime:
    """Return the present time in UTC."""
    return datetime.now(UTC)


@dataclass(frozen=True)
class Workshop:
    """The open workshop.

    Attributes:
        database: where everything is kept.
        clock: server time.
        site_zone: time zone of the site, for dates and paper.
        base_url: address that printed codes lead back to.
        photo_dir: where an older installation kept its photographs.
        site_key: what the site log is signed with; None where nothing is sealed.
    """

    database: Database
    clock: Callable[[], datetime] = system_clock
    site_zone: str = "UTC"
    base_url: str = "http://127.0.0.1:8071"
    photo_dir: Path = Path("photos-of-older-installations")
    site_key: SiteKey | None = None

    def __post_init__(self) -> None:
        """Let what is written from here on bear the site's mark."""
        if self.site_key is not None:
            self.database.vouch = self.site_key.vouch

    @cached_property
    def site_log(self) -> SiteLog | None:
        """The site log; None without the site's key."""
        return None if self.site_key is None else SiteLog(self.database, self.site_key)

    @cached_property
    def registers(self) -> Registers:
        """People, engines, tools and procedures."""
        return Registers(self.database)

    @cached_property
    def log(self) -> RunLog:
        """The runs."""
        return RunLog(self.database, definition_of)

    @cached_property
    def overhauls(self) -> OverhaulLog:
        """The overhauls."""
        return OverhaulLog(self.database)

    @cached_property
    def sheets(self) -> Sheets:
        """The engine sheets."""
        return Sheets(self.database)

    @cached_property
    def tool_standings(self) -> ToolStandings:
        """Which tools are withdrawn."""
        return ToolStandings(self.database)

    @cached_property
    def upkeep(self) -> Upkeep:
        """Running hours and follow-ups."""
        return Upkeep(self.database)

    @cached_property
    def tablets(self) -> Tablets:
        """The tablets at the engines."""
        return Tablets(self.database)

    @cached_property
    def summaries(self) -> RunSummaries:
        """What lists say of the runs."""
        return RunSummaries(self.database, self.log)

    @cached_property
    def files(self) -> Files:
        """What is kept whole: photographs, plans under way, printed dossiers."""
        return Files(self.database)

    @cached_property
    def photos(self) -> PhotoStore:
        """The photographs."""
        return PhotoStore(self.files, self.photo_dir)

    @cached_property
    def sent_views(self) -> SentViews:
        """The views of runs that went out last: a tablet that shows one of them is told what has changed."""
        return SentViews()

    def today(self) -> date:
        """Return the date at the site."""
        return self.clock().astimezone(ZoneInfo(self.site_zone)).date()
