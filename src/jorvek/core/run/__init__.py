"""The run: events in, state out."""
