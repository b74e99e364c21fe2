"""Documents on disk: read with line numbers, written back."""
