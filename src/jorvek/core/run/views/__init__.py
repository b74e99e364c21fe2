"""What is shown of a run: calls, Bench, record, hand-over, work sheet."""
