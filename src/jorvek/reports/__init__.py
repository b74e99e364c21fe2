"""What leaves the house: PDF, CSV and JSON."""
