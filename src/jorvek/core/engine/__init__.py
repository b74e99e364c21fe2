"""Engines: layout, sides and the joints they have."""
