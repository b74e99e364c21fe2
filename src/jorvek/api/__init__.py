"""The web: parse, permit, one call, answer."""
