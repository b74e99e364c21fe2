"""A run as a log: events, commands, cells, and the state that events add up to."""
