"""Steps that lock, sign, wait and follow up."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from jorvek.core.engine.layout import Slug
from jorvek.core.procedure.measure import Duration, Temperature
from jorvek.core.procedure.parts import Text
from jorvek.core.procedure.steps.base import RoundStep, StepBase
from jorvek.core.rights import Role


class HoldPointStep(StepBase):
    """A second person looks and signs.

    Attributes:
        signed_by: role that signs, or any above it.
        sees: what that person must have seen.
        covers: steps whose hands may not sign.
        witnesses: who else has to have seen it: a surveyor of the class, somebody of the owner; by name.
    """

    kind: Literal["hold_point"]
    signed_by: Literal[Role.MECHANIC, Role.LEAD_HAND, Role.CHIEF]
    sees: tuple[Text, ...] = Field(min_length=1)
    covers: tuple[Slug, ...] = Field(min_length=1)
    witnesses: tuple[Literal["class", "owner"], ...] = ()


class NoReturnStep(StepBase):
    """A point of no return: what must have passed before it."""

    kind: Literal["no_return"]
    act: Text
    passed: tuple[Slug, ...] = Field(min_length=1)


class LockStep(RoundStep):
    """Locking devices fitted.

    Attributes:
        device: what locks.
        new: a new one each time.
    """

    kind: Literal["lock"]
    device: Text
    new: bool


class WaitStep(StepBase):
    """Time, temperature or running hours that must pass before the next step.

    Attributes:
        since: from when it counts, in words.
        counts_from: from which moment it counts, where the engine's own log knows that moment.
        time: clock time.
        running_hours: of the engine.
        cooled_to: temperature to be fallen below.
    """

    kind: Literal["wait"]
    since: Text
    counts_from: Literal["engine_stopped"] | None = None
    time: Duration | None = None
    running_hours: Duration | None = None
    cooled_to: Temperature | None = None


class FollowUpStep(StepBase):
    """Work due later: when, what is repeated, from which state, by which method.

    Attributes:
        after: clock time, in hours or days.
        after_running: running hours.
        latest: end of the window by the clock: from ``after`` to here it is due, past it late.
        latest_running: the same in running hours.
        repeats: steps of this procedure that are done again; none for an inspection.
        state: what the engine must be like.
        method: how.
    """

    kind: Literal["follow_up"]
    after: Duration | None = None
    after_running: Duration | None = None
    latest: Duration | None = None
    latest_running: Duration | None = None
    repeats: tuple[Slug, ...] = ()
    state: Text
    method: Text

    @model_validator(mode="after")
    def _a_window_begins_before_it_ends(self) -> FollowUpStep:
        for first, last in ((self.after, self.latest), (self.after_running, self.latest_running)):
            if last is not None and (first is None or first.value >= last.value):
                raise PydanticCustomError("window_turned", "a window begins with 'after' and ends later with 'latest'")
        return self
