"""How often what is wrong is named, what is sound is not, and the truth lies within what is stated.

Run with ``./jorvek bench rates``, or ``./jorvek bench rates JOINTS [WORDS]``: WORDS picks the lines that hold them. The
joints are those of ``tests/population.py``, which shares no code with the simulated joint of the product.
"""

from __future__ import annotations

import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field

import numpy as np
from tests.core.paper_run import shipped
from tests.core.twin_named import said_of
from tests.population import HEALTHY, Case, drawn, interval, resampled

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.views.estimate import estimate
from jorvek.core.run.views.moved_as_expected import moved_as_expected

HEAD, MAIN, ROD = "corvane-v10-head-tighten", "corvane-v10-main-tighten", "corvane-v10-rod-tighten"
WAY: dict[str, dict[str, str]] = {HEAD: {"tool": "bar"}, MAIN: {"clearance": "free"}, ROD: {}}
OILED = {HEAD: "oil-long", MAIN: "oil-main", ROD: "oil-rod"}
TESTED_NM = {HEAD: 105, MAIN: 240, ROD: 120}


def with_bolts_tested(name: str, bolts: int) -> Procedure:
    """Return a shipped procedure that tests the friction of so many bolts that day, or takes it from the table."""
    plain = shipped(name).plain()
    oil = next(s for s in plain["steps"] if s["kind"] == "lubricate" and s.get("group") == plain["fasteners"][0]["id"])
    oil.pop("friction_test", None)
    if bolts:
        test = {"torque": f"{TESTED_NM[name]} N.m", "load_cell": "load-cell", "torque_sensor": "torque-sensor"}
        oil["friction_test"] = {**test, "bolts": bolts}
        issue = next(s for s in plain["steps"] if s["kind"] == "tool_issue")
        drawn_already = {tool["role"] for tool in issue["tools"]}
        for role, kind in (("load-cell", "bolt-load-cell"), ("torque-sensor", "torque-sensor")):
            if role not in drawn_already:
                issue["tools"] = [*issue["tools"], {"role": role, "tool_class": kind, "title": role}]
    return Procedure.model_validate(plain)


CASES = {
    "healthy": HEALTHY,
    "healthy, gasket seats": Case(gasket_deg=(20.0, 5.0)),
    "one dry": Case(one_dry=1.6),
    "one dry, gasket seats": Case(one_dry=1.6, gasket_deg=(20.0, 5.0)),
    "all dry": Case(all_dry=1.6),
    "wrench 12 % low": Case(wrench=-0.12),
    "wrench 12 % high": Case(wrench=0.12),
    "soft: yield 0.7": Case(soft_yield=0.7),
    "soft: stiffness 0.8": Case(soft_stiffness=0.8),
}


@dataclass
class Seen:
    """What was said of the joints of one line."""

    odd_named: list[bool] = field(default_factory=list)
    named_falsely: list[bool] = field(default_factory=list)
    tool_named: list[bool] = field(default_factory=list)
    said: Counter[str] = field(default_factory=Counter)
    inside: list[tuple[int, int]] = field(default_factory=list)
    width: list[float] = field(default_factory=list)


def one(job: tuple[str, int, str, int]) -> tuple[bool, bool, str, tuple[int, int], list[float]]:
    """Draw one joint, and return what is said of it."""
    name, bolts, words, seed = job
    case = CASES[words]
    run, hands = drawn(with_bolts_tested_once(name, bolts), WAY[name], seed, case)
    first = run.state.definition.procedure.fasteners[0].id
    judged = moved_as_expected(run.state)
    named = {n for one in judged for n in (*one.little, *one.much)}
    named |= {n for n in run.state.definition.groups if said_of(run.state, n) - {"moved"}}
    sown = case.one_dry != 1.0 or case.soft_yield != 1.0 or case.soft_stiffness != 1.0
    odd = {g.odd for g in hands.groups.values()} if sown else set[str]()
    inside, whole, width = 0, 0, list[float]()
    for group in hands.groups.values():
        for k, fastener in enumerate(group.names):
            held = estimate(run.state, fastener)
            if held is not None and held.F_N is not None and held.u_N is not None:
                whole += 1
                inside += bool(abs(held.F_N - group.load_N[k]) <= 2.0 * held.u_N)
                width.append(200.0 * held.u_N / held.F_N)
    return (
        hands.groups[first].odd in named,
        bool(named - odd),
        judged[0].verdict if judged else "stopped",
        (inside, whole),
        width,
    )


_MADE: dict[tuple[str, int], Procedure] = {}


def with_bolts_tested_once(name: str, bolts: int) -> Procedure:
    """Return the procedure of a line, made once."""
    return _MADE.setdefault((name, bolts), with_bolts_tested(name, bolts))


def line(pool: ProcessPoolExecutor, name: str, bolts: int, words: str, joints: int) -> str:
    """Return one line of the table."""
    seen = Seen()
    for odd, falsely, verdict, inside, width in pool.map(
        one, [(name, bolts, words, k) for k in range(joints)], chunksize=4
    ):
        seen.odd_named.append(odd)
        seen.named_falsely.append(falsely)
        seen.tool_named.append(verdict in ("too_little", "too_much"))
        seen.said[verdict] += 1
        seen.inside.append(inside)
        seen.width += width
    whole = resampled([x for x in seen.inside if x[1]], np.random.default_rng(1))
    shares = [("odd named", seen.odd_named), ("false name", seen.named_falsely), ("tool named", seen.tool_named)]
    told = "; ".join(
        f"{what} {p:.1f} ({low:.1f} to {high:.1f}) %" for what, hits in shares for p, low, high in (interval(hits),)
    )
    words_said = ", ".join(f"{word} {100 * n / joints:.0f} %" for word, n in seen.said.most_common())
    return (
        f"{name.split('-')[2]:5} {bolts} tested  {words:22} {told}; {words_said}; within ± "
        f"{whole[0]:.1f} ({whole[1]:.1f} to {whole[2]:.1f}) %, ± {float(np.median(seen.width)):.1f} %"
    )


def main() -> None:
    """Draw the joints of each line and print its rates."""
    joints = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    wanted = sys.argv[2] if len(sys.argv) > 2 else ""
    print(f"{joints} joints a line, seeds 0 to {joints - 1}; in brackets where 95 % of such samples have the truth")
    with ProcessPoolExecutor(2) as pool:
        for name in (MAIN, ROD, HEAD):
            for bolts in (0, 1, 3):
                for words in CASES:
                    if wanted in f"{name} {bolts} tested {words}":
                        print(line(pool, name, bolts, words, joints), flush=True)


if __name__ == "__main__":
    main()
