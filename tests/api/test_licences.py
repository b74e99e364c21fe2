"""Whatever is shipped goes with Apache-2.0, by its own words."""

from __future__ import annotations

import importlib.util
import sys
from email.message import Message
from types import ModuleType

import pytest

from jorvek.settings import ROOT


@pytest.fixture(scope="module")
def licences() -> ModuleType:
    spec = importlib.util.spec_from_file_location("licences", ROOT / "setup" / "licences.py")
    assert spec is not None
    assert spec.loader is not None
    module = importlib.util.module_from_spec(spec)
    sys.modules["licences"] = module
    spec.loader.exec_module(module)
    return module


@pytest.mark.parametrize(
    ("expression", "goes"),
    [
        ("MIT", True),
        ("MIT OR GPL-3.0-only", True),
        ("GPL-3.0-only OR MIT", True),
        ("MIT AND GPL-3.0-only", False),
        ("(MIT AND Zlib) OR GPL-2.0-only", True),
        ("GPL-3.0-only", False),
        ("AGPL-3.0-or-later", False),
        ("LicenseRef-Proprietary", False),
        ("mit", False),
        ("", False),
    ],
)
def test_of_alternatives_one_is_enough_and_of_parts_all_have_to_go_along(
    licences: ModuleType, expression: str, *, goes: bool
) -> None:
    assert licences.may_go_along(expression) == goes


@pytest.mark.parametrize(
    ("said", "licence"),
    [
        ({"License-Expression": "MIT-0", "License": "GPL"}, "MIT-0"),
        ({"Classifier": "License :: OSI Approved :: MIT License", "License": "see file"}, "MIT"),
        ({"License": "Apache 2.0"}, "Apache-2.0"),
        ({"License": "A licence of our own"}, "A licence of our own"),
        ({}, ""),
    ],
)
def test_a_package_is_taken_by_its_most_exact_word(licences: ModuleType, said: dict[str, str], licence: str) -> None:
    stated = Message()
    for name, value in said.items():
        stated[name] = value
    assert licences.licence_of(stated) == licence


def test_the_list_names_what_runs_and_what_is_built_into_the_pages(licences: ModuleType) -> None:
    names = {one.name for one in (*licences.python_packages(), *licences.front_end_packages())}
    assert {"fastapi", "sqlalchemy", "cryptography", "vue", "vuetify"} <= names
    assert not {"pytest", "vitest", "eslint"} & names, "what only the tests need is not shipped"
