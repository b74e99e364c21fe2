"""The job itself: no clock, no input or output, no framework. Events in, state out."""

CORE_VERSION = "3"
"""Version of the judgements in this package; every stored verdict names it."""
