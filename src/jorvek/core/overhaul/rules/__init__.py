"""What may happen on the engine as a whole."""
