"""What an overhaul remembers, and what that adds up to."""
