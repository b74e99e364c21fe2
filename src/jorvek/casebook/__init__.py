"""Published cases with known answers, run against the core."""
