"""The order of work: what is asked, what was found, whether it holds. The solver stands above, behind a function."""
