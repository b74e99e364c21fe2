"""Procedures, engine sheets and the Reckoner's questions."""
