"""What is shown of the engine as a whole."""
