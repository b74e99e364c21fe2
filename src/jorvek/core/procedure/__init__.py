"""The procedure document: what it says, and its fingerprint."""
