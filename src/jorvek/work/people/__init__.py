"""People, PINs and sessions."""
