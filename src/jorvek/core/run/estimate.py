"""What each fastener holds, from all evidence of the run's last release."""

from __future__ import annotations

from jorvek.core.measuring.evidence import ClampEstimate, Evidence, EvidenceKind, combine_evidence
from jorvek.core.measuring.uncertainty import USUAL, u_preload_elongation, u_preload_hydraulic
from jorvek.core.run.state import Attempt, RunState

_MOMENT = "after the last release"
_TEMPERATURE_DOUBT_K = 0.5
"""Standard uncertainty of the difference of two metal temperatures read with one probe."""


def _last(state: RunState, kind: str, fastener: str) -> Attempt | None:
    """Return the newest live reading of a kind of step that speaks for a fastener's load."""
    cells = [c for c in state.definition.cells if c.kind == kind and state.definition.speaks_for(c, fastener)]
    live = [state.live(c.key) for c in cells]
    loaded = [a for a in live if a is not None and a.judgement.clamp_kN is not None]
    return max(loaded, key=lambda a: a.seq, default=None)


def _by_pressure(state: RunState, attempt: Attempt) -> Evidence | None:
    pressure = attempt.judgement.corrected
    if not pressure:
        return None
    model = state.definition.clamp_of(state.definition.by_key[attempt.cell])
    ratio = model.residual_N(pressure) / model.tool_load_N(pressure)
    doubt = u_preload_hydraulic(
        pressure,
        model.area_mm2,
        model.elements,
        model.eta,
        min(1.0, ratio),
        (attempt.judgement.uncertainty or 0.0) / 2.0,
        USUAL.area,
        USUAL.efficiency,
        USUAL.transfer,
    )
    load = model.residual_N(pressure)
    return Evidence(EvidenceKind.PRESSURE, load, doubt.u_rel * load, _MOMENT)


def _by_stretch(state: RunState, attempt: Attempt, fastener: str) -> Evidence | None:
    stretch = attempt.judgement.judged
    if not stretch or stretch <= 0.0:
        return None
    doubt = u_preload_elongation(
        stretch,
        state.definition.model_of(fastener).delta_own,
        # U belongs to the stretch, which is the difference of two readings.
        (attempt.judgement.uncertainty or 0.0) / 2.0 / 2.0**0.5,
        _TEMPERATURE_DOUBT_K,
        state.definition.procedure.group_of(fastener).free_length.value,
        USUAL.stiffness,
    )
    return Evidence(EvidenceKind.STRETCH, doubt.F_N, doubt.u_rel * doubt.F_N, _MOMENT)


def estimate(state: RunState, fastener: str) -> ClampEstimate | None:
    """Return the load that pressure and stretch together speak for, or that they disagree.

    Args:
        state: the run.
        fastener: name on the metal.

    Returns:
        The estimate; None while nothing speaks for a load.
    """
    pressed, stretched = _last(state, "tension", fastener), _last(state, "stretch", fastener)
    pieces = [_by_pressure(state, pressed)] if pressed is not None else []
    # A stretch read before the last pressure belongs to another moment.
    if stretched is not None and (pressed is None or stretched.seq > pressed.seq):
        pieces.append(_by_stretch(state, stretched, fastener))
    found = [piece for piece in pieces if piece is not None]
    return combine_evidence(found) if found else None
