"""Who looks at a run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from jorvek.core.rights import Role
from jorvek.core.run.log.commands import Stood
from jorvek.core.units import Quantity

Units = Mapping[Quantity, str]
"""The units a person likes to work in, where they differ from the author's."""


@dataclass(frozen=True)
class Looking:
    """Who looks at a run, when, in which units they like to work, and which language they read.

    Attributes:
        stood: since when the engine stands, where its log knows and a call of the run waits for it.
    """

    person_id: UUID
    role: Role
    now: datetime
    units: Units = field(default_factory=dict)
    language: str = ""
    stood: Stood | None = None
