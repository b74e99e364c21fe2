"""What leaves on paper or as an archive."""
