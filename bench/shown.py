"""Every odd answer to every sort of call of every shipped procedure, in every way of choosing: is all of it shown?

``./jorvek bench shown``; the tests try a sample of the same. Prints as it goes and ends with pytest's own count.
"""

from __future__ import annotations

import os
import sys

import pytest

from jorvek.settings import ROOT


def main() -> int:
    """Run the property whole."""
    os.environ["JORVEK_SHOWN_SHARE"] = "1"
    return int(pytest.main([str(ROOT / "tests" / "core" / "test_stored_is_shown.py"), "-v", "--durations=5"]))


if __name__ == "__main__":
    sys.exit(main())
