"""Starting a run, working on it, reading it, and what it means for other joints."""
