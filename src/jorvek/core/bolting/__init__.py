"""Bolting mechanics: one formula, one function."""
