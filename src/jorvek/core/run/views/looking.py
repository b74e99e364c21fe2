"""Who looks at a run."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import datetime
from uuid import UUID

from jorvek.core.rights import Role
from jorvek.core.units import Quantity

Units = Mapping[Quantity, str]
"""The units a person likes to work in, where they differ from the author's."""


@dataclass(frozen=True)
class Looking:
    """Who looks at a run, when, in which units they like to work, and which language they read."""

    person_id: UUID
    role: Role
    now: datetime
    units: Units = field(default_factory=dict)
    language: str = ""
