"""How often movement finds what is wrong, over simulated joints, with the populations they are drawn from.

Run with ``./jorvek bench movement``, or ``./jorvek bench movement JOINTS``.
"""

from __future__ import annotations

import sys
from collections import Counter

from tests.core.paper_run import shipped
from tests.core.twin_run import played

from jorvek.core.procedure.document import Procedure
from jorvek.core.run.log.cells import InputType
from jorvek.core.run.views.moved_as_expected import moved_as_expected
from jorvek.core.twin.seeded import USUAL_POPULATION, Fault
from jorvek.local.twin_hands import ToolFaults

HEAD, MAIN = "corvane-v10-head-tighten", "corvane-v10-main-tighten"


def with_tested_oil(name: str, lubricate: str, test: dict[str, str] | None) -> Procedure:
    """Return a shipped procedure in which the friction of one oil is tested that day, or taken from the table."""
    plain = shipped(name).plain()
    step = next(s for s in plain["steps"] if s["id"] == lubricate)
    step.pop("friction_test", None)
    if test is not None:
        step["friction_test"] = {**test, "load_cell": "load-cell", "torque_sensor": "torque-sensor"}
        issue = next(s for s in plain["steps"] if s["kind"] == "tool_issue")
        drawn = {tool["role"] for tool in issue["tools"]}
        for role, kind in (("load-cell", "bolt-load-cell"), ("torque-sensor", "torque-sensor")):
            if role not in drawn:
                issue["tools"] = [*issue["tools"], {"role": role, "tool_class": kind, "title": role}]
    return Procedure.model_validate(plain)


WAYS = (
    (HEAD, {"tool": "bar"}, "friction from the table", with_tested_oil(HEAD, "oil-long", None)),
    (HEAD, {"tool": "bar"}, "friction tested", with_tested_oil(HEAD, "oil-long", {"torque": "105 N.m"})),
    (MAIN, {"clearance": "free"}, "friction from the table", with_tested_oil(MAIN, "oil-main", None)),
    (MAIN, {"clearance": "free"}, "friction tested", with_tested_oil(MAIN, "oil-main", {"torque": "240 N.m"})),
)
CASES = (
    ("sound", frozenset[Fault](), ToolFaults()),
    ("sound, gasket", frozenset({Fault.GASKET}), ToolFaults()),
    ("one dry", frozenset({Fault.ONE_DRY}), ToolFaults()),
    ("one dry, gasket", frozenset({Fault.ONE_DRY, Fault.GASKET}), ToolFaults()),
    ("all dry", frozenset({Fault.ALL_DRY}), ToolFaults()),
    ("wrench 12 % low", frozenset[Fault](), ToolFaults(wrench=-0.12)),
    ("wrench 12 % high", frozenset[Fault](), ToolFaults(wrench=0.12)),
)


def main() -> None:
    """Play the pulls of each case and print its rates."""
    joints = int(sys.argv[1]) if len(sys.argv) > 1 else 30
    print(USUAL_POPULATION)
    for name, way, oil, procedure in WAYS:
        for words, faults, off in CASES:
            said: Counter[str] = Counter()
            found = alarms = 0
            for seed in range(joints):
                run, hands = played(procedure, way, seed, faults, off, InputType.TURN)
                judged = moved_as_expected(run.state)[0]
                odd = hands.odd[run.state.definition.procedure.fasteners[0].id]
                said[judged.verdict] += 1
                found += odd in judged.little
                named = set(judged.little + judged.much) - ({odd} if Fault.ONE_DRY in faults else set())
                alarms += bool(named)
            rates = ", ".join(f"{word} {100 * n / joints:.0f} %" for word, n in said.most_common())
            print(
                f"{name}, {oil}: {words}: {rates}; the odd one named {100 * found / joints:.0f} %, "
                f"joints with a false name {100 * alarms / joints:.1f} %",
                flush=True,
            )


if __name__ == "__main__":
    main()
