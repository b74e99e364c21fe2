"""What the check finds when one thing of a sound procedure is altered: a figure, the order, something left out.

A shipped procedure is sound, so nearly every rule is quiet about it. Here each of its figures is made smaller and
larger, each part of a list left out or put one place later, and what the check says beyond what it said before is held
against the files in ``findings``; ``python -m tests.core.test_findings_as_they_were`` writes them anew.
"""

from __future__ import annotations

import json
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
from jorvek.work.library import read_procedure
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


def findings(name: str) -> Iterator[str]:
    """What is said of every altered document beyond what is said of the sound one."""
    sound = shipped(name)
    known = set(said(sound))
    for path, how, plain in altered(sound.plain()):
        try:
            found = said(Procedure.model_validate(plain))
        except (ValidationError, Refusal) as no:
            found = [f"no procedure: {type(no).__name__}"]
        if new := [one for one in found if one not in known]:
            yield f"{'/'.join(str(one) for one in path)} {how}"
            yield from (f"    {one}" for one in new)


def of_bad() -> list[str]:
    """What is said of the draft that is wrong on purpose."""
    return said(read_procedure((ROOT / "procedures" / f"{BAD}.yaml").read_bytes()))


def test_the_bad_draft_is_told_the_same_with_the_same_figures() -> None:
    assert of_bad() == (PLACE / f"{BAD}.txt").read_text().splitlines()


@pytest.mark.parametrize("name", ALTERED)
def test_one_thing_altered_is_found_where_it_is_and_with_its_figures(name: str) -> None:
    was = (PLACE / f"{name}.txt").read_text().splitlines()
    now = list(findings(name))
    for before, after in zip(was, now, strict=False):
        assert after == before
    assert len(now) == len(was)


if __name__ == "__main__":
    PLACE.mkdir(exist_ok=True)
    (PLACE / f"{BAD}.txt").write_text("".join(f"{one}\n" for one in of_bad()))
    for each in ALTERED:
        (PLACE / f"{each}.txt").write_text("".join(f"{one}\n" for one in findings(each)))
