"""Finding a plan: a constraint solver behind one function, its start, its bounds."""
