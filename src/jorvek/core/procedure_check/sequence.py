"""Rules for orders, for what is owed, and for what must come before what."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from jorvek.core.bolting.order import imbalance
from jorvek.core.procedure.fasteners import FastenerGroup
from jorvek.core.procedure.kinds import KINDS, SETTLED_BY
from jorvek.core.procedure.orders import OrderBook, make
from jorvek.core.procedure.steps import (
    AngleStep,
    ChoosePartStep,
    DisturbStep,
    GateStep,
    LockStep,
    MakeSafeStep,
    PutRightStep,
    RoundStep,
    SealantStep,
    TensionStep,
    TorqueStep,
)
from jorvek.core.procedure_check.finding import CheckFinding, error, percent, warning
from jorvek.core.procedure_check.reading import Reading, Rule
from jorvek.core.refusal import Refusal


def _grips(r: Reading) -> Iterator[tuple[int, FastenerGroup]]:
    yield from enumerate(r.procedure.fasteners)


_GRIP_FIT_MM: Final = 0.5


def geometry(r: Reading) -> Iterator[CheckFinding]:
    """Lengths that contradict one another."""
    for k, f in _grips(r):
        along = sum(s.length.value for s in f.sections)
        parts = sum(layer.thickness.value for layer in f.clamped.layers)
        if abs(along - parts) > _GRIP_FIT_MM:
            yield error("grip_contradiction", ("fasteners", k, "sections"), stud=along, parts=parts)
        needed = along + (f.nut_height.value if f.nut_height else 0.0)
        if f.free_length.value < needed:
            path = ("fasteners", k, "free_length")
            yield error("stud_too_short", path, length=f.free_length.value, needed=needed)
        codes = {p.length_code for p in f.positions}
        if len(codes) > 1:
            yield error("lengths_in_one_group", ("fasteners", k, "positions"), codes=len(codes))


def orders(r: Reading) -> Iterator[CheckFinding]:
    """Orders as their rules give them, even round the joint, and stated where they undo."""
    book = OrderBook(r.procedure.fasteners, dict(r.procedure.orders))
    for name, order in r.procedure.orders.items():
        if order.made is None:
            if not order.sequence:
                yield error("order_empty", ("orders", name), order=name)
            continue
        try:
            made = make(order.made, book)
        except Refusal as refusal:
            got = str(refusal.params.get("order") or refusal.params.get("group") or refusal.code)
            yield error("order_rule_fails", ("orders", name, "made"), rule=order.made.rule, got=got)
            continue
        if made != order.sequence:
            frozen = ", ".join(place if isinstance(place, str) else f"[{', '.join(place)}]" for place in made)
            yield error("order_not_as_made", ("orders", name, "sequence"), rule=order.made.rule, sequence=frozen)
    yield from _even(r)
    yield from _undoing(r)


_LOPSIDED: Final = 0.75


def _even(r: Reading) -> Iterator[CheckFinding]:
    """A round of torque or angle that walks from neighbour to neighbour tilts the part."""
    seen: set[str] = set()
    for i, step in [*r.of(TorqueStep), *r.of(AngleStep)]:
        for group in r.groups(step):
            names = [n for n in r.names(step) if any(p.name == n for p in group.positions)]
            if len(names) < 6 or len(names) < len(group.positions) or step.order in seen:
                continue
            seen.add(step.order)
            places = {p.name: k + 1 for k, p in enumerate(group.positions)}
            xy = [(p.x.value, p.y.value) for p in group.positions]
            tilt = imbalance(xy, [places[n] for n in names])
            if tilt.adjacent > _LOPSIDED * (len(names) - 1) and tilt.e_mean > 0.3:
                path = ("steps", i, "order")
                yield warning("order_lopsided", path, off=percent(tilt.e_mean), neighbours=tilt.adjacent)


def _undoing(r: Reading) -> Iterator[CheckFinding]:
    for i, step in r.kinds("full_release", "loosen_angle", "loosen_pressure"):
        assert isinstance(step, RoundStep)
        order = r.procedure.orders[step.order]
        if len(order.names()) > 2 and order.stated_by is None:
            yield error("loosening_order_unstated", ("steps", i, "order"), order=step.order)
    many = [g for g in r.procedure.fasteners if len(g.positions) >= 4]
    if not r.loosens and many and r.procedure.applies_to.undone_by is None:
        yield warning("loosening_missing", ("applies_to",), group=many[0].title, count=len(many[0].positions))


def coverage(r: Reading) -> Iterator[CheckFinding]:
    """Every fastener in a stage that loads it, or in one that frees it."""
    kinds = ("loosen_angle", "loosen_pressure", "nuts_off") if r.loosens else ("torque", "angle", "tension")
    # The kinds asked for go round fasteners.
    done = {name for _, s in r.kinds(*kinds) for name in r.names(s)}  # type: ignore[arg-type]
    for k, group in _grips(r):
        missed = [p.name for p in group.positions if p.name not in done]
        if missed:
            path = ("fasteners", k, "positions")
            yield error("fastener_in_no_stage", path, group=group.title, names=", ".join(missed))


def owed(r: Reading) -> Iterator[CheckFinding]:
    """Whatever is taken off, put on or disturbed is put right, here or in a named procedure."""
    settled = {(s.kind, getattr(s, "of", None)) for _, s in r.steps}
    for i, step in r.kinds(*SETTLED_BY):
        carried = getattr(step, "carried_to", None)
        if carried is None and (SETTLED_BY[step.kind], step.id) not in settled:
            yield error("never_put_right", ("steps", i), step=step.title, kind=SETTLED_BY[step.kind])
    for i, safe in r.of(MakeSafeStep):
        if safe.carried_to is None and ("restore", safe.id) not in settled:
            yield error("never_restored", ("steps", i), step=safe.title)
    if r.loosens and r.steps and not r.of(MakeSafeStep):
        yield error("not_made_safe", ("steps",), title=r.procedure.title)


def before_and_after(r: Reading) -> Iterator[CheckFinding]:
    """Measured before it is sealed, barred with nothing fitted."""
    sealed = [i for i, s in r.steps if isinstance(s, SealantStep | LockStep)]
    # What was measured before may be measured again, now that it is home.
    before = {s.gate.measure for i, s in r.of(GateStep) if sealed and i < sealed[0]}
    for i, step in r.kinds("gate", "trial_fit"):
        again = isinstance(step, GateStep) and step.gate.measure in before
        if sealed and i > sealed[0] and not again:
            yield error("measured_too_late", ("steps", i), step=step.title, after=r.procedure.steps[sealed[0]].title)
    yield from _barring(r)


def _barring(r: Reading) -> Iterator[CheckFinding]:
    fitted = 0
    for i, step in r.steps:
        if step.kind == "seat_tool":
            fitted += 1
        if step.kind == "remove_tool":
            fitted -= 1
        if KINDS[step.kind].crank == "turns" and fitted > 0:
            yield error("barred_with_tool_fitted", ("steps", i), step=step.title)


def put_right_how(r: Reading) -> Iterator[CheckFinding]:
    """A fastener of a neighbour that is disturbed is put right to a stated effort, not just put back."""
    for i, step in r.of(DisturbStep):
        if step.carried_to is not None:
            continue
        if step.disturbs is None:
            yield error("disturbed_unstated", ("steps", i), step=step.title)
        elif step.disturbs == "fastener" and step.effort is None:
            yield error("put_right_without_effort", ("steps", i, "puts_right"), text=step.puts_right)


def put_right_by_pulls(r: Reading) -> Iterator[CheckFinding]:
    """What puts a fastener right pulls it to what it was let go from; a tick does not."""
    efforts = {step.id: step for _, step in r.of(DisturbStep) if step.effort is not None}
    for i, step in r.of(PutRightStep):
        let_go = efforts.get(step.of)
        if let_go is not None and step.effort != let_go.effort:
            yield error("put_right_without_pull", ("steps", i), step=step.title, disturbed=let_go.title)


_READ_AS_TRUTH: Final = frozenset({"on", "off", "yes", "no", "y", "n", "true", "false"})
"""What YAML 1.1 reads as true or false (YAML 1.1, type bool); common libraries do still."""


def names(r: Reading) -> Iterator[CheckFinding]:
    """A name that other programs read as true or false is lost when one of them writes the document back."""
    p = r.procedure
    named = [
        *((("orders", name), name) for name in p.orders),
        *((("fasteners", k, "id"), g.id) for k, g in enumerate(p.fasteners)),
        *((("parts", k, "id"), part.id) for k, part in enumerate(p.parts)),
        *((("steps", k, "id"), step.id) for k, step in enumerate(p.steps)),
    ]
    for path, name in named:
        if name in _READ_AS_TRUTH:
            yield warning("name_read_as_truth", path, name=name)


def choices(r: Reading) -> Iterator[CheckFinding]:
    """Tables that choose a part: rising, without a gap."""
    for i, step in r.of(ChoosePartStep):
        for k, row in enumerate(step.table):
            path = ("steps", i, "table", k)
            if row.up_to.value <= row.above.value:
                yield error("table_gap", path, above=row.above.text, up_to=row.up_to.text)
            if k and abs(row.above.value - step.table[k - 1].up_to.value) > 1e-9:
                yield error("table_gap", path, above=row.above.text, up_to=step.table[k - 1].up_to.text)


def stages_sit_together(r: Reading) -> Iterator[CheckFinding]:
    """A tool is on the studs before they are pulled."""
    seated: set[str] = set()
    for i, step in r.steps:
        if step.kind == "seat_tool":
            seated |= set(r.names(step))
        if step.kind == "remove_tool":
            seated -= set(r.names(step))
        if isinstance(step, TensionStep) and set(r.names(step)) - seated:
            missed = sorted(set(r.names(step)) - seated)
            yield error("pulled_without_tool", ("steps", i), names=", ".join(missed))


RULES: Final[tuple[Rule, ...]] = (
    geometry,
    orders,
    coverage,
    owed,
    before_and_after,
    names,
    choices,
    stages_sit_together,
    put_right_how,
    put_right_by_pulls,
)
