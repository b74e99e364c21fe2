"""What operators watch, counted where it happens; a scraper reads all of it in the Prometheus text format."""

from __future__ import annotations

from typing import Final

from prometheus_client import Counter, Gauge, Histogram, generate_latest

_SECONDS: Final = (0.005, 0.01, 0.025, 0.05, 0.1, 0.15, 0.25, 0.5, 1.0, 2.5, 10.0)

REQUESTS: Final = Counter("jorvek_requests", "Requests answered.", ("method", "route", "status"))
REQUEST_SECONDS: Final = Histogram("jorvek_request_seconds", "Time to the answer.", ("route",), buckets=_SECONDS)
REFUSALS: Final = Counter("jorvek_refusals", "What was asked and refused, by why.", ("code",))
EVENTS: Final = Counter("jorvek_events_stored", "Events stored by this server.", ("log",))
AGAIN: Final = Counter("jorvek_transactions_again", "Transactions done again, by why.", ("why",))
NODE_CHANGES: Final = Counter("jorvek_node_changes", "Changes to another node of the database.")
STREAMS: Final = Gauge("jorvek_streams", "Screens that follow the work now.")
SEALED_AT: Final = Gauge("jorvek_site_log_taken_in_at_seconds", "When this server last took into the site log.")


def text() -> bytes:
    """Return everything as a scraper reads it."""
    return generate_latest()
