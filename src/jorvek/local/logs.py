"""How the program writes down what happens."""

from __future__ import annotations

import logging

import structlog


def structured_logs(level: str = "warning") -> None:
    """Write a JSON object a line for whatever happens, from a level on."""
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso"),
            structlog.processors.format_exc_info,
            structlog.processors.JSONRenderer(),
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.getLevelNamesMapping()[level.upper()]),
    )
