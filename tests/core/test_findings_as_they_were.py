"""What the check finds when one thing of a sound procedure is altered: a figure, the order, something left out.

A shipped procedure is sound, so nearly every rule is quiet about it. Here each of its figures is made smaller and
larger, each part of a list left out or put one place later, and what the check says beyond what it said before is held
against the files in ``findings``; ``python -m tests.core.test_findings_as_they_were`` writes them anew. Of a long
procedure some hundred alterations are tried, spread over all of it; with ``JORVEK_WHOLE=1`` every one.
"""

from __future__ import annotations

import json
import os
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from pydantic import ValidationError

from jorvek.core.procedure.document import Procedure
from jorvek.core.procedure_check import check
from jorvek.core.refusal import Refusal
from jorvek.settings import ROOT
from jorvek.work.library.revisions import read_procedure
from tests.core.paper_run import shipped

PLACE = Path(__file__).parent / "findings"
ALTERED = (
    "corvane-v10-head-tighten",
    "corvane-v10-main-loosen",
    "corvane-v10-rod-tighten",
    "tarnholt-7l34-head-loosen",
    "tarnholt-7l34-head-tighten",
    "tarnholt-7l34-liner-fit",
    "tarnholt-7l34-rod-tighten",
    "ulvane-5x46-cover-tighten",
    "ulvane-5x46-crosshead-tighten",
)
MOST = 150
"""Alterations of one procedure, spread over all of it."""
BAD = next(p.stem for p in (ROOT / "procedures").glob("*-bad.yaml"))
FIGURE = re.compile(r"(-?\d+(?:\.\d+)?)((?: \S+)?)")
WORDS = ("id", "title", "revision", "text", "words", "engine_type", "number", "name", "key")
Path_ = tuple[str | int, ...]


def scaled(text: str, times: float) -> str | None:
    """The same figure with as many decimals, larger or smaller; None where it is no figure."""
    found = FIGURE.fullmatch(text)
    if found is None:
        return None
    return f"{float(found[1]) * times:.{len(found[1].partition('.')[2])}f}{found[2]}"


def altered(thing: Any, path: Path_ = ()) -> Iterator[tuple[Path_, str, Any]]:
    """Every document that differs from this one in one thing."""
    match thing:
        case dict():
            for key, value in thing.items():
                if key not in WORDS:
                    yield from ((p, how, {**thing, key: new}) for p, how, new in altered(value, (*path, key)))
        case list():
            for i, value in enumerate(thing):
                for p, how, new in altered(value, (*path, i)):
                    yield p, how, [*thing[:i], new, *thing[i + 1 :]]
                yield (*path, i), "left out", [*thing[:i], *thing[i + 1 :]]
                if i + 1 < len(thing):
                    yield (*path, i), "later", [*thing[:i], thing[i + 1], value, *thing[i + 2 :]]
        case bool():
            yield path, "not", not thing
        case int() | float():
            for times in (0.7, 1.4):
                yield path, f"x {times}", type(thing)(thing * times)
        case str():
            for times in (0.7, 1.4):
                if (new := scaled(thing, times)) is not None:
                    yield path, f"x {times}", new


def said(procedure: Procedure) -> list[str]:
    """What the check says, a line each."""
    return [
        f"{f.severity} {f.code} @ {'/'.join(str(one) for one in f.path)} {json.dumps(f.params, sort_keys=True)}"
        for f in check(procedure)
    ]


def findings(name: str, most: int | None = None) -> Iterator[tuple[str, list[str]]]:
    """What is said of altered documents beyond what is said of the sound one."""
    sound = shipped(name)
    known, every = set(said(sound)), list(altered(sound.plain()))
    for path, how, plain in every[:: 1 if most is None else max(1, len(every) // most)]:
        try:
            found = said(Procedure.model_validate(plain))
        except (ValidationError, Refusal) as no:
            found = [f"no procedure: {type(no).__name__}"]
        yield f"{'/'.join(str(one) for one in path)} {how}", [one for one in found if one not in known]


def kept(name: str) -> dict[str, list[str]]:
    """What the file has, by alteration."""
    found: dict[str, list[str]] = {}
    for line in (PLACE / f"{name}.txt").read_text().splitlines():
        if line.startswith("    "):
            found[next(reversed(found))].append(line[4:])
        else:
            found[line] = []
    return found


def of_bad() -> list[str]:
    """What is said of the draft that is wrong on purpose."""
    return said(read_procedure((ROOT / "procedures" / f"{BAD}.yaml").read_bytes()))


def test_the_bad_draft_is_told_the_same_with_the_same_figures() -> None:
    assert of_bad() == (PLACE / f"{BAD}.txt").read_text().splitlines()


@pytest.mark.parametrize("name", ALTERED)
def test_one_thing_altered_is_found_where_it_is_and_with_its_figures(name: str) -> None:
    was, whole = kept(name), "JORVEK_WHOLE" in os.environ
    now = dict(findings(name, None if whole else MOST))
    assert {where: was.get(where, []) for where in now} == now
    assert len(now) >= 60
    if whole:
        assert set(was) <= set(now)


if __name__ == "__main__":
    PLACE.mkdir(exist_ok=True)
    (PLACE / f"{BAD}.txt").write_text("".join(f"{one}\n" for one in of_bad()))
    for each in ALTERED:
        lines = (line for where, new in findings(each) if new for line in (where, *(f"    {one}" for one in new)))
        (PLACE / f"{each}.txt").write_text("".join(f"{line}\n" for line in lines))
