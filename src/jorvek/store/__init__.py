"""The database: the only place that knows SQL."""
