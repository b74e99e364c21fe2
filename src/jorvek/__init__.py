"""Jorvek: tightening work on heavy engines, measured, reckoned and recorded."""

__version__ = "0.1.0"
