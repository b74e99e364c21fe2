"""The metal of a joint: where its parts are, what holds them, and whether a step can be done as written."""
